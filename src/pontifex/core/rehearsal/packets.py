"""Packets between the gateways, and inside the tunnel, as octets (RFC 791, RFC 8200, RFC 768, RFC 792, RFC 4443, RFC 9293)."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import lru_cache
from typing import Final, NamedTuple

from pontifex.core.addressing import Address, Family, Region
from pontifex.core.addressing.selector import ANY_PORT, ANY_PROTOCOL, Selector
from pontifex.core.ike.effects import Socket
from pontifex.core.ipsec.overhead import IP_HEADER, UDP_HEADER

TCP: Final = 6
UDP: Final = 17
ESP: Final = 50
IP_IN_IP: Final = {Family.V4: 4, Family.V6: 41}  # next header of ESP in tunnel mode (RFC 4303 section 2.6)
KEEPALIVE: Final = b"\xff"  # RFC 3948 section 2.3
PORTED: Final = frozenset({TCP, UDP, 132})
TCP_HEADER: Final = 20  # RFC 9293 section 3.1
_PORT_HEADER: Final = {TCP: TCP_HEADER, UDP: UDP_HEADER}
ICMP: Final = {Family.V4: 1, Family.V6: 58}
_ECHO: Final = {Family.V4: 8, Family.V6: 128}
_VERSIONS: Final = {4: Family.V4, 6: Family.V6}  # the first four bits of a packet


@dataclass(frozen=True, slots=True)
class Packet:
    """A packet on its way from one gateway to the other; ports are 0 for ESP."""

    source: Socket
    destination: Socket
    protocol: int
    payload: bytes = field(repr=False)

    @property
    def size(self) -> int:
        """Length of the whole IP packet, in octets."""
        header = IP_HEADER[self.source.address.family]
        return header + len(self.payload) + _PORT_HEADER.get(self.protocol, 0)

    def octets(self) -> bytes:
        """The packet as it stands on the wire."""
        source, destination = self.source.address, self.destination.address
        ports = self.source.port.to_bytes(2) + self.destination.port.to_bytes(2)
        if self.protocol == TCP:  # each segment as the only one of its connection
            head = ports + bytes(8) + b"\x50\x18\xff\xff" + b"\0\0" + bytes(2)
            total = _sum(_pseudo(source, destination, TCP, len(head) + len(self.payload)) + head + self.payload)
            return ip_packet(source, destination, TCP, head[:16] + total + head[18:] + self.payload)
        if self.protocol != UDP:
            return ip_packet(source, destination, self.protocol, self.payload)
        head = ports + (len(self.payload) + UDP_HEADER).to_bytes(2)
        # over IPv4 the sum may be left out, as RFC 3948 section 2.1 wants it; IPv6 needs it (RFC 8200 section 8.1)
        total = b"\0\0"
        if source.family is Family.V6:
            total = _sum(_pseudo(source, destination, UDP, len(self.payload) + UDP_HEADER) + head + b"\0\0" + self.payload)
            total = b"\xff\xff" if total == b"\0\0" else total
        return ip_packet(source, destination, UDP, head + total + self.payload)


def _written(address: Address) -> bytes:
    return address.value.to_bytes(address.family.bits // 8)


def _sum(octets: bytes) -> bytes:
    """The ones' complement sum of RFC 1071."""
    whole = int.from_bytes(octets + bytes(len(octets) % 2))
    total = whole % 0xFFFF or (0xFFFF if whole else 0)  # what carries come to, added again and again
    return (~total & 0xFFFF).to_bytes(2)


def _pseudo(source: Address, destination: Address, protocol: int, length: int) -> bytes:
    if source.family is Family.V4:
        return _written(source) + _written(destination) + bytes((0, protocol)) + length.to_bytes(2)
    return _written(source) + _written(destination) + length.to_bytes(4) + bytes((0, 0, 0, protocol))


def summed(source: Address, destination: Address, protocol: int, body: bytes, at: int) -> bytes:
    """Return a payload of IP with its checksum, which is zero as yet, at a place; ICMP of IPv4 sums no addresses (RFC 792)."""
    pseudo = b"" if protocol == ICMP[Family.V4] else _pseudo(source, destination, protocol, len(body))
    return body[:at] + _sum(pseudo + body) + body[at + 2 :]


