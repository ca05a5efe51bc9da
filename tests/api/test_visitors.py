"""Facts, rules, audiences and moments over HTTP: what a person does in Setup, at a rule, and through the lens."""

import json
from typing import Any

import httpx
import pytest

from sign_shelf.core.outline import parse_outline
from tests.api.test_menus import together

SITE = "/api/sites/brackwater"
pytestmark = pytest.mark.usefixtures("brackwater")


async def facts(api: httpx.AsyncClient) -> dict[str, Any]:
    return (await api.get(f"{SITE}/facts")).json()  # type: ignore[no-any-return]


async def keep(api: httpx.AsyncClient, *, json: dict[str, Any]) -> httpx.Response:
    """Keeps the site's facts on top of what it has now."""
    return await api.put(f"{SITE}/facts", json=json, headers={"if-match": (await facts(api))["hash"]})


async def begin(api: httpx.AsyncClient, known: dict[str, Any], request_key: str) -> httpx.Response:
    return await api.post("/api/fact-sets", json={"known": known}, headers={"idempotency-key": request_key})


async def crew_rule(api: httpx.AsyncClient) -> str:
    items = (await api.get(f"{SITE}/menus/header")).json()["document"]["items"]
    return str(next(item["when"] for item in items if "when" in item))


async def test_a_value_that_gets_another_name_takes_every_rule_along(as_ines: httpx.AsyncClient) -> None:
    """And the audiences are checked against what is kept; the menus are edited in the draft."""
    before = await facts(as_ines)
    assert [use["before"] for use in before["uses"]] == ['signed_in and roles has "crew"']
    assert before["uses"][0]["places"][0] | {"item": ""} == {
        "site": "brackwater", "menu": "header", "item": "", "label": "Crew rota",
    }  # fmt: skip
    own = before["own"]
    own["facts"]["roles"]["values"] = ["sailor", "skipper"]
    body = {"known": own, "sets": [], "renamed_values": {"roles": {"crew": "sailor"}}}
    refused = await keep(as_ines, json=body)
    assert (refused.status_code, "audiences.crew.roles" in refused.text) == (422, True), refused.text
    own["audiences"]["crew"]["roles"] = ["sailor"]
    own["audiences"]["skipper"]["roles"] = ["sailor", "skipper"]
    tried = (await as_ines.post(f"{SITE}/facts/try", json=body)).json()
    assert (tried[0]["after"], tried[0]["problem"]) == ('signed_in and roles has "sailor"', None)
    kept = await keep(as_ines, json=body)
    assert kept.status_code == 200, kept.text
    assert await crew_rule(as_ines) == 'signed_in and roles has "sailor"'
    assert (await facts(as_ines))["rules"]["staff"] == 'signed_in and roles has any ("sailor", "skipper")'
    assert (await as_ines.get(f"{SITE}/draft")).json()["menus"][0]["menu"] == "header"


async def test_a_fact_that_goes_is_kept_until_its_rules_are_mended(as_ines: httpx.AsyncClient) -> None:
    before = await facts(as_ines)
    own = before["own"]
    del own["facts"]["roles"]
    own["rules"] = {}
    own["audiences"] = {"visitor": {"signed_in": False}}
    body: dict[str, Any] = {"known": own, "sets": []}
    tried = (await as_ines.post(f"{SITE}/facts/try", json=body)).json()
    assert "roles has no such value" in tried[0]["problem"], "what every site has has no roles of its own"
    assert tried[0]["suggested"] == "never", "nobody is let in who was not"
    refused = await keep(as_ines, json=body)
    assert (refused.status_code, "used by Crew rota" in refused.text) == (422, True), refused.text
    body["mends"] = {tried[0]["before"]: "signed_in"}
    assert (await keep(as_ines, json=body)).status_code == 200
    assert await crew_rule(as_ines) == "signed_in"


