"""The lens of a request: from whose point of view a site is looked at."""

from datetime import datetime
from typing import Annotated

from fastapi import Depends, Query

from sign_shelf.api.guards import Language
from sign_shelf.core.basics.clock import clock_of, moment_of, read_reading
from sign_shelf.core.errors import InvalidDocument, Problem
from sign_shelf.core.model.documents import parse_json
from sign_shelf.core.model.facts import FactValue, fitting
from sign_shelf.core.model.menu import Device
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.visitors.timeline import Then
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import View, When, board, facts_of, site_row
from sign_shelf.desk.ready import ready
from sign_shelf.store import foretold
from sign_shelf.store.database import Database
from sign_shelf.store.tables import SiteRow


class Point:
    """`at` is a reading of each site's own clock. An audience that a site does not have is, there, a visitor of whom
    nothing is known; so is everybody where neither audience nor facts are given."""

    def __init__(
        self, *, device: Device, language: str | None, audience: str | None, facts: str | None, at: str | None, page: str | None
    ) -> None:  # fmt: skip
        self.device = device
        self.language = language
        self.audience = audience
        self.at = at
        self.page = page
        given = parse_json(facts, what="facts") if facts else {}
        if not isinstance(given, dict):
            raise InvalidDocument([Problem(where="facts", says="expected a JSON object")])
        self.facts: dict[str, object] = given
        self.withheld = frozenset(name for name, value in given.items() if value is None)
        if at is not None:
            read_reading(at, where="at")

    def of(
        self, site: SiteDocument, now: datetime, *, device: Device | None = None, language: str | None = None,
        width: int | None = None,
    ) -> Lens:  # fmt: skip
        spoken = self.language if self.language in site.site.languages else site.site.languages[0]
        return Lens(
            device=device or self.device,
            language=language or spoken or "en",
            at=self.reading(site, now),
            page=self.page,
            width=width,
            facts=self.visitor(site),
        )

    def reading(self, site: SiteDocument, now: datetime) -> str:
        """A reading that the site's clock skips means the first after it: the same lens is held to many sites, and
        dragged over clock changes."""
        clock = clock_of(site.site.zone)
        return clock.reading_at(clock.instant(self.at)) if self.at else clock.now(now)

    def when(self, now: datetime) -> When:
        """The lens's moment at each site, where it is still to come there."""

        def moment(site: SiteRow) -> datetime | None:
            at = moment_of(clock_of(facts_of(site).zone).instant(self.at)) if self.at else now
            return at if at > now else None

        return moment

    def visitor(self, site: SiteDocument) -> dict[str, FactValue]:
        known = site.audiences.get(self.audience or "", {})
        # What is no fact of this site, or has other values here, is not supplied here.
        given = fitting(self.facts, site.all_facts())
        return {name: value for name, value in {**known, **given}.items() if name not in self.withheld}


async def point_of(
    device: Annotated[Device, Query()] = "desktop",
    language: Language = None,
    audience: Annotated[str | None, Query(max_length=500)] = None,
    facts: Annotated[str | None, Query(max_length=4_000, description="A JSON object; over the audience's.")] = None,
    at: Annotated[
        str | None, Query(max_length=22, description="The moment on the site's clock; now if absent.")
    ] = None,
    page: Annotated[str | None, Query(max_length=200, description="The page the visitor is on.")] = None,
) -> Point:
    return Point(device=device, language=language, audience=audience, facts=facts, at=at, page=page)


Seen = Annotated[Point, Depends(point_of)]


async def whole_site(database: Database, person: Person, key: str, view: View, when: When | None = None) -> Prepared:
    """The site as the person sees it in the change, or live, with its pages; of a moment to come, as it will be then."""
    async with database.transaction() as session:
        return await ready(session, await board(session, person, key, view, when))


async def what_comes(database: Database, person: Person, key: str, view: View) -> list[Then]:
    """What the site will be from each moment on at which a change goes live there or comes back."""
    async with database.transaction() as session:
        row = await site_row(session, person, key)
        found = []
        for one in await foretold.at_site(session, row.id):
            then = await board(session, person, key, view, _at(one.at))
            found.append(Then(begins=one.at, prepared=await ready(session, then), says=one.says))
        return found


def _at(moment: datetime) -> When:
    return lambda _: moment
