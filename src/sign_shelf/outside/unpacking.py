"""Undoing the one content coding (RFC 9110, 8.4) that an answer may come in, piece by piece, so that limits hold."""

import zlib
from collections.abc import Callable, Iterator

import brotli

from sign_shelf.core.errors import SourceRefused

PIECE = 65_536
"""The most bytes given at once, whatever came in."""

Unpack = Callable[[bytes], Iterator[bytes]]


def unpacker(coding: str, where: str) -> Unpack:
    """What undoes the coding, a piece at a time. Raises SourceRefused for one that is not undone here, several at once
    among them, and while it works where the data are broken."""
    match coding.strip().lower():
        case "" | "identity":
            return _as_is
        case "gzip" | "x-gzip":
            return _inflating(31, where)
        case "deflate":
            return _inflating(15, where)
        case "br":
            return _brotli(where)
        case other:
            raise SourceRefused(
                f'The answer is packed as "{other[:60]}", which is not undone.', where=where,
                remedy="Plain, gzip, deflate and br are read, one of them at a time.",
            )  # fmt: skip


def _as_is(chunk: bytes) -> Iterator[bytes]:
    for begin in range(0, len(chunk), PIECE):
        yield chunk[begin : begin + PIECE]


def _inflating(bits: int, where: str) -> Unpack:
    inflater = zlib.decompressobj(wbits=bits)

    def undo(chunk: bytes) -> Iterator[bytes]:
        while chunk and not inflater.eof:
            try:
                out = inflater.decompress(chunk, PIECE)
            except zlib.error as exc:
                raise SourceRefused(f"The answer's packing is broken: {exc}", where=where) from exc
            if out:
                yield out
            chunk = inflater.unconsumed_tail

    return undo


def _brotli(where: str) -> Unpack:
    decompressor = brotli.Decompressor()

    def undo(chunk: bytes) -> Iterator[bytes]:
        try:
            out = decompressor.process(chunk, output_buffer_limit=PIECE)
            while out:
                yield out
                out = b"" if decompressor.is_finished() else decompressor.process(b"", output_buffer_limit=PIECE)
        except brotli.error as exc:
            raise SourceRefused("The answer's packing is broken.", where=where) from exc

    return undo
