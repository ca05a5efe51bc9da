"""A client's month on paper: what changed and why, what was found and mended, what is to come. One HTML document without scripts, with
menus drawn as they were before and are after, to print or to send."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from html import escape

from sign_shelf.core.drawing.summary import Bar, summary_of
from sign_shelf.core.model.menu import MenuDocument

MOST_SENTENCES = 40


@dataclass(frozen=True)
class Changed:
    """A release. `at` as the site's clock showed it; `agreed` who approved or signed it off. `menus` are those that it changed, before and
    after; None where there was none."""

    title: str
    why: str
    at: str
    by: str
    agreed: tuple[str, ...]
    does: tuple[str, ...]
    menus: tuple[tuple[str, MenuDocument | None, MenuDocument | None], ...]


@dataclass(frozen=True)
class Found:
    """`when`: since when it is there, or when it went."""

    says: str
    when: str


@dataclass(frozen=True)
class Comes:
    at: str
    says: str
    does: tuple[str, ...]


@dataclass(frozen=True)
class Month:
    site: str
    base: str
    language: str
    called: str
    """Such as November 2026."""
    written: str
    changed: Sequence[Changed]
    mended: Sequence[Found]
    there: Sequence[Found]
    """What is still found."""
    waiting: Sequence[Found]
    """Entries that lead nowhere yet, with who owes them and until when."""
    comes: Sequence[Comes]


def month_report(month: Month) -> str:
    return _page(f"{month.site}: {month.called}", _site(month))


def client_report(client: str, months: Sequence[Month]) -> str:
    """Of all the sites of a client, one after the other, with what it comes to in all on top. There is one at least."""
    told = [sum(counts) for counts in zip(*map(_counts, months), strict=True)]
    sites = "1 site" if len(months) == 1 else f"{len(months)} sites"
    head = (
        f"<h1>{escape(client)}</h1>\n<p>The menus of {sites} in {escape(months[0].called)}.</p>\n{_numbers(told)}\n<ul>"
        + "".join(f'<li><a href="#site-{at}">{escape(one.site)}</a></li>' for at, one in enumerate(months))
        + "</ul>"
    )
    bodies = (f'<article id="site-{at}">\n{_site(one)}\n</article>' for at, one in enumerate(months))
    return _page(f"{client}: {months[0].called}", "\n".join([head, *bodies]))


def _page(title: str, body: str) -> str:
    return (
        f'<!doctype html>\n<html lang="en"><head><meta charset="utf-8"><title>{escape(title)}</title>'
        f"<style>{_STYLE}</style></head>\n<body>{body}\n</body></html>\n"
    )


def _site(month: Month) -> str:
    parts = [
        f"<h1>{escape(month.site)}</h1>\n<p>The menus of {escape(month.base)} in {escape(month.called)}. "
        f"Written {escape(month.written)}.</p>\n{_numbers(_counts(month))}",
        "<h2>What changed</h2>",
        *(
            map(_changed, month.changed, [month.language] * len(month.changed))
            if month.changed
            else ["<p>Nothing.</p>"]
        ),
        _list("What was found and mended", month.mended, "Nothing was found that was mended this month."),
        _list("What is still found", month.there, "Nothing."),
        _list("What waits for a page", month.waiting, "Nothing: every entry leads somewhere."),
        "<h2>What is to come</h2>",
        *(map(_comes, month.comes) if month.comes else ["<p>Nothing is scheduled.</p>"]),
    ]
    return "\n".join(parts)


def _counts(month: Month) -> tuple[int, ...]:
    return len(month.changed), len(month.mended), len(month.there), len(month.comes)


def _numbers(counts: Sequence[int]) -> str:
    told = zip(counts, ("went live", "mended", "still found", "to come"), strict=True)
    return '<ul class="n">' + "".join(f"<li><b>{many}</b> {says}</li>" for many, says in told) + "</ul>"


def _changed(one: Changed, language: str) -> str:
    agreed = f" Agreed by {escape(', '.join(one.agreed))}." if one.agreed else ""
    why = f"<p>{escape(one.why)}</p>" if one.why else ""
    more = len(one.does) - MOST_SENTENCES
    rest = f"<li>and {more} more</li>" if more > 0 else ""
    does = "".join(f"<li>{escape(says)}</li>" for says in one.does[:MOST_SENTENCES])
    drawn = "".join(_sides(title, before, after, language) for title, before, after in one.menus)
    return (
        f"<section><h3>{escape(one.title)}</h3><p>Live since {escape(one.at)}, asked for by {escape(one.by)}.{agreed}</p>{why}"
        f"<ul>{does}{rest}</ul>{drawn}</section>"
    )


def _sides(title: str, before: MenuDocument | None, after: MenuDocument | None, language: str) -> str:
    sides = [("before", before), ("after", after)]
    return "".join(
        f'<figure><figcaption>{escape(title)}, {when}</figcaption>{menu_drawn(menu, language, f"{title}, {when}")}</figure>'
        for when, menu in sides if menu is not None
    )  # fmt: skip


def menu_drawn(menu: MenuDocument, language: str, title: str) -> str:
    """Bars as wide as the labels, each level indented: the miniature of the shelf as SVG."""
    told = summary_of(menu)
    rows = list(_rows(told.bars, language, 0))
    height = max(8 * len(rows), 8)
    bars = "".join(
        f'<rect x="{10 * level}" y="{8 * at + 1}" width="{max(2.6 * chars, 4):.0f}" height="5" rx="1" class="{kind}"/>'
        for at, (level, chars, kind) in enumerate(rows)
    )
    entries = "1 entry" if told.items == 1 else f"{told.items} entries"
    return (
        f'<svg viewBox="0 0 140 {height}" width="140" height="{height}" role="img" aria-label="{escape(title, quote=True)}: {entries}">'
        f"{bars}</svg>"
    )


def _rows(bars: Iterable[Bar], language: str, level: int) -> Iterable[tuple[int, int, str]]:
    for bar in bars:
        yield level, min(bar.long(language), 40), bar.kind if level == 0 else f"{bar.kind} below"
        yield from _rows(bar.items, language, level + 1)


def _list(title: str, found: Sequence[Found], none: str) -> str:
    if not found:
        return f"<h2>{title}</h2><p>{none}</p>"
    rows = "".join(f"<li>{escape(one.says)} <span>{escape(one.when)}</span></li>" for one in found)
    return f"<h2>{title}</h2><ul>{rows}</ul>"


def _comes(one: Comes) -> str:
    does = "".join(f"<li>{escape(says)}</li>" for says in one.does[:MOST_SENTENCES])
    return f"<section><h3>{escape(one.at)}</h3><p>{escape(one.says)}</p><ul>{does}</ul></section>"


_STYLE = (
    "body{font:15px/1.5 sans-serif;color:#1d2a2f;max-width:46em;margin:2em auto;padding:0 1em}h1{margin-bottom:0}"
    "h2{margin:1.6em 0 .3em;border-bottom:2px solid #b58c55}h3{margin:1em 0 0}p{margin:.2em 0}ul{margin:.3em 0;padding-left:1.2em}"
    "span{color:#5b666b;font-size:.85em}ul.n{list-style:none;padding:0;display:flex;gap:2em}ul.n b{font-size:1.6em}"
    "section{break-inside:avoid}figure{display:inline-block;vertical-align:top;margin:.6em 2em .4em 0}"
    "figcaption{color:#5b666b;font-size:.8em}rect{fill:#1d2a2f}rect.below{fill:#b58c55}rect.pending{fill:none;stroke:#8a9296}"
    "article{border-top:6px solid #b58c55;margin-top:2.5em}"
    "@media print{body{margin:0;max-width:none}article{break-before:page;border:0;margin:0}}"
)
