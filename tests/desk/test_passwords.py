"""What a guess at a password costs."""

import pytest

from sign_shelf.core.errors import Refusal
from sign_shelf.desk import passwords
from sign_shelf.settings import configured


@pytest.fixture
def _at_its_price(monkeypatch: pytest.MonkeyPatch) -> None:
    """Without what the tests set to be quick."""
    for name in ("MEMORY_KIB", "PASSES", "LANES"):
        monkeypatch.delenv(f"SIGN_SHELF_PASSWORD_{name}", raising=False)
    passwords._hasher.cache_clear()
    passwords._hash_of_nobody.cache_clear()


@pytest.mark.usefixtures("_at_its_price")
async def test_a_password_costs_what_rfc_9106_recommends_where_nothing_else_is_set() -> None:
    kept = await passwords.hashed("grass on the dunes")
    assert kept.startswith("$argon2id$v=19$m=65536,t=3,p=4$")
    assert await passwords.matches(kept, "grass on the dunes")
    assert not await passwords.matches(kept, "grass on the dune")
    assert not await passwords.matches(None, "grass on the dunes")
    passwords._hasher.cache_clear()
    passwords._hash_of_nobody.cache_clear()


def test_a_cost_that_cannot_be_is_named_when_a_server_starts(monkeypatch: pytest.MonkeyPatch) -> None:
    for name, wrong in (("PASSES", "0"), ("LANES", "5"), ("MEMORY_KIB", "8")):
        with monkeypatch.context() as patch:
            patch.setenv(f"SIGN_SHELF_PASSWORD_{name}", wrong)
            with pytest.raises(Refusal, match=f"SIGN_SHELF_PASSWORD_{name} is wrong"):
                configured()