def ip_packet(source: Address, destination: Address, protocol: int, payload: bytes, *, hops: int = 64, dscp: int = 0) -> bytes:
    """Return an IP packet of either family; IPv4 with "don't fragment"."""
    if source.family is Family.V6:
        head = (0x60000000 | dscp << 22).to_bytes(4) + len(payload).to_bytes(2) + bytes((protocol, hops))
        return head + _written(source) + _written(destination) + payload
    length = (IP_HEADER[Family.V4] + len(payload)).to_bytes(2)
    start = bytes((0x45, dscp << 2)) + length + b"\0\0\x40\0" + bytes((hops, protocol))
    addresses = _written(source) + _written(destination)
    return start + _sum(start + b"\0\0" + addresses) + addresses + payload


@lru_cache(maxsize=256)
def probe_packet(source: Address, destination: Address, protocol: int, ports: tuple[int, int], size: int) -> bytes:
    """Return an IP packet of a size in octets; an echo request where the protocol is that of ICMP, a start of TCP for TCP.

    `ports` are those of source and destination, for protocols that have them.
    """
    room = size - IP_HEADER[source.family]
    if protocol == ICMP[source.family]:
        head = bytes((_ECHO[source.family], 0))
        rest = b"\0\1\0\1" + bytes(room - 8)
        pseudo = _pseudo(source, destination, protocol, room) if source.family is Family.V6 else b""
        return ip_packet(source, destination, protocol, head + _sum(pseudo + head + b"\0\0" + rest) + rest)
    start = ports[0].to_bytes(2) + ports[1].to_bytes(2) if protocol in PORTED else b""
    return ip_packet(source, destination, protocol, start + bytes(max(room - len(start), 0)))


class InnerHeader(NamedTuple):
    """What selectors look at in a packet inside the tunnel."""

    source: Address
    destination: Address
    protocol: int
    ports: tuple[int, int] | None  # None where the protocol has none


@lru_cache(maxsize=256)
def read_inner(octets: bytes) -> InnerHeader | None:
    """Read what selectors look at; None where this is no whole IP packet. Both gateways read it, and hosts repeat theirs."""
    if not octets:
        return None
    family = _VERSIONS.get(octets[0] >> 4)
    if family is None or len(octets) < IP_HEADER[family]:
        return None
    body = IP_HEADER[family]
    middle = body - family.bits // 8  # both headers end with the two addresses
    source = Address(family, int.from_bytes(octets[middle - family.bits // 8 : middle]))
    destination = Address(family, int.from_bytes(octets[middle:body]))
    protocol = octets[9] if family is Family.V4 else octets[6]
    ports: tuple[int, int] | None = None
    if protocol in PORTED and len(octets) >= body + 4:
        ports = int.from_bytes(octets[body : body + 2]), int.from_bytes(octets[body + 2 : body + 4])
    return InnerHeader(source, destination, protocol, ports)


def selects(selector: Selector, address: Address, protocol: int, ports: tuple[int, int] | None, place: int) -> bool:
    """Whether a network holds one end of a packet: place 0 for its source, 1 for its destination."""
    low, high = selector.protocols
    if not selector.holds(address) or not low <= protocol <= high:
        return False
    return selector.ports == ANY_PORT or (ports is not None and selector.ports[0] <= ports[place] <= selector.ports[1])


def any_selects(region: Region, address: Address, protocol: int, ports: tuple[int, int] | None, place: int) -> bool:
    """Whether any of several networks holds one end of a packet."""
    for selector in region:  # noqa: SIM110 -- asked of each packet, where a generator costs more than it tells
        if selects(selector, address, protocol, ports, place):
            return True
    return False


@lru_cache(maxsize=1024)
def packet_between(local: Region, remote: Region) -> InnerHeader | None:
    """Return what a packet from near to far may look like, by the first two selectors that share family and protocol.

    None where nothing could pass between the networks.
    """
    for near in local:
        for far in remote:
            protocol = _shared_protocol(near, far)
            if near.family is far.family and protocol is not None:
                ports = near.ports[1], far.ports[0] or 1
                source, destination = Address(near.family, _host(near)), Address(far.family, _host(far))
                return InnerHeader(source, destination, protocol, ports)
    return None


def _host(selector: Selector) -> int:
    """Return an address that a host may have: behind that of the network itself."""
    return min(selector.first + 10, selector.last)


def _shared_protocol(near: Selector, far: Selector) -> int | None:
    low, high = max(near.protocols[0], far.protocols[0]), min(near.protocols[1], far.protocols[1])
    limited = near.ports != ANY_PORT or far.ports != ANY_PORT
    if limited:
        return next((number for number in (6, 17, 132) if low <= number <= high), None)
    if (low, high) == ANY_PROTOCOL:
        return {32: 1, 128: 58}[near.family.bits]
    return low if low <= high else None
