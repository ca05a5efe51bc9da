<?php
// A site that is sent its menus: the site's side of the site protocol in PHP, without dependencies.
//
//     SIGN_SHELF_SECRET=whsec_… MENUS=menus.json php -S 127.0.0.1:8600 site.php
//
// Copy it into a site of your own: `answer_request` answers under /.well-known/sign-shelf and /sign-shelf/menus, `navigation` writes a menu as
// HTML. What it keeps stands in one file. See docs/site-protocol.md.
declare(strict_types=1);

const LANGUAGE = 'en';
const PLACED = 'application/vnd.sign-shelf.placed-menu+json';
const TEMPLATE = [
    'key' => 'plain', 'title' => 'Plain', 'devices' => ['phone' => [0, 767], 'desktop' => [768, null]],
    'locations' => [
        ['key' => 'header', 'title' => 'Header', 'shape' => 'bar', 'depth' => 2, 'devices' => ['phone', 'desktop']],
        ['key' => 'footer', 'title' => 'Footer', 'shape' => 'line', 'depth' => 1, 'devices' => ['phone', 'desktop']],
    ],
];
define('NAME', getenv('SITE_NAME') ?: 'A site in PHP');
define('FILE', getenv('MENUS') ?: 'menus.json');

/** What hangs in each slot, as it was sent, and the first answers by their keys. */
function kept(): array
{
    return is_file(FILE) ? json_decode(file_get_contents(FILE), true) : ['slots' => [], 'answers' => []];
}

function keep(array $all): void
{
    file_put_contents(FILE . '.new', json_encode($all), LOCK_EX);
    rename(FILE . '.new', FILE);
}

function etag(string $text): string
{
    return '"' . substr(hash('sha256', $text), 0, 32) . '"';
}

function given(string $name): string
{
    return $_SERVER['HTTP_' . strtoupper(str_replace('-', '_', $name))] ?? '';
}

/** By the Standard Webhooks scheme: any of the signatures, over id, time and body, not older than five minutes. */
function signed(string $body): bool
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

function depth(array $items): int
{
    return $items ? 1 + max(array_map(fn ($item) => depth($item['items'] ?? []), $items)) : 0;
}

/** Status, what it says, entity tag. */
function write(string $location, string $device, string $body): array
{
    if (!signed($body)) {
        return [401, 'The signature does not hold.', null];
    }
    $fits = fn ($one) => $one['key'] === $location && in_array($device, $one['devices'], true);
    $place = current(array_filter(TEMPLATE['locations'], $fits));
    if (!$place) {
        return [404, "This site has no $location for $device.", null];
    }
    $key = given('idempotency-key');
    if ($key === '') {
        return [400, 'The header Idempotency-Key is missing.', null];
    }
    $lock = fopen(FILE . '.lock', 'c');
    flock($lock, LOCK_EX);
    $there = kept();
    $mark = hash('sha256', $body);
    if (isset($there['answers'][$key])) {
        $first = $there['answers'][$key];
        return $first['mark'] === $mark
            ? [$first['status'], 'The menu hangs.', $first['etag']]
            : [422, 'This Idempotency-Key came with another body before.', null];
    }
    $placed = json_decode($body, true);
    $right = is_array($placed) && ($placed['format'] ?? '') === 'sign-shelf/placed-menu' && ($placed['version'] ?? 0) === 1
        && ($placed['location'] ?? '') === $location && ($placed['device'] ?? '') === $device
        && is_array($placed['menu'] ?? null) && depth($placed['menu']['items'] ?? []) <= $place['depth'];
    if (!$right) {
        return [422, 'This is no placed menu that this slot can show.', null];
    }
    $has = $there['slots']["$location/$device"] ?? null;
    [$match, $none] = [given('if-match'), given('if-none-match')];
    if ($match === '' && $none !== '*') {
        return [428, 'If-Match is missing, or If-None-Match: * for an empty slot.', null];
    }
    if (($match !== '' && ($has === null || etag($has) !== $match)) || ($none === '*' && $has !== null)) {
        return [412, 'What hangs here is not what the request expects.', null];
    }
    $status = $has === null ? 201 : 200;
    $there['slots']["$location/$device"] = $body;
    $there['answers'][$key] = ['mark' => $mark, 'status' => $status, 'etag' => etag($body)];
    keep($there);
    return [$status, 'The menu hangs.', etag($body)];
}