async def test_two_people_do_not_write_over_each_other_s_facts(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient
) -> None:
    """A write sets out from what its editor saw; without saying from what it is not taken."""
    await together(as_ines, as_tom)
    seen = await facts(as_ines)
    mine = {**seen["own"], "facts": {**seen["own"]["facts"], "mine": {"type": "flag"}}}
    theirs = {**seen["own"], "facts": {**seen["own"]["facts"], "theirs": {"type": "flag"}}}
    first = {"if-match": f'"{seen["hash"]}"'}
    assert (await as_tom.put(f"{SITE}/facts", json={"known": theirs, "sets": []}, headers=first)).status_code == 200
    late = await as_ines.put(f"{SITE}/facts", json={"known": mine, "sets": []}, headers=first)
    assert (late.status_code, late.json()["detail"]) == (409, "Somebody changed these facts meanwhile.")
    assert "theirs" in (await facts(as_ines))["own"]["facts"]
    assert (await as_ines.put(f"{SITE}/facts", json={"known": mine, "sets": []})).status_code == 428
    again = await keep(as_ines, json={"known": {**mine, "facts": mine["facts"] | theirs["facts"]}, "sets": []})
    assert again.status_code == 200
    assert {"mine", "theirs"} <= set((await facts(as_ines))["own"]["facts"])


async def test_a_shared_set_is_known_on_every_site_that_follows_it(as_ines: httpx.AsyncClient) -> None:
    shared = {"title": "Members", "facts": {"plan": {"type": "choice", "values": ["day", "season"]}},
              "audiences": {"season holder": {"plan": "season"}}}  # fmt: skip
    key = (await begin(as_ines, shared, "one")).json()["key"]
    assert (await begin(as_ines, shared, "one")).json()["key"] == key, "the same request makes it once"
    assert (await begin(as_ines, shared, "two")).json()["key"] == f"{key}-2", "another one of the same title"
    assert (await begin(as_ines, {**shared, "title": "Other"}, "one")).status_code == 422
    own = (await facts(as_ines))["own"]
    followed = await keep(as_ines, json={"known": own, "sets": [key]})
    assert followed.status_code == 200, followed.text
    known = await facts(as_ines)
    assert {one["name"]: one["from_"] for one in known["known"]}["plan"] == "shared"
    assert known["shared"][0]["followers"] == ["Brackwater Ferries"]
    menu = (await as_ines.get(f"{SITE}/menus/legal")).json()
    document = menu["document"]
    document["items"][0]["when"] = "plan is season"
    saved = await as_ines.put(f"{SITE}/menus/legal", json=document, headers={"if-match": menu["hash"]})
    assert saved.status_code == 200, saved.text
    shared["facts"]["plan"]["values"] = ["day", "year"]  # type: ignore[index]
    shared["audiences"] = {}
    url = f"/api/fact-sets/{key}"
    tried = (await as_ines.post(f"{url}/try", json={"known": shared})).json()
    assert {use["before"]: bool(use["problem"]) for use in tried} == {
        "plan is season": True, 'signed_in and roles has "crew"': False,
    }  # fmt: skip
    on = {"if-match": next(one["hash"] for one in (await facts(as_ines))["shared"] if one["key"] == key)}
    assert (await as_ines.put(url, json={"known": shared}, headers=on)).status_code == 422
    body = {"known": shared, "renamed_values": {"plan": {"season": "year"}}}
    assert (await as_ines.put(url, json=body, headers=on)).status_code == 204
    assert (await as_ines.put(url, json=body, headers=on)).status_code == 409, "it is another one by now"
    after = (await as_ines.get(f"{SITE}/menus/legal")).json()["document"]["items"][0]
    assert after["when"] == 'plan is "year"'
    assert (await as_ines.put("/api/fact-sets/nowhere", json={"known": shared}, headers=on)).status_code == 404


async def read(api: httpx.AsyncClient, at: str = "2027-07-01T12:00", **body: Any) -> dict[str, Any]:
    answer = await api.post(f"{SITE}/rules/read", params={"at": at}, json=body)
    assert answer.status_code == 200, answer.text
    return answer.json()  # type: ignore[no-any-return]


async def test_a_rule_is_told_in_its_parts_and_its_words(as_ines: httpx.AsyncClient) -> None:
    typed = await read(as_ines, rule="staff and not device is phone or month in (6,7)")
    assert typed["normal"] == 'staff and device is not "phone" or month in (6, 7)'
    assert typed["says"].startswith("Shows to visitors either who are signed in and who have crew or skipper")

    def test(fact: str, op: str, *values: Any, no: bool = False) -> dict[str, Any]:
        return {"kind": "test", "fact": fact, "op": op, "values": list(values), "no": no}

    both = {"kind": "all", "no": False, "parts": [test("staff", "holds"), test("device", "is", "phone", no=True)]}
    assert typed["part"] == {"kind": "any", "no": False, "parts": [both, test("month", "in", 6, 7)]}
    wrong = await read(as_ines, rule="signed_in and roles has crwe")
    assert (wrong["normal"], wrong["part"]) == (None, None)
    assert wrong["problems"][0] | {"says": ""} == {
        "column": 25, "length": 4, "says": "", "suggestion": "did you mean crew?",
        "replacement": "crew",
    }  # fmt: skip


