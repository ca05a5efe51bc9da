"""The order in which the words of a language stand in an index: the Unicode Collation Algorithm (UTS 10) with the language's
own tailoring (CLDR), by ICU. PostgreSQL orders by the same library, so it is wherever our database is."""

import ctypes
import ctypes.util
from functools import lru_cache

_KEPT = 50_000
"""Keys that are kept: pages are ordered again whenever a menu is."""


@lru_cache(_KEPT)
def sort_key(text: str, language: str) -> bytes:
    """What texts in the language (BCP 47) are compared by. A language without a tailoring of its own has the root's
    order. Raises RuntimeError where ICU is not installed."""
    units = text.encode("utf-16-le", "surrogatepass")
    collator, length = _collator(language), len(units) // 2
    size = _icu().getSortKey(collator, units, length, None, 0)
    key = ctypes.create_string_buffer(size)
    _icu().getSortKey(collator, units, length, key, size)
    return key.raw


class _Library:
    """The two functions of ICU's C interface that are needed; their names carry its version."""

    def __init__(self) -> None:
        name = ctypes.util.find_library("icui18n")
        if name is None:
            raise RuntimeError("ICU is not installed. Run `make setup`, or `apt-get install libicu72`.")
        library, version = ctypes.CDLL(name), name.partition(".so.")[2].split(".")[0]
        self.open = library[f"ucol_open_{version}"]
        self.open.restype = ctypes.c_void_p
        self.open.argtypes = [ctypes.c_char_p, ctypes.POINTER(ctypes.c_int)]
        self.getSortKey = library[f"ucol_getSortKey_{version}"]
        self.getSortKey.restype = ctypes.c_int32
        self.getSortKey.argtypes = [
            ctypes.c_void_p, ctypes.c_char_p, ctypes.c_int32, ctypes.c_char_p, ctypes.c_int32,
        ]  # fmt: skip


_icu = lru_cache(1)(_Library)


@lru_cache(500)
def _collator(language: str) -> int:
    """Never closed: a few languages are asked for again and again. It may be read by several threads at once."""
    status = ctypes.c_int(0)
    found = _icu().open(language.encode("ascii", "ignore"), ctypes.byref(status))
    if not found or status.value > 0:
        raise RuntimeError(f"ICU has no order for {language} (status {status.value}).")
    return int(found)
