"""How much may be sent to which route, and which are open to people who have not signed in."""

import re

KIB, MIB = 1024, 1024 * 1024

USUAL = 256 * KIB
_LIMITS: tuple[tuple[re.Pattern[str], int], ...] = tuple(
    (re.compile(f"^{pattern}$"), limit)
    for pattern, limit in (
        (r"/api/session.*", 8 * KIB),
        (r"/api/sites/[^/]+/menus(?:/[^/]+(?:/(?:merge|take-back))?)?", 16 * MIB),
        (r"/api/sites/[^/]+/incoming/(?:data|copy)", 5 * MIB + KIB),
        (r"/api/outline", 5 * MIB + KIB),
        (r"/api/fonts", 4 * MIB + KIB),
        (r"/api/(?:templates.*|fact-sets.*|sites/[^/]+/facts.*)", 2 * MIB),
        (r"/live/.*", 0),
    )
)


_INVITATION = re.compile(r"/api/invitations/[^/]{1,200}")
_FEED = re.compile(r"/api/feeds/[^/]{1,200}/(ahead\.ics|live\.atom)")


def body_limit(method: str, path: str) -> int:
    """Bytes. What is only looked at takes none."""
    if method in {"GET", "HEAD", "OPTIONS"}:
        return 0
    return next((limit for pattern, limit in _LIMITS if pattern.match(path)), USUAL)


def open_to_all(method: str, path: str) -> bool:
    """Whether anybody may use the route."""
    if path == "/api/session":
        return method in {"POST", "DELETE"}
    if _INVITATION.fullmatch(path):
        return method in {"GET", "POST"}
    # A feed's address is what its reader knows instead of a password.
    return method in {"GET", "HEAD"} and (
        path.startswith(("/api/health", "/api/session/elsewhere"))
        or path == "/api/schemas/menu.json"
        or _FEED.fullmatch(path) is not None
    )
