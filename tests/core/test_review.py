"""Approvals: of exactly this content, by people who wrote none of it, what they said last."""

from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.changes.review import Given, approved_by, wanted
from sign_shelf.core.changes.state import Part, change_name

people = st.sampled_from(["ines", "tom", "rosa"])
contents = st.sampled_from(["sha256:a", "sha256:b"])
said = st.lists(
    st.builds(Given, person=people, content=contents, verdict=st.sampled_from(["approved", "declined"])), max_size=12
)


@given(said, contents, st.sets(people))
def test_only_what_others_said_last_of_exactly_this_counts(given: list[Given], content: str, authors: set[str]) -> None:
    found = approved_by(given, content, authors)
    assert len(set(found)) == len(found), "nobody counts twice"
    for person in ("ines", "tom", "rosa"):
        mine = [one.verdict for one in given if (one.person, one.content) == (person, content)]
        assert (person in found) == (bool(mine) and mine[-1] == "approved" and person not in authors)


@given(said, contents)
def test_what_is_said_of_other_contents_changes_nothing(given: list[Given], content: str) -> None:
    of_this = [one for one in given if one.content == content]
    assert approved_by(given, content, ()) == approved_by(of_this, content, ())


@given(st.permutations(["brackwater", "kestrel", "vesper"]), st.sampled_from(["base", "head"]), st.integers(0, 2))
def test_a_change_is_named_by_all_that_it_does_in_whatever_order(sites: list[str], which: str, at: int) -> None:
    parts = [Part(site=site, base=f"sha256:{site}-base", head=f"sha256:{site}-head") for site in sites]
    name = change_name(parts)
    assert name == change_name(sorted(parts, key=lambda one: one.site))
    other = Part(site=parts[at].site, base="sha256:x" if which == "base" else parts[at].base,
                 head="sha256:x" if which == "head" else parts[at].head)  # fmt: skip
    assert change_name([*parts[:at], other, *parts[at + 1 :]]) != name
    assert change_name(parts[1:]) != name


def test_the_strictest_site_says_how_many_are_needed() -> None:
    assert [wanted([]), wanted([0]), wanted([0, 3, 1])] == [1, 1, 3]
