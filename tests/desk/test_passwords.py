"""What a guess at a password costs."""

import pytest

from sign_shelf.desk import passwords
from sign_shelf.settings import PasswordCost


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


def test_it_costs_no_less_than_can_be_worked_out() -> None:
    with pytest.raises(ValueError, match="greater than or equal to 1"):
        PasswordCost(passes=0)
