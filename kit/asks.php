<?php
// A site that asks for its menus, in PHP without dependencies: it keeps what it was given, and asks again once it is told.
//
//     SIGN_SHELF=https://shelf.example/live/brackwater SIGN_SHELF_KEY=… SIGN_SHELF_SECRET=whsec_… php -S 127.0.0.1:8600 asks.php
//
// The key is the site's delivery key, the secret its signing key. Copy it into a site of your own: `navigation` gives a menu as HTML,
// `answer_request` answers under /.well-known/sign-shelf and takes pings. What it keeps stands in the folder MENUS. See docs/delivery.md.
declare(strict_types=1);

const LANGUAGE = 'en';
const TEMPLATE = [
    'key' => 'plain', 'title' => 'Plain', 'devices' => ['phone' => [0, 767], 'desktop' => [768, null]],
    'locations' => [
        ['key' => 'header', 'title' => 'Header', 'shape' => 'bar', 'depth' => 2, 'devices' => ['phone', 'desktop']],
        ['key' => 'footer', 'title' => 'Footer', 'shape' => 'line', 'depth' => 1, 'devices' => ['phone', 'desktop']],
    ],
];
define('NAME', getenv('SITE_NAME') ?: 'A site in PHP that asks');
define('FOLDER', getenv('MENUS') ?: 'menus');

function given(string $name): string
{
    return $_SERVER['HTTP_' . strtoupper(str_replace('-', '_', $name))] ?? '';
}

/** The menu as HTML. What holds for one visitor alone is not kept; where the shelf is away, what it gave last counts. */
function navigation(string $location, string $device, string $page, string $facts): string
{
    $asked = ['device' => $device, 'language' => LANGUAGE, 'page' => $page] + ($facts === '' ? [] : ['facts' => $facts]);
    $address = rtrim(getenv('SIGN_SHELF'), '/') . "/$location?" . http_build_query($asked);
    $file = FOLDER . '/' . hash('sha256', $address) . '.json';
    $has = is_file($file) ? json_decode(file_get_contents($file), true) : ['until' => 0, 'tag' => '', 'text' => ''];
    if (time() < $has['until']) {
        return $has['text'];
    }
    $headers = ['Authorization: Bearer ' . getenv('SIGN_SHELF_KEY'), 'Accept: text/html'];
    $headers[] = $has['tag'] === '' ? 'Cache-Control: no-cache' : "If-None-Match: {$has['tag']}";
    $way = stream_context_create(['http' => ['header' => $headers, 'timeout' => 5, 'ignore_errors' => true]]);
    $text = @file_get_contents($address, false, $way);
    $lines = $http_response_header ?? [];
    $status = (int) (explode(' ', $lines[0] ?? '')[1] ?? 0);
    if ($text === false || ($status !== 200 && $status !== 304)) {
        return $has['text'];
    }
    $told = implode("\n", $lines);
    $has = [
        'until' => time() + (preg_match('/max-age=(\d+)/', $told, $age) ? (int) $age[1] : 0),
        'tag' => preg_match('/^etag: *(\S+)/mi', $told, $tag) ? $tag[1] : $has['tag'],
        'text' => $status === 304 ? $has['text'] : $text,
    ];
    if ($facts === '') {
        is_dir(FOLDER) || mkdir(FOLDER);
        file_put_contents("$file.new", json_encode($has), LOCK_EX);
        rename("$file.new", $file);
    }
    return $has['text'];
}

/** Whether somebody with the signing key says so (Standard Webhooks), not longer than five minutes ago. */
function told(string $body): bool
{
    $at = given('webhook-timestamp');
    if (!ctype_digit($at) || abs(time() - (int) $at) > 300) {
        return false;
    }
    $key = base64_decode(substr(getenv('SIGN_SHELF_SECRET'), strlen('whsec_')));
    $right = base64_encode(hash_hmac('sha256', given('webhook-id') . ".$at.$body", $key, true));
    foreach (explode(' ', given('webhook-signature')) as $one) {
        if (hash_equals($right, explode(',', $one, 2)[1] ?? '')) {
            return true;
        }
    }
    return false;
}

function answer(int $status, string $text, string $kind = 'application/json'): void
{
    http_response_code($status);
    header("Content-Type: $kind");
    header('Vary: Sec-CH-UA-Mobile');
    echo $text;
}

function answer_request(string $path, string $method): void
{
    if ($path === '/.well-known/sign-shelf') {
        answer(200, json_encode([
            'protocol' => 'sign-shelf/site', 'version' => 1, 'name' => NAME, 'languages' => [LANGUAGE], 'menus' => '/sign-shelf/menus',
            'asks' => true, 'ping' => '/menus/changed', 'vouched' => true, 'facts' => [], 'shows' => [], 'template' => TEMPLATE,
        ]));
    } elseif (str_starts_with($path, '/sign-shelf/menus/')) {
        $method === 'GET' ? answer(404, '{}') : answer(405, '{"detail": "This site asks for its menus."}');
    } elseif ($path === '/menus/changed' && $method === 'POST') {
        if (!told(file_get_contents('php://input'))) {
            answer(401, '{}');
            return;
        }
        foreach (glob(FOLDER . '/*.json') as $file) {
            file_put_contents($file, json_encode(['until' => 0] + json_decode(file_get_contents($file), true)), LOCK_EX);
        }
        http_response_code(204);
    } elseif ($path === '/') {
        $device = given('sec-ch-ua-mobile') === '?1' ? 'phone' : 'desktop';
        [$header, $footer] = array_map(
            fn ($location) => navigation($location, $device, $path, given('sign-shelf-facts')), ['header', 'footer']
        );
        answer(200, '<!doctype html><html lang=' . LANGUAGE . '><title>' . NAME . "</title><header>$header</header><main><h1>"
            . NAME . "</h1></main><footer>$footer</footer></html>", 'text/html; charset=utf-8');
    } else {
        answer(404, '{}');
    }
}

answer_request(parse_url($_SERVER['REQUEST_URI'], PHP_URL_PATH), $_SERVER['REQUEST_METHOD']);