async def test_a_rule_tells_who_sees_it_and_what_is_true_whoever_comes(as_ines: httpx.AsyncClient) -> None:
    told = await read(as_ines, rule="roles has crew", above=["signed_in"])
    assert {one["audience"]: one["value"] for one in told["seen_by"]} == {
        "visitor": False, "islander": False, "crew": True, "skipper": True,
    }  # fmt: skip
    assert told["example"] == {"signed_in": True, "roles": ["crew"]}
    assert (await read(as_ines, rule="not signed_in", above=["signed_in"]))["never"] is True
    assert (await read(as_ines, rule="signed_in or visitor.id is x", above=["signed_in"]))["nothing_new"] is True
    assert (await read(as_ines, rule="hour >= 0"))["always"] is True


async def test_the_lens_is_seen_in_every_answer(as_ines: httpx.AsyncClient) -> None:
    """An audience, facts by hand over it, a moment on the site's own clock."""
    hidden = {}
    for name, query in {
        "nobody": {},
        "crew": {"audience": "crew"},
        "by hand": {"audience": "visitor", "facts": json.dumps({"signed_in": True, "roles": ["crew"]})},
        "april": {"audience": "crew", "at": "2027-04-01T04:00"},
        "phone": {"audience": "crew", "device": "phone", "location": "drawer"},
    }.items():
        got = await as_ines.get(f"{SITE}/menus/header/resolved", params={"location": "header", **query})
        hidden[name] = {one["detail"] for one in got.json()["hidden"] if one["because"] in {"rule", "window"}}
    assert hidden["nobody"] == {
        "needs signed_in, and this visitor does not supply signed_in; "
        'needs roles has "crew", and this visitor does not supply roles',
        "starts 1 Apr 2027 04:00",
    }
    assert hidden["crew"] == {"starts 1 Apr 2027 04:00"}
    assert "needs visitor.id" in "".join(hidden["by hand"])
    assert hidden["april"] == set()
    signs = {}
    for audience in ("visitor", "crew"):
        board = (await as_ines.get("/api/shelf/signs", params={"audience": audience, "site": "brackwater"})).json()[0]
        signs[audience] = next(one["hidden"] for one in board["signs"] if one["location"] == "header")
    assert signs["visitor"] == signs["crew"] + 1
    for query, says in [({"at": "2027-13-28T01:30"}, "is no date and time"), ({"facts": "[]"}, "JSON object"),
                        ({"facts": "{"}, "not JSON"), ({"at": "now"}, "no date and time")]:  # fmt: skip
        refused = await as_ines.get(f"{SITE}/elevation", params=query)
        assert (refused.status_code, says in refused.text) == (422, True), refused.text
    drawn = (await as_ines.get(f"{SITE}/elevation", params={"audience": "skipper"})).json()["html"]
    assert "Crew rota" in drawn


async def test_a_lens_is_held_to_every_site_whatever_it_was_made_for(as_ines: httpx.AsyncClient) -> None:
    """Facts that a site does not know or has otherwise are not supplied there, an audience that it lacks is anybody, and a
    reading that its clock skips is the first after it. A fact by hand may also be withheld."""
    for query in [
        {"at": "2027-03-28T01:30"},
        {"at": "2027-10-31T01:30"},
        {"audience": "nobody here is called so"},
        {"facts": json.dumps({"roles": ["cook"], "plan": "gold", "signed_in": "yes"})},
        {"language": "cy"},
        {"page": "no-such-page"},
    ]:
        for url in (
            "/api/shelf/signs?site=brackwater",
            f"{SITE}/elevation",
            f"{SITE}/reach",
            f"{SITE}/places/header/devices",
            f"{SITE}/timeline",
        ):
            answer = await as_ines.get(httpx.URL(url).copy_merge_params(query))
            assert answer.status_code == 200, (url, query, answer.text)
    skipped = (await as_ines.get(f"{SITE}/places/header/audiences", params={"at": "2027-03-28T01:30"})).json()
    assert skipped["at"] == "2027-03-28T02:00"

    async def rota(**query: str) -> bool:
        return "Crew rota" in (await as_ines.get(f"{SITE}/elevation", params=query)).json()["html"]

    assert await rota(audience="crew")
    assert not await rota(audience="crew", facts='{"roles": null}')
    assert await rota(audience="islander", facts='{"roles": ["crew"]}')
    assert not await rota(audience="islander", facts='{"roles": ["cook"]}')


