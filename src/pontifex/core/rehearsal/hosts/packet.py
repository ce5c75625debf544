"""What hosts say to each other, as octets (RFC 791, RFC 8200, RFC 792, RFC 4443, RFC 768, RFC 9293)."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import Enum
from typing import Final, NamedTuple

from pontifex.core.addressing import Address, Family
from pontifex.core.ipsec.overhead import IP_HEADER
from pontifex.core.rehearsal.packets import ICMP, PORTED, TCP, UDP, InnerHeader, ip_packet, read_inner, summed

USUAL_HOPS: Final = 64  # RFC 1700
_QUOTED: Final = 8  # octets of the payload of what is answered with an error (RFC 792)
_SUM_AT: Final = {TCP: 16, UDP: 6}  # of ICMP it is 2
_SYN, _ACK = 0x02, 0x10
_FLAGS_AT: Final = 13  # in the header of TCP (RFC 9293 section 3.1)
DNS_PORT: Final = 53
HTTPS_PORT: Final = 443  # at which hosts are tried that name no other, and the echo service


class Saying(Enum):
    """What a packet says."""

    ECHO_REQUEST = "echo request"
    ECHO_REPLY = "echo reply"
    TIME_EXCEEDED = "time exceeded"
    SYN = "SYN"
    SYN_ACK = "SYN-ACK"
    ACK = "ACK"
    QUERY = "query"
    ANSWER = "answer"


class _IcmpTypes(NamedTuple):
    """The type of a message of ICMP in either family."""

    v4: int
    v6: int


_ICMP_TYPES: Final = {
    Saying.ECHO_REQUEST: _IcmpTypes(8, 128),
    Saying.ECHO_REPLY: _IcmpTypes(0, 129),
    Saying.TIME_EXCEEDED: _IcmpTypes(11, 3),
}
_FLAGS: Final = {Saying.SYN: _SYN, Saying.SYN_ACK: _SYN | _ACK, Saying.ACK: _ACK}
_BY_FLAGS: Final = {flags: saying for saying, flags in _FLAGS.items()}
_BY_TYPE: Final = {
    (family, types[place]): saying for place, family in enumerate((Family.V4, Family.V6)) for saying, types in _ICMP_TYPES.items()
}
_ANSWERS: Final = {Saying.ECHO_REQUEST: Saying.ECHO_REPLY, Saying.SYN: Saying.SYN_ACK, Saying.QUERY: Saying.ANSWER}
_BEGINS: Final = frozenset({*_ANSWERS, Saying.ANSWER})  # an answer of UDP can't be told from what begins


@dataclass(frozen=True, slots=True)
class HostPacket:
    """A packet of a host, or of a gateway about one.

    Ports are those of source and destination, 0 where there are none; who asks for an echo has its identifier for one.
    """

    source: Address
    destination: Address
    saying: Saying
    ports: tuple[int, int] = (0, 0)
    hops: int = USUAL_HOPS
    dscp: int = 0
    quoted: bytes = b""  # TIME_EXCEEDED: the head of what has gone too far

    @property
    def protocol(self) -> int:
        """The protocol's number (IANA)."""
        if self.saying in _ICMP_TYPES:
            return ICMP[self.source.family]
        return TCP if self.saying in _FLAGS else UDP

    @property
    def may_begin(self) -> bool:
        """Whether a gateway with state can take it for the beginning of a connection."""
        return self.saying in _BEGINS

    @property
    def header(self) -> InnerHeader:
        """What selectors look at."""
        return InnerHeader(self.source, self.destination, self.protocol, self.ports if self.protocol in PORTED else None)

    def turned(self) -> HostPacket:
        """Return a packet the other way, afresh."""
        return replace(self, source=self.destination, destination=self.source, ports=self.ports[::-1], hops=USUAL_HOPS)

    def answered(self) -> HostPacket:
        """Return the answer to it, as the host sends it that got it."""
        return replace(self.turned(), saying=_ANSWERS[self.saying])

    def acknowledged(self) -> HostPacket:
        """Return what a host says to a connection that was accepted."""
        return replace(self.turned(), saying=Saying.ACK, dscp=0)

    def exceeded(self, gateway: Address) -> HostPacket:
        """Return what a gateway says of a packet that has gone too far (RFC 792, RFC 4443 section 3.3)."""
        quoted = self.octets()[: IP_HEADER[self.source.family] + _QUOTED]
        return HostPacket(gateway, self.source, Saying.TIME_EXCEEDED, quoted=quoted)

    def octets(self) -> bytes:
        """The packet as it stands on the wire."""
        body = self._body()
        at = _SUM_AT.get(self.protocol, 2)
        return ip_packet(
            self.source,
            self.destination,
            self.protocol,
            summed(self.source, self.destination, self.protocol, body, at),
            hops=self.hops,
            dscp=self.dscp,
        )

    def _body(self) -> bytes:
        ports = self.ports[0].to_bytes(2) + self.ports[1].to_bytes(2)
        if self.saying in _FLAGS:
            return ports + bytes(8) + bytes((0x50, _FLAGS[self.saying])) + b"\xff\xff" + bytes(4)
        if self.protocol == UDP:
            return ports + (8).to_bytes(2) + bytes(2)
        types = _ICMP_TYPES[self.saying]
        number = types.v4 if self.source.family is Family.V4 else types.v6
        return bytes((number, 0, 0, 0)) + max(self.ports).to_bytes(2) + bytes(2) + self.quoted


def read_host_packet(octets: bytes) -> HostPacket:
    """Read what a host has said, or the head of it that an error quotes."""
    header = read_inner(octets)
    assert header  # what comes out of a tunnel has been read before
    family = header.source.family
    body = octets[IP_HEADER[family] :]
    traffic_class = octets[1] if family is Family.V4 else int.from_bytes(octets[:2]) >> 4 & 0xFF
    saying = _said(header.protocol, family, body)
    identifier = 0 if header.ports else int.from_bytes(body[4:6])
    return HostPacket(
        header.source,
        header.destination,
        saying,
        header.ports or ((0, identifier) if saying is Saying.ECHO_REPLY else (identifier, 0)),
        octets[8] if family is Family.V4 else octets[7],
        traffic_class >> 2,
        body[8:] if saying is Saying.TIME_EXCEEDED else b"",
    )


def _said(protocol: int, family: Family, body: bytes) -> Saying:
    if protocol == UDP:
        return Saying.ANSWER if body[:2] == DNS_PORT.to_bytes(2) else Saying.QUERY
    if protocol == TCP:
        return _BY_FLAGS[body[_FLAGS_AT] if len(body) > _FLAGS_AT else _SYN]
    return _BY_TYPE[family, body[0]]
