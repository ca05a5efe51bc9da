"""A person with nothing but a keyboard, who is told of every error that the browser's console has."""

import re
from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import BrowserContext, ConsoleMessage, Locator, Page, expect

from sign_shelf.demo.seed import PASSWORD
from tests.browser import labels
from tests.browser.waiting import eventually

_HAS_FOCUS = "node => node === document.activeElement || node.contains(document.activeElement)"
_FARTHEST = 220
"""Stops of the Tab key within which everything on a view is reached."""


class Hands:
    def __init__(self, page: Page) -> None:
        self.page = page
        self.actions = 0
        """Keys that were pressed and words that were typed, each as one; going on with the Tab key counts as one."""
        self.errors: list[str] = []
        page.on("console", self._listen)
        page.on("pageerror", lambda error: self.errors.append(str(error)))

    def _listen(self, said: ConsoleMessage) -> None:
        if said.type == "error":
            self.errors.append(f"{said.text} {said.location['url']}")

    def press(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)
            self.actions += 1

    def type(self, words: str) -> None:
        self.page.keyboard.type(words)
        self.actions += 1

    def reach(self, goal: Locator) -> None:
        """Goes on with the Tab key until the goal has the focus."""
        goal.first.wait_for()
        for _ in range(_FARTHEST):
            if goal.first.evaluate(_HAS_FOCUS):
                return
            self.page.keyboard.press("Tab")
        raise AssertionError(f"the Tab key does not come to {goal}")

    def push(self, goal: Locator, key: str = "Enter") -> None:
        self.reach(goal)
        self.press(key)

    def button(self, name: str | re.Pattern[str], within: Locator | Page | None = None) -> None:
        self.push((within or self.page).get_by_role("button", name=name, exact=isinstance(name, str)))

    def fill(self, field: Locator, words: str) -> None:
        self.reach(field)
        self.press("Control+a")
        self.type(words)

    def pick(self, choice: Locator, option: str) -> None:
        """Of a list that opens, the option that reads so, by its first letters."""
        self.reach(choice)
        for _ in range(60):
            shown = choice.first.evaluate("node => node.selectedOptions[0]?.textContent.trim()")
            if shown == option or re.fullmatch(option, shown or ""):
                return
            self.press("ArrowDown")
        raise AssertionError(f"no option reads {option}")

    def radio(self, group: Locator, option: str) -> None:
        """Of a few words of which one holds."""
        self.reach(group)
        wanted = group.get_by_role("radio", name=option, exact=True)
        for _ in range(12):
            if wanted.is_checked():
                return
            self.press("ArrowRight")
        raise AssertionError(f"the arrows do not come to {option}")

    def menu(self, button: Locator, act: str | re.Pattern[str]) -> None:
        """What can be done from a button that opens a menu."""
        self.push(button)
        goal = self.page.get_by_role("menuitem", name=act).or_(self.page.get_by_role("menuitemradio", name=act)).first
        goal.wait_for()
        for _ in range(40):
            if goal.evaluate("node => node === document.activeElement"):
                self.press("Enter")
                return
            self.press("ArrowDown")
        raise AssertionError(f"the arrows do not come to {act}")

    def where_to(self, words: str, offered: str | re.Pattern[str]) -> None:
        """To a site, a menu or a view by its name, from wherever one is."""
        self.press("Control+.")
        expect(self.page.get_by_role("dialog", name=labels.WHERE_TO)).to_be_visible()
        self.type(words)
        expect(self.page.get_by_role("option", selected=True)).to_contain_text(offered)
        self.press("Enter")
        expect(self.page.get_by_role("dialog", name=labels.WHERE_TO)).to_have_count(0)

    def sign_in(self, person: str) -> None:
        self.page.goto("/")
        self.fill(self.page.get_by_label(labels.E_MAIL_ADDRESS), f"{person}@quillfen.example")
        self.press("Tab")
        self.type(PASSWORD)
        self.press("Enter")
        self.page.get_by_role("heading", name=labels.SHELF, exact=True).wait_for()

    def sign_in_again(self, over: Locator) -> None:
        """Over the page, as the same person."""
        self.fill(over.get_by_label(labels.PASSWORD), PASSWORD)
        self.press("Enter")
        expect(over).to_have_count(0)

    def begin_change(self, title: str) -> None:
        """A change of one's own, so that nothing of anybody else's goes with it."""
        self.menu(self.page.get_by_role("button", name=labels.CHANGE), re.compile("begin another change"))
        sheet = self.page.get_by_role("dialog")
        self.fill(sheet.get_by_role("textbox").first, title)
        self.press("Enter")
        expect(sheet).to_have_count(0)
        expect(self.page.get_by_role("button", name=f"Change: {title}")).to_be_visible()

    def put_live(self) -> None:
        """Sees what goes, and lets it go."""
        self.button("Put live")
        self.button("Put this live", self.page.get_by_role("dialog"))
        expect(self.page.get_by_role("dialog")).to_have_count(0)

    def saved(self) -> None:
        expect(self.page.get_by_text(labels.SAVED)).to_be_visible()


@contextmanager
def hands(context: BrowserContext, person: str = "ines") -> Iterator[Hands]:
    """Signed in. At the end, the console has had no error but that of asking who one is before one had signed in."""
    theirs = Hands(context.new_page())
    theirs.sign_in(person)
    theirs.errors.clear()
    yield theirs
    assert theirs.errors == [], theirs.errors


def on_the_site(page: Page, shows: Locator, *, so: bool = True) -> None:
    """The client's own page shows it, or no longer does, once it was put live: as a visitor who looks again."""

    def looked() -> bool:
        page.reload()
        return (shows.count() > 0) == so

    eventually(looked, within_s=90)
