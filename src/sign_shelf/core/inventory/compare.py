"""What differs between what was known of a site's pages and what a reading saw.

A page keeps its reference wherever it moves. Nothing is gone because a sitemap leaves it out, or because a server broke: only
where its own address says so.
"""

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from sign_shelf.core.basics.ids import ReadableIds
from sign_shelf.core.inventory.naming import directory, parent_of, stem_of, words_of_path
from sign_shelf.core.inventory.seen import Answered, KnownPage, Reading, SeenPage
from sign_shelf.core.model.menu import Model
from sign_shelf.core.model.site import Page

NewsKind = Literal["new", "moved", "gone", "unpublished", "back", "changed"]
FEW = 5
"""So many pages may go at once without anybody being asked."""


class News(Model):
    """One difference. `before` is None for a new page; `because` says by what it was told where that is not plain."""

    kind: NewsKind
    ref: str
    before: Page | None
    after: Page
    because: str = ""


@dataclass(frozen=True)
class Compared:
    """The inventory as it is now: known pages in their order, new ones behind them. `contents` of pages that were opened."""

    pages: tuple[Page, ...]
    contents: Mapping[str, str]
    news: tuple[News, ...]


def compared(
    known: Sequence[KnownPage], reading: Reading, *, language: str, ending: str = "", home: str = "/"
) -> Compared:
    """`ending` is what all titles of the site end with, and which is no part of them; `home` the path of its home page."""
    return _Comparison(known, reading, language, ending, home).run()


def doubt(known: Sequence[Page], news: Iterable[News], *, listed: int, listed_before: int) -> str | None:
    """Why the reading should not be believed unasked: most pages went at once, or most of the sitemap did."""
    there = sum(page.state == "published" for page in known)
    lost = sum(one.kind in {"gone", "unpublished"} for one in news)
    if lost > FEW and lost * 2 > there:
        return f"{lost} of {there} pages answered that they are not there"
    if listed_before > FEW and listed * 2 < listed_before:
        now = f"only {listed}" if listed else "none any more"
        return f"the sitemap named {listed_before} pages and names {now}; each of them still answers"
    return None


