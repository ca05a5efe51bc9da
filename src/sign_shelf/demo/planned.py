"""What is planned in the demo for the year to come: changes at three sites in every state that one waits in, and a freeze."""

from datetime import datetime, timedelta

from sign_shelf.core.changes.season import Season
from sign_shelf.demo.at_work import AtWork
from sign_shelf.desk import changes, freezes, review, schedule, seasons
from sign_shelf.desk.permission import Person
from sign_shelf.store.database import Database

YEARLY = Season(goes="date", ends="date", approved=True)


async def plan_a_year(database: Database, author: Person, beside: Person, now: datetime) -> None:
    """The author's changes, of which the other approves some."""
    year = now.year + 1
    plan = AtWork(database, author, beside)
    sailings = "timetables"
    summer = await plan.change("brackwater", "Summer timetable", {sailings: "Summer sailings"})
    await plan.at(summer, f"{year}-04-01T04:00", f"{year}-10-01T04:00")
    await plan.approved(summer)
    regatta = await plan.change("brackwater", "Regatta week", {sailings: "Regatta sailings"})
    await plan.at(regatta, f"{year}-06-10T06:00", f"{year}-06-20T22:00")
    await plan.approved(regatta)
    deck = await plan.change("brackwater", "Café on deck")
    await plan.at(deck, f"{year}-05-03T09:00", None)
    programme = await plan.change("vesper", "Programme")
    await plan.at(programme, f"{year}-05-15T10:00", None)
    await plan.approved(programme)
    winter = await plan.change("thornby", "Winter closing")
    await plan.at(winter, f"{year}-12-20T05:00", f"{year + 1}-02-06T18:00")
    await plan.approved(winter)
    await seasons.set_season(database, author, winter, YEARLY, plan.now())
    steam = await plan.change("thornby", "Steam season")
    await plan.at(steam, f"{year}-04-03T05:00", f"{year}-10-30T18:00")
    await plan.approved(steam)
    await seasons.set_season(database, author, steam, YEARLY, plan.now())
    held = await plan.change("vesper", "Late-night boats")
    await plan.at(held, f"{year}-07-03T09:00", None)
    await plan.approved(held)
    await schedule.hold(database, beside, held, says="The boats are not booked yet.", now=plan.now())
    asked = await plan.change("kestrel", "A branch at the mill")
    await review.ask_for_review(database, author, asked, plan.now())
    declined = await plan.change("kestrel", "Fines are gone")
    await review.ask_for_review(database, author, declined, plan.now())
    await plan.judged(declined, "declined", "Not before the council has said so.")
    agreed = await plan.change("vesper", "Where to eat")
    await plan.approved(agreed)
    withdrawn = await plan.change("thornby", "Santa trains")
    await changes.withdraw(database, author, withdrawn, plan.now())
    advent = await plan.change("brackwater", "Advent sailings")
    soon = (now + timedelta(days=3)).strftime("%Y-%m-%dT09:00")
    await plan.at(advent, soon, f"{year}-01-06T09:00")
    await plan.approved(advent)
    for site in ("brackwater", "vesper", "kestrel", "thornby"):
        await changes.work_in(database, author, site, None)
    await freezes.add(
        database, beside, site_key="vesper", begins=f"{year}-06-05T00:00", ends=f"{year}-06-28T00:00", why="Festival days", now=now
    )  # fmt: skip
