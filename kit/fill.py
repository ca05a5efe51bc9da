"""Fills the navigations of a static site when it is built: each <nav data-sign-shelf="header"> of its pages gets the menu that hangs there.

    SIGN_SHELF_KEY=… python3 fill.py https://shelf.example/live/brackwater public/

The key is the site's delivery key. A menu that cannot be had leaves the page as it was and ends with 1: a site is not put out with an empty
menu. See docs/delivery.md.
"""

import os
import re
import sys
import urllib.error
import urllib.request
from pathlib import Path

NAV = re.compile(r'(<nav\b[^>]*\bdata-sign-shelf="([a-z0-9-]+)"[^>]*>)(.*?)(</nav>)', re.DOTALL)


def menu(base: str, location: str, language: str) -> str:
    """What hangs there as HTML, without the nav around it: the page has its own."""
    asked = urllib.request.Request(
        f"{base}/{location}?language={language}",
        headers={"authorization": f"Bearer {os.environ['SIGN_SHELF_KEY']}", "accept": "text/html"},
    )
    with urllib.request.urlopen(asked, timeout=30) as answer:
        text = answer.read().decode("utf-8")
    inner = re.fullmatch(r"\s*<nav\b[^>]*>(.*)</nav>\s*", text, re.DOTALL)
    return inner[1] if inner else text


def main() -> int:
    base, folder = sys.argv[1].rstrip("/"), Path(sys.argv[2])
    known: dict[tuple[str, str], str] = {}
    failed = filled = 0
    for page in sorted(folder.rglob("*.html")):
        text = page.read_text("utf-8")
        said = re.search(r'<html[^>]*\blang="?([A-Za-z-]+)', text)
        language = said[1] if said else "en"

        def put(found: "re.Match[str]", language: str = language) -> str:
            key = (found[2], language)
            known[key] = known.get(key) or menu(base, *key)
            return f"{found[1]}{known[key]}{found[4]}"

        try:
            now = NAV.sub(put, text)
        except (urllib.error.URLError, TimeoutError) as away:
            print(f"{page}: {away}", file=sys.stderr)
            failed += 1
            continue
        if now != text:
            page.write_text(now, "utf-8")
            filled += 1
    print(f"{filled} pages filled, {failed} left as they were")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
