"""Names and secrets that tests share."""

from pydantic import SecretStr

from sign_shelf.store.seals import Seals, new_seal_key

SHELF = "http://shelf.example"
OWN_PAGE = {"origin": SHELF}
"""What a browser sends with every write of our own pages."""
LOOPBACK = frozenset({"127.0.0.1"})
PASSWORD = "long enough to be kept"
KEY = SecretStr(new_seal_key())
SEALS = Seals(KEY)
