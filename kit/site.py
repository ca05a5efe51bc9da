"""A site that is sent its menus: the site's side of the site protocol as a WSGI application, without dependencies.

    SIGN_SHELF_SECRET=whsec_… MENUS=menus.json python3 site.py 8600

Copy it into a site of your own: `application` answers under /.well-known/sign-shelf and /sign-shelf/menus, `navigation` writes a menu as
HTML. What it keeps stands in one file. See docs/site-protocol.md.
"""

import base64
import hashlib
import hmac
import html
import json
import os
import sys
import threading
import time
from wsgiref.simple_server import make_server

NAME = os.environ.get("SITE_NAME", "A site in Python")
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
PLACED = "application/vnd.sign-shelf.placed-menu+json"
FILE = os.environ.get("MENUS", "menus.json")
KEY = base64.b64decode(os.environ["SIGN_SHELF_SECRET"].removeprefix("whsec_"))
LOCK = threading.Lock()


def kept():
    """What hangs in each slot, as it was sent, and the first answers by their keys."""
    try:
        with open(FILE, encoding="utf-8") as file:
            return json.load(file)
    except FileNotFoundError:
        return {"slots": {}, "answers": {}}


def keep(all_of_it):
    with open(f"{FILE}.new", "w", encoding="utf-8") as file:
        json.dump(all_of_it, file)
        file.flush()
        os.fsync(file.fileno())
    os.replace(f"{FILE}.new", FILE)


def etag(text):
    return f'"{hashlib.sha256(text.encode()).hexdigest()[:32]}"'


def signed(headers, body):
    """By the Standard Webhooks scheme: any of the signatures, over id, time and body, not older than five minutes."""
    try:
        if abs(time.time() - int(headers["webhook-timestamp"])) > 300:
            return False
        over = f"{headers['webhook-id']}.{headers['webhook-timestamp']}.{body}".encode()
    except (KeyError, ValueError):
        return False
    right = base64.b64encode(hmac.new(KEY, over, hashlib.sha256).digest()).decode()
    given = [one.partition(",")[2] for one in headers.get("webhook-signature", "").split()]
    return any(hmac.compare_digest(right, one) for one in given)


def depth(items):
    return 1 + max((depth(item.get("items", [])) for item in items), default=0) if items else 0


def write(location, device, headers, body):
    """Status, text of the answer, entity tag."""
    if not signed(headers, body):
        return 401, "The signature does not hold.", None
    place = next((one for one in TEMPLATE["locations"] if one["key"] == location and device in one["devices"]), None)
    if place is None:
        return 404, f"This site has no {location} for {device}.", None
    key = headers.get("idempotency-key", "")
    if not key:
        return 400, "The header Idempotency-Key is missing.", None
    with LOCK:
        there = kept()
        mark = hashlib.sha256(body.encode()).hexdigest()
        if key in there["answers"]:
            first = there["answers"][key]
            if first["mark"] != mark:
                return 422, "This Idempotency-Key came with another body before.", None
            return first["status"], "The menu hangs.", first["etag"]
        try:
            placed = json.loads(body)
            right = placed["format"] == "sign-shelf/placed-menu" and placed["version"] == 1
            right = right and (placed["location"], placed["device"]) == (location, device)
            right = right and depth(placed["menu"].get("items", [])) <= place["depth"]
        except (ValueError, KeyError, TypeError, AttributeError):
            right = False
        if not right:
            return 422, "This is no placed menu that this slot can show.", None
        slot = f"{location}/{device}"
        has = there["slots"].get(slot)
        if_match, if_none = headers.get("if-match"), headers.get("if-none-match")
        if not if_match and if_none != "*":
            return 428, "If-Match is missing, or If-None-Match: * for an empty slot.", None
        if (if_match and (has is None or etag(has) != if_match)) or (if_none == "*" and has is not None):
            return 412, "What hangs here is not what the request expects.", None
        status = 200 if has is not None else 201
        there["slots"][slot] = body
        there["answers"][key] = {"mark": mark, "status": status, "etag": etag(body)}
        keep(there)
        return status, "The menu hangs.", etag(body)


def navigation(location, device):
    """What hangs there as HTML, as a visitor of whom nothing is known gets it: entries with a rule are left out."""
    text = kept()["slots"].get(f"{location}/{device}")
    if text is None:
        return ""
    placed = json.loads(text)
    pages, now = placed.get("pages", {}), time.strftime("%Y-%m-%dT%H:%M")

    def entry(item):
        if "when" in item or item.get("from", "") > now or item.get("until", "9") <= now:
            return ""
        target = item.get("target", {})
        page = pages.get(target.get("page"), {})
        label = item.get("label", {}).get(LANGUAGE) or next(iter(item.get("label", page.get("title", {})).values()), "")
        part = f"#{target['part']}" if "part" in target else ""
        href = target.get("url") or (f"{page['path']}{part}" if page else None)
        href = href or (f"mailto:{target['email']}" if "email" in target else None)
        words = html.escape(label)
        shown = f'<a href="{html.escape(href)}">{words}</a>' if href else f"<span>{words}</span>" if words else ""
        return f"<li>{shown}{entries(item.get('items', []))}</li>" if shown else ""

    def entries(items):
        rows = "".join(map(entry, items))
        return f"<ul>{rows}</ul>" if rows else ""

    return f'<nav aria-label="{html.escape(placed["menu"]["name"])}">{entries(placed["menu"].get("items", []))}</nav>'


def application(environ, start_response):
    path, method = environ["PATH_INFO"], environ["REQUEST_METHOD"]
    headers = {name[5:].lower().replace("_", "-"): value for name, value in environ.items() if name.startswith("HTTP_")}

    def answer(status, text, kind="application/json", **more):
        body = text.encode()
        told = [("Content-Type", kind), ("Content-Length", str(len(body)))]
        start_response(f"{status} Answer", told + [(name.replace("_", "-"), value) for name, value in more.items()])
        return [body]

    def problem(status, says):
        return answer(status, json.dumps({"title": "Refused", "status": status, "detail": says}), "application/problem+json")

    if path == "/.well-known/sign-shelf":
        return answer(200, json.dumps({
            "protocol": "sign-shelf/site", "version": 1, "name": NAME, "languages": [LANGUAGE], "menus": "/sign-shelf/menus",
            "signing": "standard-webhooks", "facts": [], "shows": [], "template": TEMPLATE,
        }))
    if path.startswith("/sign-shelf/menus/") and path.count("/") == 4:
        location, device = path.split("/")[3:]
        if method == "PUT":
            body = environ["wsgi.input"].read(int(environ.get("CONTENT_LENGTH") or 0)).decode("utf-8", "replace")
            status, says, tag = write(location, device, headers, body)
            return answer(status, json.dumps({"says": says}), ETag=tag) if tag else problem(status, says)
        text = kept()["slots"].get(f"{location}/{device}")
        if text is None:
            return problem(404, f"Nothing hangs in {location} for {device}.")
        if headers.get("if-none-match") == etag(text):
            return answer(304, "", ETag=etag(text))
        return answer(200, text, PLACED, ETag=etag(text))
    if path == "/":
        page = f"<header>{navigation('header', 'desktop')}</header><main><h1>{NAME}</h1></main>"
        return answer(200, f"<!doctype html><html lang={LANGUAGE}><title>{NAME}</title>{page}"
                           f"<footer>{navigation('footer', 'desktop')}</footer></html>", "text/html; charset=utf-8")
    return problem(404, "There is no such page.")


if __name__ == "__main__":
    make_server("127.0.0.1", int(sys.argv[1] if len(sys.argv) > 1 else 8600), application).serve_forever()
