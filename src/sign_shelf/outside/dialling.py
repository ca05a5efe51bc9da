"""Whom we connect to: names are resolved once, every address is checked, and the very address that was checked is dialled.

It stands below the connection pool (httpcore's network backend), so that connections are told apart by origin and a
certificate is checked against the name that was asked for, whatever address the name is at.
"""

import asyncio
import ipaddress
import socket
from collections.abc import Iterable, Mapping
from time import monotonic

import httpcore

from sign_shelf.core.errors import HostUnknown, PrivateHost

_NAT64 = (ipaddress.ip_network("64:ff9b::/96"), ipaddress.ip_network("64:ff9b:1::/48"))
"""IPv4 behind a translator (RFC 6052, RFC 8215); the embedded address stands in the last 32 bits."""
_COMPATIBLE = ipaddress.ip_network("::/96")
_TRANSLATED = ipaddress.ip_network("::ffff:0:0:0/96")
_ISATAP = frozenset({0x00005EFE, 0x02005EFE})

SocketOption = tuple[int, int, int] | tuple[int, int, bytes | bytearray] | tuple[int, int, None, int]


def _embedded(ip: ipaddress.IPv6Address) -> list[ipaddress.IPv4Address]:
    """The IPv4 addresses that a packet to this address may end up at."""
    last = ipaddress.IPv4Address(int(ip) & 0xFFFFFFFF)
    found = [one for one in (ip.ipv4_mapped, ip.sixtofour) if one is not None]
    if ip.teredo is not None:
        found += ip.teredo
    if any(ip in network for network in (*_NAT64, _COMPATIBLE, _TRANSLATED)):
        found.append(last)
    if int(ip) >> 32 & 0xFFFFFFFF in _ISATAP:
        found.append(last)
    return found


def is_public(address: str) -> bool:
    """Whether the address, and every address embedded in it, is one of the public internet."""
    ip = ipaddress.ip_address(address.split("%")[0])
    inner = _embedded(ip) if isinstance(ip, ipaddress.IPv6Address) else []
    if inner:
        return all(is_public(str(one)) for one in inner)
    return ip.is_global and not ip.is_multicast and not ip.is_reserved


class CheckedDialler(httpcore.AsyncNetworkBackend):
    """Dials the addresses of a name one after the other; refuses names that have a private one. Names in `standing` are
    at that address and port, and checked like every other."""

    def __init__(
        self, allowed_private_hosts: frozenset[str], standing: Mapping[str, tuple[str, int]] | None = None
    ) -> None:
        self._allowed = allowed_private_hosts
        self._standing = standing or {}
        self._inner = httpcore.AnyIOBackend()

    async def connect_tcp(
        self,
        host: str,
        port: int,
        timeout: float | None = None,  # noqa: ASYNC109 - the name that httpcore gives it
        local_address: str | None = None,
        socket_options: Iterable[SocketOption] | None = None,
    ) -> httpcore.AsyncNetworkStream:
        until = monotonic() + timeout if timeout is not None else None
        addresses = await self._addresses(host, port, timeout)
        port = self._standing[host.lower()][1] if host.lower() in self._standing else port
        failed: Exception | None = None
        for at, address in enumerate(addresses):
            # Those that are left share the time that is left, so that one which never answers does not use it all.
            left = (until - monotonic()) / (len(addresses) - at) if until is not None else None
            if left is not None and left <= 0:
                break
            try:
                return await self._inner.connect_tcp(address, port, left, local_address, socket_options)
            except (httpcore.ConnectError, httpcore.ConnectTimeout) as exc:
                failed = exc
        raise failed or httpcore.ConnectTimeout(f"{host} did not answer in time")

    async def _addresses(self, host: str, port: int, within_s: float | None) -> list[str]:
        try:
            async with asyncio.timeout(within_s):
                name = self._standing[host.lower()][0] if host.lower() in self._standing else host
                found = await asyncio.get_running_loop().getaddrinfo(name, None, type=socket.SOCK_STREAM)
        except TimeoutError as exc:
            raise httpcore.ConnectTimeout(f"the name {host} was not resolved in time") from exc
        except (OSError, UnicodeError) as exc:
            raise HostUnknown(f'The host "{host}" is not known.', where=host, remedy="Check its spelling.") from exc
        addresses = list(dict.fromkeys(str(entry[4][0]) for entry in found))
        if host.lower() not in self._allowed and f"{host.lower()}:{port}" not in self._allowed:
            private = next((address for address in addresses if not is_public(address)), None)
            if private:
                raise PrivateHost(
                    f'"{host}" is at {private}, a private address, which is not read.',
                    where=host,
                    remedy="If the site really stands there, name the host in SIGN_SHELF_PRIVATE_HOSTS.",
                )
        return addresses

    async def sleep(self, seconds: float) -> None:
        await asyncio.sleep(seconds)
