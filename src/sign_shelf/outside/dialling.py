"""Whom we connect to: names are resolved once, every address is checked, and the very addresses that were checked are dialled.

It stands below the connections (as aiohttp's resolver), so that they are told apart by origin and a certificate is checked
against the name that was asked for, whatever address the name is at. A host that is an address is never resolved: whoever
asks has it checked by `refuse_private` itself.
"""

import asyncio
import ipaddress
import socket
from collections.abc import Iterable, Mapping

from aiohttp.abc import AbstractResolver, ResolveResult

from sign_shelf.core.errors import HostUnknown, PrivateHost

_NAT64 = (ipaddress.ip_network("64:ff9b::/96"), ipaddress.ip_network("64:ff9b:1::/48"))
"""IPv4 behind a translator (RFC 6052, RFC 8215); the embedded address stands in the last 32 bits."""
_COMPATIBLE = ipaddress.ip_network("::/96")
_TRANSLATED = ipaddress.ip_network("::ffff:0:0:0/96")
_ISATAP = frozenset({0x00005EFE, 0x02005EFE})


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


def is_address(host: str) -> bool:
    """Whether a host is an address itself and no name; an IPv6 address stands without its brackets."""
    try:
        ipaddress.ip_address(host.split("%")[0])
    except ValueError:
        return False
    return True


class CheckedResolver(AbstractResolver):
    """The addresses of a name; names that have a private one are refused. Names in `standing` are at that address and
    port, and checked like every other."""

    def __init__(
        self,
        allowed_private_hosts: frozenset[str],
        standing: Mapping[str, tuple[str, int]] | None = None,
        *,
        within_s: float = 5.0,
    ) -> None:
        self._allowed = allowed_private_hosts
        self._standing = standing or {}
        self._within_s = within_s

    async def resolve(
        self, host: str, port: int = 0, family: socket.AddressFamily = socket.AF_UNSPEC
    ) -> list[ResolveResult]:
        """Raises HostUnknown, PrivateHost, and TimeoutError."""
        name, port = self._standing.get(host.lower(), (host, port))
        try:
            async with asyncio.timeout(self._within_s):
                found = await asyncio.get_running_loop().getaddrinfo(name, None, type=socket.SOCK_STREAM)
        except (OSError, UnicodeError) as exc:
            # A TimeoutError is an OSError too, and says nothing of the name.
            if isinstance(exc, TimeoutError):
                raise
            raise HostUnknown(f'The host "{host}" is not known.', where=host, remedy="Check its spelling.") from exc
        addresses = list(dict.fromkeys(str(entry[4][0]) for entry in found))
        self.refuse_private(host, port, addresses)
        return [
            ResolveResult(
                hostname=host,
                host=address,
                port=port,
                family=socket.AF_INET6 if ":" in address else socket.AF_INET,
                proto=0,
                flags=socket.AI_NUMERICHOST,
            )
            for address in addresses
        ]

    def refuse_private(self, host: str, port: int, addresses: Iterable[str]) -> None:
        """Raises PrivateHost where any of the addresses is private and the host is not one of those that may be."""
        if host.lower() in self._allowed or f"{host.lower()}:{port}" in self._allowed:
            return
        private = next((address for address in addresses if not is_public(address)), None)
        if private:
            raise PrivateHost(
                f'"{host}" is at {private}, a private address, which is not read.',
                where=host,
                remedy="If the site really stands there, name the host in SIGN_SHELF_PRIVATE_HOSTS.",
            )

    async def close(self) -> None:
        """Nothing is held open."""
