"""Moments as a calendar for calendar programs (iCalendar, RFC 5545)."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from icalendar import Calendar, Event, vText


@dataclass(frozen=True, kw_only=True)
class CalendarMoment:
    """A change at a site. `name` is the same as long as it is the same change there. `ends` None where it stays. `sure`: nothing is
    known to stand in its way. Times have their zone."""

    name: str
    title: str
    begins: datetime
    ends: datetime | None
    says: tuple[str, ...]
    sure: bool
    link: str = ""


def moments_ics(moments: Iterable[CalendarMoment], *, now: datetime, called: str) -> bytes:
    """In UTC, which every program shows by its own clock. A change that stays is a moment without an end."""
    calendar = Calendar()
    calendar.add("prodid", "-//Sign Shelf//Moments//EN")
    calendar.add("version", "2.0")
    calendar.add("method", "PUBLISH")
    calendar.add("x-wr-calname", called)
    calendar.add("refresh-interval", vText("PT1H"), parameters={"VALUE": "DURATION"})
    for one in moments:
        event = Event()
        event.add("uid", f"{one.name}@sign-shelf")
        event.add("dtstamp", now)
        event.add("dtstart", one.begins)
        if one.ends is not None:
            event.add("dtend", one.ends)
        event.add("summary", one.title)
        if one.says:
            event.add("description", "\n".join(one.says))
        event.add("status", "CONFIRMED" if one.sure else "TENTATIVE")
        # Nobody is busy because a menu is live.
        event.add("transp", "TRANSPARENT")
        if one.link:
            event.add("url", one.link)
        calendar.add_component(event)
    ics: bytes = calendar.to_ical()
    return ics
