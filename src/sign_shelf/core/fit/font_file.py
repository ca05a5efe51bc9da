"""Font files from anywhere, read with care: OpenType and TrueType as they are, WOFF2 unpacked, everything else refused.

Sources: OpenType 1.9 (file structure), WOFF File Format 2.0.
"""

import struct
from dataclasses import dataclass
from io import BytesIO

import brotli
import uharfbuzz as hb
from fontTools.ttLib import TTFont

from sign_shelf.core.errors import FitRefused

MOST_BYTES = 4_000_000
MOST_UNPACKED = 24_000_000
MOST_TABLES = 64
_REMEDY = "Upload an OpenType (.otf), TrueType (.ttf) or WOFF2 file with a single font in it."
_WOFF2_HEADER = 48
_KNOWN_TAG = 63


@dataclass(frozen=True)
class FontFacts:
    family: str
    weights: tuple[int, int]
    characters: int


def sfnt_of(data: bytes) -> bytes:
    """The file's bytes as OpenType. Raises FitRefused for what is too large, damaged, or no single font."""
    if len(data) > MOST_BYTES:
        raise FitRefused(
            f"The file has {len(data):,} bytes; at most {MOST_BYTES:,} are taken.", where="font", remedy=_REMEDY
        )
    if data[:4] in {b"\0\1\0\0", b"OTTO", b"true"}:
        return data
    if data[:4] != b"wOF2":
        raise FitRefused("This is no font file that is read here.", where="font", remedy=_REMEDY)
    _refuse_bomb(data)
    try:
        font = TTFont(BytesIO(data), recalcTimestamp=False)
        font.flavor = None
        out = BytesIO()
        font.save(out, reorderTables=None)
    except Exception as exc:  # fontTools raises whatever a damaged table makes it run into
        raise FitRefused(f"The WOFF2 file is damaged: {_said(exc)}", where="font", remedy=_REMEDY) from exc
    return out.getvalue()


def font_facts(sfnt: bytes) -> FontFacts:
    """What a font says of itself, once it has shown that it can be read and shapes text. Raises FitRefused."""
    _refuse_lies(sfnt)
    try:
        font = TTFont(BytesIO(sfnt), lazy=True)
        name = font["name"]
        family = name.getDebugName(16) or name.getDebugName(1) or ""
        weight = int(font["OS/2"].usWeightClass) if "OS/2" in font else 400
        axes = font["fvar"].axes if "fvar" in font else []
        lightest, heaviest = next(
            ((int(axis.minValue), int(axis.maxValue)) for axis in axes if axis.axisTag == "wght"), (weight, weight)
        )
        face = hb.Face(sfnt)
        characters = len(face.unicodes)
        buffer = hb.Buffer()
        buffer.add_str("Hamburg 1")
        buffer.guess_segment_properties()
        hb.shape(hb.Font(face), buffer)
    except Exception as exc:  # as above: a damaged table may raise anything
        raise FitRefused(f"The font is damaged: {_said(exc)}", where="font", remedy=_REMEDY) from exc
    family = " ".join(family.split())[:100]
    if not family or any(ord(one) < 32 or one in '"\\<>;{}' for one in family):
        raise FitRefused("The font does not say a usable family name.", where="font", remedy=_REMEDY)
    if characters == 0 or not 16 <= face.upem <= 16_384:
        raise FitRefused("The font has no characters that text could be set in.", where="font", remedy=_REMEDY)
    if not 1 <= lightest <= heaviest <= 1_000:
        raise FitRefused(f"The font gives its weights as {lightest} to {heaviest}.", where="font", remedy=_REMEDY)
    return FontFacts(family, (lightest, heaviest), characters)


def _refuse_lies(sfnt: bytes) -> None:
    """Tables that the directory places outside the file."""
    if len(sfnt) < 12:
        raise FitRefused("The file ends in its header.", where="font", remedy=_REMEDY)
    (tables,) = struct.unpack(">H", sfnt[4:6])
    if not 1 <= tables <= MOST_TABLES or len(sfnt) < 12 + 16 * tables:
        raise FitRefused(f"The font claims {tables} tables.", where="font", remedy=_REMEDY)
    for at in range(tables):
        tag, _, offset, length = struct.unpack(">4sLLL", sfnt[12 + 16 * at : 28 + 16 * at])
        if offset + length > len(sfnt):
            named = tag.decode("latin-1")
            raise FitRefused(f'The table "{named}" lies outside the file.', where="font", remedy=_REMEDY)


def _refuse_bomb(data: bytes) -> None:
    """A compressed part that unpacks to more than the file says, or than is taken; it is never unpacked further."""
    try:
        begin, unpacked = _compressed_part(data)
        if unpacked > MOST_UNPACKED:
            raise FitRefused(f"Unpacked, the font would have {unpacked:,} bytes.", where="font", remedy=_REMEDY)
        (length,) = struct.unpack(">L", data[20:24])
        decompressor = brotli.Decompressor()
        got = len(decompressor.process(data[begin : begin + length], output_buffer_limit=65_536))
        while got <= unpacked and not decompressor.is_finished():
            piece = decompressor.process(b"", output_buffer_limit=65_536)
            if not piece:
                raise FitRefused("The WOFF2 file ends too early.", where="font", remedy=_REMEDY)
            got += len(piece)
        if got > unpacked:
            raise FitRefused("The WOFF2 file unpacks to more than it says.", where="font", remedy=_REMEDY)
    except (brotli.error, struct.error, IndexError) as exc:
        raise FitRefused(f"The WOFF2 file is damaged: {_said(exc)}", where="font", remedy=_REMEDY) from exc


def _compressed_part(data: bytes) -> tuple[int, int]:
    """Where the compressed part begins, and how many bytes the directory says that it unpacks to."""
    (tables,) = struct.unpack(">H", data[12:14])
    if not 1 <= tables <= MOST_TABLES:
        raise FitRefused(f"The font claims {tables} tables.", where="font", remedy=_REMEDY)
    at, unpacked = _WOFF2_HEADER, 0
    for _ in range(tables):
        flags = data[at]
        at += 1
        tag, version = flags & 0x3F, flags >> 6
        name = b""
        if tag == _KNOWN_TAG:
            name = data[at : at + 4]
            at += 4
        length, at = _base128(data, at)
        # glyf (10) and loca (11) are transformed in version 0, every other table in any version but 0.
        if (version == 0) if (tag in {10, 11} or name in {b"glyf", b"loca"}) else (version != 0):
            length, at = _base128(data, at)
        unpacked += length
    return at, unpacked


def _base128(data: bytes, at: int) -> tuple[int, int]:
    value = 0
    for step in range(5):
        byte = data[at + step]
        value = (value << 7) | (byte & 0x7F)
        if byte < 0x80:
            return value, at + step + 1
    raise FitRefused("The WOFF2 file is damaged: a length has no end.", where="font", remedy=_REMEDY)


def _said(exc: BaseException) -> str:
    return " ".join(str(exc).split())[:120] or type(exc).__name__