/** What hangs there as HTML, as a visitor of whom nothing is known gets it: entries with a rule are left out. */
function navigation(string $location, string $device): string
{
    $text = kept()['slots']["$location/$device"] ?? null;
    if ($text === null) {
        return '';
    }
    $placed = json_decode($text, true);
    $name = htmlspecialchars($placed['menu']['name']);
    return "<nav aria-label=\"$name\">" . entries($placed['menu']['items'] ?? [], $placed['pages'] ?? []) . '</nav>';
}

function entries(array $items, array $pages): string
{
    $rows = implode('', array_map(fn ($item) => entry($item, $pages), $items));
    return $rows === '' ? '' : "<ul>$rows</ul>";
}

function entry(array $item, array $pages): string
{
    $now = date('Y-m-d\TH:i');
    if (isset($item['when']) || ($item['from'] ?? '') > $now || ($item['until'] ?? '9') <= $now) {
        return '';
    }
    $target = $item['target'] ?? [];
    $page = $pages[$target['page'] ?? ''] ?? null;
    $labels = $item['label'] ?? $page['title'] ?? [];
    $words = htmlspecialchars($labels[LANGUAGE] ?? (reset($labels) ?: ''));
    $part = isset($target['part']) ? "#{$target['part']}" : '';
    $href = $target['url'] ?? ($page ? $page['path'] . $part : (isset($target['email']) ? "mailto:{$target['email']}" : null));
    $shown = $href !== null ? '<a href="' . htmlspecialchars($href) . "\">$words</a>" : ($words === '' ? '' : "<span>$words</span>");
    return $shown === '' ? '' : "<li>$shown" . entries($item['items'] ?? [], $pages) . '</li>';
}

function answer(int $status, string $text, string $kind = 'application/json', ?string $etag = null): void
{
    http_response_code($status);
    header("Content-Type: $kind");
    if ($etag !== null) {
        header("ETag: $etag");
    }
    echo $text;
}

function problem(int $status, string $says): void
{
    answer($status, json_encode(['title' => 'Refused', 'status' => $status, 'detail' => $says]), 'application/problem+json');
}

function answer_request(string $path, string $method): void
{
    if ($path === '/.well-known/sign-shelf') {
        answer(200, json_encode([
            'protocol' => 'sign-shelf/site', 'version' => 1, 'name' => NAME, 'languages' => [LANGUAGE],
            'menus' => '/sign-shelf/menus', 'signing' => 'standard-webhooks', 'facts' => [], 'shows' => [], 'template' => TEMPLATE,
        ]));
    } elseif (preg_match('#^/sign-shelf/menus/([^/]+)/([^/]+)$#', $path, $slot)) {
        if ($method === 'PUT') {
            [$status, $says, $etag] = write($slot[1], $slot[2], file_get_contents('php://input'));
            $etag !== null ? answer($status, json_encode(['says' => $says]), 'application/json', $etag) : problem($status, $says);
            return;
        }
        $text = kept()['slots']["$slot[1]/$slot[2]"] ?? null;
        if ($text === null) {
            problem(404, "Nothing hangs in $slot[1] for $slot[2].");
        } elseif (given('if-none-match') === etag($text)) {
            answer(304, '', PLACED, etag($text));
        } else {
            answer(200, $text, PLACED, etag($text));
        }
    } elseif ($path === '/') {
        $page = '<header>' . navigation('header', 'desktop') . '</header><main><h1>' . NAME . '</h1></main>';
        answer(200, '<!doctype html><html lang=' . LANGUAGE . '><title>' . NAME . "</title>$page<footer>"
            . navigation('footer', 'desktop') . '</footer></html>', 'text/html; charset=utf-8');
    } else {
        problem(404, 'There is no such page.');
    }
}

answer_request(parse_url($_SERVER['REQUEST_URI'], PHP_URL_PATH), $_SERVER['REQUEST_METHOD']);
