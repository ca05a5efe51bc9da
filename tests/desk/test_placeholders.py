"""Entries that lead nowhere yet, as work."""

from datetime import UTC, datetime, timedelta
from typing import Any

import httpx
import pytest

from sign_shelf.core.inventory.fitting import fitting
from sign_shelf.core.model.site import Page
from sign_shelf.demo.stand_ins.server import StandIn

SITE = "/api/sites/brackwater"


@pytest.mark.parametrize(("label", "titles", "ref"), [
    ("Fares", ["Fares", "Fares and passes"], "a"),
    ("fares ", ["Fares"], "a"),
    ("Fares", ["Fares", "Fares"], None),
    ("Winter boats", ["Boats in winter", "Winter"], "a"),
    ("Boats", ["Boats in winter", "Boats in summer"], None),
    ("Go", ["Go there"], None),
    ("", ["Fares"], None),
])  # fmt: skip
def test_one_page_fits_or_none_is_offered(label: str, titles: list[str], ref: str | None) -> None:
    pages = [Page(ref=name, path=f"/{name}", title={"en": title}) for name, title in zip("abc", titles, strict=False)]
    found = fitting({"en": label} if label else {}, pages)
    assert (found.ref if found else None) == ref
    gone = [page.model_copy(update={"state": "gone"}) for page in pages]
    assert fitting({"en": label} if label else {}, gone) is None


def test_a_page_fits_by_the_words_of_its_address_and_in_any_language() -> None:
    pages = [Page(ref="a", path="/winter-boats", title={"nl": "Winterboten"}), Page(ref="b", path="/b")]
    for label in ({"en": "Winter boats"}, {"en": "Ships", "nl": "winterboten"}):
        found = fitting(label, pages)
        assert found is not None
        assert found.ref == "a"


async def listed(api: httpx.AsyncClient, menu: str) -> list[dict[str, Any]]:
    answer = await api.get("/api/placeholders")
    assert answer.status_code == 200, answer.text
    return [one for one in answer.json() if one["menu"] == menu]


async def test_what_is_due_comes_first_and_the_page_that_fits_is_led_to(
    brackwater: StandIn, as_ines: httpx.AsyncClient
) -> None:
    today = datetime.now(UTC).date()
    waits = {
        "Service news": {"owner": "Tom Arkwright"}, "Winter menu": {"due": f"{today + timedelta(days=3)}", "note": "from the cook"},
        "Quay webcam": {"due": f"{today - timedelta(days=3)}"},
    }  # fmt: skip
    document = {"format": "sign-shelf/menu", "version": 1, "name": "Waiting", "items": [
        {"id": f"w{at}", "kind": "link", "label": {"en": label}, "target": {"pending": pending}}
        for at, (label, pending) in enumerate(waits.items())
    ]}  # fmt: skip
    made = await as_ines.post(
        f"{SITE}/menus", json={"name": "Waiting", "document": document}, headers={"idempotency-key": "waiting"}
    )
    menu = made.json()["key"]
    found = await listed(as_ines, menu)
    assert [(one["label"], one["late"], one["owner"]) for one in found] == [
        ("Quay webcam", True, None), ("Winter menu", False, None), ("Service news", False, "Tom Arkwright"),
    ]  # fmt: skip
    assert found[1]["note"] == "from the cook"
    assert found[0]["fits"] is None
    fits = found[2]["fits"]
    assert (fits["ref"], fits["because"]) == ("news", "it is called so")
    asked = {"site": "brackwater", "menu": menu, "item": found[2]["item"], "page": "news"}
    assert (await as_ines.post("/api/placeholders/lead", json=asked | {"page": "nobody"})).status_code == 404
    assert (await as_ines.post("/api/placeholders/lead", json=asked | {"menu": "nobody"})).status_code == 404
    led = await as_ines.post("/api/placeholders/lead", json=asked)
    assert led.status_code == 200, led.text
    again = await as_ines.post("/api/placeholders/lead", json=asked)
    assert (again.status_code, again.json()["detail"]) == (422, "The entry leads somewhere by now, or is gone.")
    items = (await as_ines.get(f"{SITE}/menus/{menu}")).json()["document"]["items"]
    assert items[0]["target"] == {"page": "news"}
    assert [one["label"] for one in await listed(as_ines, menu)] == ["Quay webcam", "Winter menu"]
