"""One reading of a site's pages, as it came."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from sign_shelf.core.model.site import Page

Answer = Literal["page", "unchanged", "moved", "gone", "hidden", "none"]
"""`unchanged`: 304 Not Modified; `moved`: by redirects that are all permanent; `gone`: 404 or 410; `hidden`: 401 or 403;
`none`: nothing that says anything of the page, such as a broken server."""


@dataclass(frozen=True)
class SeenPage:
    """What a page says of itself. `content` names its text without navigations; `alternates` are its versions in other
    languages, by language (`hreflang`), as absolute addresses."""

    title: str
    type: str = "page"
    language: str | None = None
    noindex: bool = False
    parts: tuple[str, ...] = ()
    overlays: tuple[str, ...] = ()
    content: str = ""
    alternates: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Answered:
    """An address of the site that was asked. `to`: the path on the site that a move leads to. `page` is what stands there,
    after a move too."""

    answer: Answer
    page: SeenPage | None = None
    to: str | None = None


@dataclass(frozen=True)
class Reading:
    """`answers` by path. `listed`: every path that the sitemaps name or that links lead to, in that order, asked or not."""

    answers: Mapping[str, Answered]
    listed: tuple[str, ...]


@dataclass(frozen=True)
class KnownPage:
    """`content` is that of the page when it was opened last; empty where it never was."""

    page: Page
    content: str = ""
