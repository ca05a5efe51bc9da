"""What a client sees of a change behind a link: what it does, in sentences and before beside after, and a form to say yes or no.

One page of plain HTML, made for a phone: it needs no script. Its style is frontend/public/client.css, that of the drawings
frontend/public/strip.css.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from html import escape

LONGEST_NAME, LONGEST_WORDS = 200, 4_000


@dataclass(frozen=True, kw_only=True)
class Drawn:
    """The site's page on a device, as it is and as it would be, so many CSS pixels wide."""

    device: str
    width: int
    before: str
    after: str


@dataclass(frozen=True, kw_only=True)
class ClientSite:
    """`does` are sentences by the names of menus."""

    name: str
    does: tuple[tuple[str, tuple[str, ...]], ...]
    drawn: tuple[Drawn, ...]
    language: str


@dataclass(frozen=True, kw_only=True)
class ClientSaid:
    """`holds`: of what the change is now."""

    name: str
    verdict: str
    says: str
    at: str
    holds: bool


@dataclass(frozen=True, kw_only=True)
class ClientPage:
    """`content` names what is shown. `closed`: why nothing more is to be said."""

    title: str
    why: str
    for_whom: str
    until: str
    sites: tuple[ClientSite, ...]
    said: tuple[ClientSaid, ...]
    content: str
    closed: str = ""


@dataclass(frozen=True, kw_only=True)
class Typed:
    """What was typed into the form, and why it was not taken."""

    name: str = ""
    says: str = ""
    problem: str = ""


_VERDICTS = {"yes": "says yes", "no": "says no", "remark": "remarks"}


def client_page(page: ClientPage, typed: Typed = Typed()) -> str:
    parts = [
        f"<p class=for>For {escape(page.for_whom)}</p><h1>{escape(page.title)}</h1>",
        f"<p>{escape(page.why)}</p>" if page.why else "",
        *(_site(site, several=len(page.sites) > 1) for site in page.sites),
        _said(page.said),
        f"<p class=closed>{escape(page.closed)}</p>" if page.closed else _form(page, typed),
        f"<p class=until>This page is there until {escape(page.until)}.</p>",
    ]
    return _whole(page.title, "".join(parts))


def nowhere_page() -> str:
    """The same for a link that was never made, has ended or was withdrawn."""
    return _whole(
        "Nothing is here", "<h1>Nothing is here</h1><p>This link has ended, or is not whole. Ask whoever sent it for a new one.</p>"
    )  # fmt: skip


def _whole(title: str, body: str) -> str:
    return (
        '<!doctype html><html lang="en"><head><meta charset="utf-8">'
        '<meta name="viewport" content="width=device-width, initial-scale=1"><meta name="robots" content="noindex">'
        f'<title>{escape(title)}</title><link rel="stylesheet" href="/client.css"></head><body><main>{body}</main></body></html>'
    )


def _site(site: ClientSite, *, several: bool) -> str:
    told = "".join(
        f"<h3>{escape(menu)}</h3><ul>{''.join(f'<li>{escape(one)}</li>' for one in sentences)}</ul>"
        for menu, sentences in site.does
    )
    drawn = "".join(_drawn(one, site) for one in site.drawn)
    name = f"<h2>{escape(site.name)}</h2>" if several else ""
    return (
        f"<section>{name}<h2>What will be different</h2>{told or '<p>Nothing that visitors see.</p>'}{drawn}</section>"
    )


def _drawn(one: Drawn, site: ClientSite) -> str:
    figures = "".join(
        f'<figure><figcaption>{says}</figcaption><div class="frame {escape(one.device)}" tabindex="0" role="group"'
        f' aria-label="{says}, to be scrolled">'
        f'<iframe title="{escape(site.name)} on a {escape(one.device)}, {says}" tabindex="-1" sandbox="allow-same-origin"'
        f' srcdoc="{escape(_document(html, site.language))}" width="{one.width}"></iframe></div></figure>'
        for says, html in (("now", one.before), ("then", one.after))
    )
    return f"<h3>On a {escape(one.device)}</h3><div class=both>{figures}</div>"


def _document(html: str, language: str) -> str:
    return (
        f'<!doctype html><html lang="{escape(language)}"><head><meta charset="utf-8"><link rel="stylesheet" href="/strip.css"></head>'
        f"<body inert>{html}</body></html>"
    )


def _said(said: Sequence[ClientSaid]) -> str:
    if not said:
        return ""
    lines = "".join(
        f"<li><b>{escape(one.name)}</b> {_VERDICTS[one.verdict]}{_of_before(one)}, {escape(one.at)}"
        f"{f'<q>{escape(one.says)}</q>' if one.says else ''}</li>"
        for one in said
    )
    return f"<section id=said><h2>What was said</h2><ul>{lines}</ul></section>"


def _of_before(one: ClientSaid) -> str:
    return "" if one.holds or one.verdict == "remark" else ", of what it was then"


def _form(page: ClientPage, typed: Typed) -> str:
    problem = f'<p role="alert" class=problem>{escape(typed.problem)}</p>' if typed.problem else ""
    return (
        f'<form method="post"><h2>What do you say?</h2>{problem}'
        f'<input type="hidden" name="content" value="{escape(page.content)}">'
        f'<label>Your name<input name="name" required maxlength="{LONGEST_NAME}" autocomplete="name" value="{escape(typed.name)}"></label>'
        f'<label>What you have to say of it<textarea name="says" rows="4" maxlength="{LONGEST_WORDS}">{escape(typed.says)}</textarea></label>'
        '<p class=answers><button name="verdict" value="yes">Yes, put it live</button>'
        '<button name="verdict" value="no">No</button>'
        '<button name="verdict" value="remark">Only a remark</button></p></form>'
    )
