"""Secrets at rest: encrypted with a key that the database does not hold, each for one purpose.

Every purpose has a key of its own, derived from the installation's key (HKDF, RFC 5869, with SHA-256). The text is encrypted with
that key (Fernet: AES-128-CBC and HMAC-SHA256). So a text opens only for what it was sealed for: nobody can move a sealed text to
another row, or into a cookie, and have it opened there.
"""

import base64
from datetime import timedelta
from typing import Final, NewType
from uuid import UUID

from cryptography.fernet import Fernet, InvalidToken, MultiFernet
from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF
from pydantic import SecretStr

from sign_shelf.core.errors import Refusal

Purpose = NewType("Purpose", str)
"""What a secret is for: its kind, and the row that it belongs to."""
SINGLE_SIGN_ON: Final = Purpose("single sign-on")
"""What a browser keeps while somebody is at the identity provider."""
_FORM = "2:"
"""What a text begins with that was sealed for a purpose; those of before have nothing in front."""


def site_key(site_id: UUID, kind: str) -> Purpose:
    return Purpose(f"site key/{site_id}/{kind}")


def repository(site_id: UUID) -> Purpose:
    return Purpose(f"repository/{site_id}")


def second_factor(person_id: UUID) -> Purpose:
    return Purpose(f"second factor/{person_id}")


def notice_channel(channel_id: UUID) -> Purpose:
    return Purpose(f"notice channel/{channel_id}")


class Seals:
    """Seals with the first of its keys, opens with any: while a key is being replaced, both are there."""

    def __init__(self, keys: SecretStr) -> None:
        """Keys separated by commas. Raises Refusal for one that is none."""
        self._keys = [key.strip() for key in keys.get_secret_value().split(",") if key.strip()]
        try:
            self._before_purposes = MultiFernet([Fernet(key) for key in self._keys])
        except ValueError as exc:
            raise Refusal(
                "SIGN_SHELF_KEY is no key that secrets can be sealed with.",
                remedy="Make one with `sign-shelf key make`, and keep it somewhere safe beside the database.",
            ) from exc

    def seal(self, secret: SecretStr, purpose: Purpose) -> str:
        return _FORM + self._keys_for(purpose).encrypt(secret.get_secret_value().encode()).decode()

    def open(self, sealed: str, purpose: Purpose, *, within: timedelta | None = None) -> SecretStr:
        """Raises Refusal where it was sealed with a key that is not there, for another purpose, or longer ago than `within`."""
        try:
            if not sealed.startswith(_FORM):
                raise InvalidToken
            opened = self._keys_for(purpose).decrypt(
                sealed.removeprefix(_FORM).encode(), ttl=None if within is None else int(within.total_seconds())
            )
        except InvalidToken as exc:
            raise Refusal(
                "A secret was sealed with another SIGN_SHELF_KEY.",
                remedy="Start with the key that it was sealed with as well: SIGN_SHELF_KEY=new,old",
            ) from exc
        return SecretStr(opened.decode())

    def seal_anew(self, sealed: str, purpose: Purpose) -> str:
        """With the first of the keys. Raises Refusal, as `open` does."""
        return self.seal(self.open(sealed, purpose), purpose)

    def bind(self, sealed: str, purpose: Purpose) -> str:
        """A text that was sealed before there were purposes, sealed for one. For migrations. Raises Refusal, as `open` does."""
        if sealed.startswith(_FORM):
            return sealed
        try:
            return self.seal(SecretStr(self._before_purposes.decrypt(sealed.encode()).decode()), purpose)
        except InvalidToken as exc:
            raise Refusal(
                "A secret was sealed with another SIGN_SHELF_KEY.",
                remedy="Migrate with the key that it was sealed with as well: SIGN_SHELF_KEY=new,old",
            ) from exc

    def _keys_for(self, purpose: Purpose) -> MultiFernet:
        return MultiFernet([Fernet(_derived(key, purpose)) for key in self._keys])


def _derived(key: str, purpose: Purpose) -> bytes:
    derived = HKDF(algorithm=SHA256(), length=32, salt=None, info=b"sign-shelf seal 2/" + purpose.encode())
    return base64.urlsafe_b64encode(derived.derive(base64.urlsafe_b64decode(key)))


def new_seal_key() -> str:
    return Fernet.generate_key().decode()
