"""Requests of hosts as real packets: asking, answering, and knowing them again by a number of their own."""

from __future__ import annotations

import socket
import struct
from dataclasses import dataclass
from ipaddress import ip_address
from typing import Any, Final

from pontifex.core.addressing import Address
from pontifex.core.kinds import Side, Tunnel

PORTS: Final = (53, 443, 2000, 8080)  # that hosts answer on
FIRST_NUMBER: Final = 40_000  # of a request: its source port, or its identifier
_MOST: Final = 2000
ICMP, TCP, UDP, ICMPV6 = 1, 6, 17, 58


@dataclass(frozen=True)
class Request:
    """One request of a host."""

    number: int
    network_id: str  # of the host that asks
    source: Address
    destination: Address
    protocol: int
    port: int
    dscp: int

    def __str__(self) -> str:
        return f"{self.source} to {self.destination}, protocol {self.protocol}, port {self.port}, class {self.dscp}"


@dataclass(frozen=True)
class Sent:
    """What became of a request: where it came by, where its answer came by, and whether that arrived."""

    there: tuple[str, ...]
    back: tuple[str, ...]
    answered: bool


def listening(family: int, kind: int, port: int) -> socket.socket:
    made = socket.socket(family, kind)
    made.setblocking(False)
    made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    if kind == socket.SOCK_DGRAM:
        if family == socket.AF_INET:
            made.setsockopt(socket.IPPROTO_IP, socket.IP_RECVTOS, 1)
        else:
            made.setsockopt(socket.IPPROTO_IPV6, socket.IPV6_RECVTCLASS, 1)
    made.bind(("" if family == socket.AF_INET else "::", port))
    if kind == socket.SOCK_STREAM:
        made.listen(64)
    return made


def echo(listening: socket.socket) -> None:
    """Answer a request in its class, as hosts do."""
    if listening.type == socket.SOCK_STREAM:
        listening.accept()[0].close()
        return
    text, control, _, sender = listening.recvmsg(256, 64)
    for level, type_, value in control:
        if level == socket.IPPROTO_IP and type_ == socket.IP_TOS:
            listening.setsockopt(socket.IPPROTO_IP, socket.IP_TOS, value[0])
        elif level == socket.IPPROTO_IPV6 and type_ == socket.IPV6_TCLASS:
            listening.setsockopt(socket.IPPROTO_IPV6, socket.IPV6_TCLASS, int.from_bytes(value[:4], "little"))
    listening.sendto(text, sender)


def asking(request: Request) -> socket.socket:
    v4 = request.source.family.bits == 32
    family = socket.AF_INET if v4 else socket.AF_INET6
    kinds = {TCP: (socket.SOCK_STREAM, 0), UDP: (socket.SOCK_DGRAM, 0), ICMP: (socket.SOCK_RAW, ICMP if v4 else ICMPV6)}
    made = socket.socket(family, *kinds[request.protocol])
    made.setblocking(False)
    if v4:
        made.setsockopt(socket.IPPROTO_IP, socket.IP_TOS, request.dscp << 2)
    else:
        made.setsockopt(socket.IPPROTO_IPV6, socket.IPV6_TCLASS, request.dscp << 2)
    made.bind((str(request.source), 0 if request.protocol == ICMP else request.number))
    return made


def ask(made: socket.socket, request: Request) -> None:
    if request.protocol == ICMP:
        type_ = 8 if request.source.family.bits == 32 else 128
        head = struct.pack("!BBHHH", type_, 0, 0, request.number, 1)
        made.sendto(struct.pack("!BBHHH", type_, 0, _checksum(head), request.number, 1), (str(request.destination), 0))
    elif request.protocol == UDP:
        made.sendto(b"?", (str(request.destination), request.port))
    else:
        made.connect((str(request.destination), request.port))


def _checksum(octets: bytes) -> int:
    total: int = sum(struct.unpack(f"!{len(octets) // 2}H", octets))
    total = (total & 0xFFFF) + (total >> 16)
    return ~(total + (total >> 16)) & 0xFFFF


def is_answered(made: socket.socket, request: Request) -> bool | None:
    """Whether the answer has come; None where it was something else, False where there will be none."""
    if request.protocol == TCP:
        error = made.getsockopt(socket.SOL_SOCKET, socket.SO_ERROR)
        return error in (0, 111)  # a connection refused is an answer as well
    try:
        text, sender = made.recvfrom(2048)
    except OSError:
        return None
    if ip_address(sender[0].partition("%")[0]) != ip_address(str(request.destination)):
        return None
    if request.protocol == UDP:
        return True if sender[1] == request.port else None
    head = text[20:] if request.source.family.bits == 32 else text
    return True if head[0] in (0, 129) and struct.unpack("!H", head[4:6])[0] == request.number else None


@dataclass(frozen=True)
class _Head:
    """What the head of a packet says."""

    source: Any
    destination: Any
    protocol: int
    ports: tuple[int, int]
    icmp: tuple[int, int]  # type and identifier


def _head(packet: bytes) -> _Head | None:
    if len(packet) < 28:
        return None
    if packet[0] >> 4 == 4:
        size, protocol = (packet[0] & 15) * 4, packet[9]
        source, destination = ip_address(packet[12:16]), ip_address(packet[16:20])
    elif packet[0] >> 4 == 6 and len(packet) >= 48:
        size, protocol = 40, packet[6]
        source, destination = ip_address(packet[8:24]), ip_address(packet[24:40])
    else:
        return None
    body = packet[size:]
    ports = struct.unpack("!HH", body[:4]) if protocol in (TCP, UDP) else (0, 0)
    icmp = (body[0], struct.unpack("!H", body[4:6])[0]) if protocol in (ICMP, ICMPV6) else (-1, 0)
    return _Head(source, destination, protocol, (ports[0], ports[1]), icmp)


def identified(packet: bytes) -> tuple[int, bool] | None:
    """Return the number of a request, and whether this is its answer; None for any other packet."""
    head = _head(packet)
    if head is None:
        return None
    if head.icmp[0] in (8, 128, 0, 129):
        return (head.icmp[1], head.icmp[0] in (0, 129)) if FIRST_NUMBER <= head.icmp[1] < FIRST_NUMBER + _MOST else None
    for port, back in zip(head.ports, (False, True), strict=True):
        if FIRST_NUMBER <= port < FIRST_NUMBER + _MOST:
            return port, back
    return None


def named(tunnel: Tunnel, side: Side, packet: bytes) -> bool:
    """Whether the networks of both ends name a packet that enters at a side (RFC 4301 section 5)."""
    head = _head(packet)
    if head is None:
        return False
    near, far = tunnel.end(side), tunnel.end(side.other)
    lists = (
        (near.local_networks, head.source, head.ports[0]),
        (far.remote_networks, head.source, head.ports[0]),
        (near.remote_networks, head.destination, head.ports[1]),
        (far.local_networks, head.destination, head.ports[1]),
    )
    for named, address, port in lists:
        if named and not any(
            selector.family.bits == address.max_prefixlen
            and selector.first <= int(address) <= selector.last
            and selector.protocols[0] <= head.protocol <= selector.protocols[1]
            and selector.ports[0] <= port <= selector.ports[1]
            for selector in named
        ):
            return False
    return True