async def test_the_matrix_and_its_traces_say_the_same(as_ines: httpx.AsyncClient) -> None:
    query = {"at": "2027-01-10T12:00", "language": "nl"}
    found = (await as_ines.get(f"{SITE}/places/header/audiences", params=query)).json()
    audiences = list(dict.fromkeys(column["audience"] for column in found["columns"]))
    assert audiences == ["visitor", "islander", "crew", "skipper"], "as they were put, not as they sort"
    assert [column["device"] for column in found["columns"][:3]] == ["desktop", "tablet", "phone"]
    row = next(one for one in found["rows"] if one["label"] == "Dienstrooster")
    cells = {
        (column["audience"], column["device"]): found["cells"][cell]
        for column, cell in zip(found["columns"], row["cells"], strict=True)
    }
    assert (cells["crew", "desktop"]["seen"], cells["visitor", "desktop"]["because"]) == ("whole", "rule")
    for (audience, device), cell in cells.items():
        params = {**query, "item": row["item"], "audience": audience, "device": device}
        steps = (await as_ines.get(f"{SITE}/places/header/trace", params=params)).json()
        assert (steps[-1]["holds"] is True) == (cell["seen"] != "none"), steps
        assert all(step["holds"] for step in steps[:-1])
    never = [one["says"] for one in found["warnings"] if one["kind"] == "never"]
    assert never == ["Reizen met een hond is never seen by anybody: it leads nowhere yet"]
    table = await as_ines.get(f"{SITE}/places/header/audiences.csv", params=query)
    assert table.text.startswith('level,entry,id,"visitor, desktop, en"')
    assert (await as_ines.get(f"{SITE}/places/nowhere/audiences")).status_code == 422


async def test_the_timeline_has_a_notch_where_something_changes(as_ines: httpx.AsyncClient) -> None:
    params = {"since": "2027-01-01T00:00", "days": 365}
    found = (await as_ines.get(f"{SITE}/timeline", params=params)).json()
    notches = {one["at"]: one["says"] for one in found["notches"]}
    assert list(notches) == ["2027-02-01T00:00", "2027-04-01T04:00", "2027-10-01T04:00"]
    assert "starts" in notches["2027-04-01T04:00"][0]
    assert [one["at"] for one in found["troubles"]] == ["2027-03-28T02:00", "2027-10-31T01:00+00:00"]
    line = next(one for one in found["places"] if (one["location"], one["device"]) == ("header", "desktop"))
    assert [one["begins"] for one in line["stretches"]] == ["2027-01-01T00:00", *notches]
    asked = await as_ines.get(f"{SITE}/clock", params={"at": "2027-10-31T01:30"})
    assert asked.json() == {"comes": "twice", "offers": ["2027-10-31T01:30+01:00", "2027-10-31T01:30+00:00"]}
    assert (await as_ines.get(f"{SITE}/clock", params={"at": "soon"})).status_code == 422


async def test_only_who_may_design_changes_facts(as_ines: httpx.AsyncClient) -> None:
    own = (await facts(as_ines))["own"]
    for known, says in [
        ({**own, "facts": {"device": {"type": "text"}}}, '"device" is built in'),
        ({**own, "facts": {"not": {"type": "flag"}}}, "word of the rule language"),
        ({**own, "facts": {**own["facts"], "tier": {"type": "choice"}}}, "a choice needs its values"),
        ({**own, "rules": {"signed_in": "always"}}, "the name of a fact and of a rule"),
        ({**own, "rules": {"a": "b", "b": "a"}}, "leads back to itself"),
    ]:
        refused = await keep(as_ines, json={"known": known, "sets": []})
        assert (refused.status_code, says in refused.json()["detail"]) == (422, True), refused.text
    unknown = await keep(as_ines, json={"known": own, "sets": ["nowhere"]})
    assert unknown.status_code == 404
    outline = parse_outline("A -> /a {when this is no rule}").to_json()
    assert outline["items"][0]["when"] == "this is no rule", "what was typed is kept, and found"  # type: ignore[index,call-overload]
