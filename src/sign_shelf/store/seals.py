"""Secrets at rest: sealed with a key that the database does not hold (Fernet: AES-128-CBC and HMAC-SHA256)."""

from cryptography.fernet import Fernet, InvalidToken, MultiFernet
from pydantic import SecretStr

from sign_shelf.core.errors import Refusal


class Seals:
    """Seals with the first of its keys, opens with any: while a key is being replaced, both are there."""

    def __init__(self, keys: SecretStr) -> None:
        """Keys separated by commas. Raises Refusal for one that is none."""
        try:
            self._keys = MultiFernet([Fernet(key.strip()) for key in keys.get_secret_value().split(",") if key.strip()])
        except ValueError as exc:
            raise Refusal(
                "SIGN_SHELF_KEY is no key that secrets can be sealed with.",
                remedy="Make one with `sign-shelf key make`, and keep it somewhere safe beside the database.",
            ) from exc

    def seal(self, secret: SecretStr) -> str:
        return self._keys.encrypt(secret.get_secret_value().encode()).decode()

    def open(self, sealed: str) -> SecretStr:
        """Raises Refusal where it was sealed with a key that is not there."""
        try:
            return SecretStr(self._keys.decrypt(sealed.encode()).decode())
        except InvalidToken as exc:
            raise Refusal(
                "A secret was sealed with another SIGN_SHELF_KEY.",
                remedy="Start with the key that it was sealed with as well: SIGN_SHELF_KEY=new,old",
            ) from exc

    def sealed_anew(self, sealed: str) -> str:
        return self.seal(self.open(sealed))


def new_seal_key() -> str:
    return Fernet.generate_key().decode()