class _Comparison:
    def __init__(self, known: Sequence[KnownPage], reading: Reading, language: str, ending: str, home: str) -> None:
        self.known = known
        self.answers = reading.answers
        self.listed = reading.listed
        self.language = language
        self.ending = ending
        self.home = home
        self.at = {one.page.path: one for one in known}
        self.after = {one.page.ref: one.page for one in known}
        self.contents = {one.page.ref: one.content for one in known}
        self.news: list[News] = []
        self.lost: list[tuple[KnownPage, Literal["gone", "unpublished"]]] = []
        self.taken: set[str] = set()
        """Paths that known pages moved to."""

    def run(self) -> Compared:
        for one in self.known:
            answered = self.answers.get(one.page.path)
            if answered is not None:
                self._again(one, answered)
        fresh = self._fresh()
        self._moved_by_content(fresh)
        for one, kind in self.lost:
            self._put(one, kind, _with(one.page, state="gone" if kind == "gone" else "hidden"))
        self._new([path for path in fresh if path not in self.taken])
        return Compared(tuple(self.after.values()), self.contents, tuple(self.news))

    def _again(self, one: KnownPage, answered: Answered) -> None:
        page = one.page
        absent = page.state in {"gone", "hidden"}
        match answered.answer:
            case "none":
                pass
            case "unchanged" if absent:
                self._put(one, "back", _with(page, state="published"))
            case "unchanged":
                pass
            case "page":
                after = self._told(page, answered.page)
                if absent:
                    self._put(one, "back", _with(after, state="published"), answered.page)
                elif after != page:
                    self._put(one, "changed", after, answered.page)
                self._opened(page.ref, answered.page)
            case "moved" if answered.to is not None and self._free(answered.to):
                after = _with(self._told(page, answered.page), path=answered.to, state="published")
                self._put(one, "moved", after, answered.page, because="its old address leads there for good")
                self.taken.add(answered.to)
            case "moved" if answered.to == page.path:
                pass
            case "moved" if page.state != "gone":
                because = (
                    f"its address leads to {answered.to} for good"
                    if answered.to
                    else "its address leads to another site"
                )
                self._put(one, "gone", _with(page, state="gone"), because=because)
            case "gone" if page.state != "gone":
                self.lost.append((one, "gone"))
            case "hidden" if page.state == "published":
                self.lost.append((one, "unpublished"))
            case _:
                pass

    def _free(self, path: str) -> bool:
        """Whether no page has, or ever had, the address."""
        return path not in self.taken and path not in self.at

    def _fresh(self) -> dict[str, SeenPage | None]:
        """Paths that no known page has; None where nobody opened it."""
        found: dict[str, SeenPage | None] = {}
        for path in self.listed:
            if path not in self.at and path not in self.taken and path not in self.answers:
                found[path] = None
        for path, answered in self.answers.items():
            if path not in self.at and path not in self.taken and answered.answer == "page":
                found[path] = answered.page
        order = {path: at for at, path in enumerate(self.listed)}
        return dict(sorted(found.items(), key=lambda pair: order.get(pair[0], len(order))))

    def _moved_by_content(self, fresh: Mapping[str, SeenPage | None]) -> None:
        """A page that went, and one and only one that came with its title and its text."""
        came: dict[str, list[str]] = defaultdict(list)
        for path, seen in fresh.items():
            if seen is not None and seen.content:
                came[seen.content].append(path)
        went = Counter(one.content for one, _ in self.lost)
        for one, kind in list(self.lost):
            alike = [
                path for path in came.get(one.content, ())
                if path not in self.taken and self._called(path, fresh[path]) in one.page.title.values()
            ]  # fmt: skip
            if len(alike) == 1 and went[one.content] == 1:
                seen = fresh[alike[0]]
                after = _with(self._told(one.page, seen), path=alike[0], state="published")
                self.lost.remove((one, kind))
                self.taken.add(alike[0])
                self._put(one, "moved", after, seen, because="a page with the same title and text came there")

    def _new(self, paths: Sequence[str]) -> None:
        names = ReadableIds(self.after)
        names.take("home", otherwise="home")
        refs = {directory(page.path): page.ref for page in self.after.values() if page.state != "gone"}
        began = []
        for path in paths:
            answered = self.answers.get(path)
            seen = answered.page if answered is not None else None
            if path == self.home and "home" not in self.after:
                ref = "home"
            else:
                ref = names.take(stem_of(path), otherwise="page")
            page = self._told(Page(ref=ref, path=path, language=self.language), seen, path)
            refs.setdefault(directory(path), ref)
            began.append((page, seen))
        for page, seen in began:
            whole = _with(page, under=parent_of(page.ref, page.path, refs))
            self.after[page.ref] = whole
            self.news.append(News(kind="new", ref=page.ref, before=None, after=whole))
            self._opened(page.ref, seen)

    def _told(self, page: Page, seen: SeenPage | None, path: str | None = None) -> Page:
        """The page as it says of itself; what it says nothing of stays."""
        if seen is None:
            title = page.title or {self.language: words_of_path(path or page.path) or "Home"}
            return _with(page, title=title)
        spoken = seen.language or page.language or self.language
        return _with(
            page, title={**page.title, spoken: self._called(path or page.path, seen)}, type=seen.type, language=spoken,
            noindex=seen.noindex, parts=seen.parts, overlays=seen.overlays,
        )  # fmt: skip

    def _called(self, path: str, seen: SeenPage | None) -> str:
        return (
            (seen.title if seen is not None else "").removesuffix(self.ending).strip() or words_of_path(path) or "Home"
        )

    def _put(
        self, one: KnownPage, kind: NewsKind, after: Page, seen: SeenPage | None = None, because: str = ""
    ) -> None:
        self.after[after.ref] = after
        self._opened(after.ref, seen)
        self.news.append(News(kind=kind, ref=after.ref, before=one.page, after=after, because=because))

    def _opened(self, ref: str, seen: SeenPage | None) -> None:
        if seen is not None:
            self.contents[ref] = seen.content


def _with(page: Page, **more: object) -> Page:
    """As `model_copy`, and checked: what pages say of themselves is strangers' words."""
    return Page.model_validate(dict(page) | more)
