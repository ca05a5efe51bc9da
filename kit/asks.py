"""A site that asks for its menus, as a WSGI application without dependencies: it keeps what it was given, and asks again once it is told.

    SIGN_SHELF=https://shelf.example/live/brackwater SIGN_SHELF_KEY=… SIGN_SHELF_SECRET=whsec_… python3 asks.py 8600

The key is the site's delivery key, the secret its signing key. Copy it into a site of your own: `navigation` gives a menu as HTML, `application`
answers under /.well-known/sign-shelf and takes pings. See docs/delivery.md.
"""

import base64
import hashlib
import hmac
import json
import os
import re
import sys
import time
import urllib.error
import urllib.parse
import urllib.request
from wsgiref.simple_server import make_server

SHELF = os.environ["SIGN_SHELF"].rstrip("/")
NAME = os.environ.get("SITE_NAME", "A site in Python that asks")
LANGUAGE = "en"
TEMPLATE = {
    "key": "plain",
    "title": "Plain",
    "devices": {"phone": [0, 767], "desktop": [768, None]},
    "locations": [
        {"key": "header", "title": "Header", "shape": "bar", "depth": 2, "devices": ["phone", "desktop"]},
        {"key": "footer", "title": "Footer", "shape": "line", "depth": 1, "devices": ["phone", "desktop"]},
    ],
}
SECRET = base64.b64decode(os.environ["SIGN_SHELF_SECRET"].removeprefix("whsec_"))
#: What was given, by what was asked for: until when it holds, its entity tag, the HTML.
KEPT = {}


def navigation(location, device, page, facts=""):
    """The menu as HTML. What holds for one visitor alone is not kept; where the shelf is away, what it gave last counts."""
    asked = {"device": device, "language": LANGUAGE, "page": page} | ({"facts": facts} if facts else {})
    address = f"{SHELF}/{location}?{urllib.parse.urlencode(asked)}"
    until, tag, text = KEPT.get(address, (0.0, "", ""))
    if time.monotonic() < until:
        return text
    headers = {"authorization": f"Bearer {os.environ['SIGN_SHELF_KEY']}", "accept": "text/html"}
    request = urllib.request.Request(address, headers=headers | ({"if-none-match": tag} if tag else {}))
    try:
        with urllib.request.urlopen(request, timeout=5) as answer:
            tag, text, told = answer.headers["etag"], answer.read().decode(), answer.headers["cache-control"]
    except urllib.error.HTTPError as other:
        if other.code != 304:
            return text
        told = other.headers["cache-control"]
    except OSError:
        return text
    age = re.search(r"max-age=(\d+)", told or "")
    if not facts:
        KEPT[address] = (time.monotonic() + (int(age[1]) if age else 0), tag, text)
    return text


def told(headers, body):
    """Whether somebody with the signing key says so (Standard Webhooks), not longer than five minutes ago."""
    try:
        if abs(time.time() - int(headers["webhook-timestamp"])) > 300:
            return False
        over = f"{headers['webhook-id']}.{headers['webhook-timestamp']}.{body}".encode()
    except (KeyError, ValueError):
        return False
    right = base64.b64encode(hmac.new(SECRET, over, hashlib.sha256).digest()).decode()
    given = [one.partition(",")[2] for one in headers.get("webhook-signature", "").split()]
    return any(hmac.compare_digest(right, one) for one in given)


def application(environ, start_response):
    path, method = environ["PATH_INFO"], environ["REQUEST_METHOD"]
    headers = {name[5:].lower().replace("_", "-"): value for name, value in environ.items() if name.startswith("HTTP_")}

    def answer(status, text, kind="application/json"):
        body = text.encode()
        start_response(f"{status} Answer", [("Content-Type", kind), ("Content-Length", str(len(body))), ("Vary", "Sec-CH-UA-Mobile")])
        return [body]

    if path == "/.well-known/sign-shelf":
        return answer(200, json.dumps({
            "protocol": "sign-shelf/site", "version": 1, "name": NAME, "languages": [LANGUAGE], "menus": "/sign-shelf/menus",
            "asks": True, "ping": "/menus/changed", "vouched": True, "facts": [], "shows": [], "template": TEMPLATE,
        }))
    if path.startswith("/sign-shelf/menus/"):
        return answer(404, "{}") if method == "GET" else answer(405, '{"detail": "This site asks for its menus."}')
    if path == "/menus/changed" and method == "POST":
        body = environ["wsgi.input"].read(int(environ.get("CONTENT_LENGTH") or 0)).decode("utf-8", "replace")
        if not told(headers, body):
            return answer(401, "{}")
        for address, (_, tag, text) in list(KEPT.items()):
            KEPT[address] = (0.0, tag, text)
        return answer(204, "")
    if path == "/":
        device = "phone" if headers.get("sec-ch-ua-mobile") == "?1" else "desktop"
        places = [navigation(location, device, path, headers.get("sign-shelf-facts", "")) for location in ("header", "footer")]
        return answer(200, f"<!doctype html><html lang={LANGUAGE}><title>{NAME}</title><header>{places[0]}</header>"
                           f"<main><h1>{NAME}</h1></main><footer>{places[1]}</footer></html>", "text/html; charset=utf-8")
    return answer(404, "{}")


if __name__ == "__main__":
    make_server("127.0.0.1", int(sys.argv[1] if len(sys.argv) > 1 else 8600), application).serve_forever()
