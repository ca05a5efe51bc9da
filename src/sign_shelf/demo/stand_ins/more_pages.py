"""Pages that come to a stand-in and move, so that what changed can be tried: at `/__pages`.

`PUT /__pages` with `{"/offers/winter": "Winter offers", "/groups": {"was": "/fares/groups"}}` has a new page there and
one that moved, whose old address leads to the new one for good; `{}` has the site as it was.
"""

import json
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path

from starlette.requests import Request
from starlette.responses import JSONResponse, PlainTextResponse, Response

from sign_shelf.core.basics.ids import slug
from sign_shelf.core.model.site import Page
from sign_shelf.demo.stand_ins.content import Content

AT = "/__pages"


@dataclass
class MorePages:
    """`file` keeps them for the next time that the site is begun."""

    file: Path | None = None
    wanted: Mapping[str, str | Mapping[str, str]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if self.file is not None and self.file.exists():
            self.wanted = json.loads(self.file.read_text("utf-8"))

    async def administer(self, request: Request) -> Response:
        if request.method == "PUT":
            try:
                wanted = json.loads(await request.body())
            except ValueError:
                return PlainTextResponse("no JSON", 422)
            if not isinstance(wanted, dict) or not all(map(_sound, wanted.items())):
                return PlainTextResponse('paths with a title each, or with {"was": path}', 422)
            self.wanted = wanted
            if self.file is not None:
                self.file.write_text(json.dumps(wanted))
        return JSONResponse(dict(self.wanted))

    def moved(self) -> dict[str, str]:
        """New addresses by the old ones."""
        return {one["was"]: path for path, one in self.wanted.items() if isinstance(one, Mapping)}

    def of(self, content: Content) -> Content:
        """The site with these pages."""
        moved = self.moved()
        pages = [page.model_copy(update={"path": moved.get(page.path, page.path)}) for page in content.pages]
        texts = dict(content.texts)
        language = content.languages[0]
        for path, title in self.wanted.items():
            if isinstance(title, str):
                above = next((page.ref for page in pages if page.path == path.rpartition("/")[0]), None)
                page = Page(ref=slug(path), path=path, title={language: title}, language=language, under=above)
                pages.append(page)
                texts[page.ref] = f"{title}: more of it soon."
        return replace(content, pages=tuple(pages), texts=texts)


def _sound(one: tuple[str, object]) -> bool:
    path, what = one
    return path.startswith("/") and (isinstance(what, str) or (isinstance(what, dict) and set(what) == {"was"}))
