"""Probes: packets of hosts behind the gateways, and what became of them."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from enum import Enum
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address, Region, common_region
from pontifex.core.ipsec.overhead import IP_HEADER
from pontifex.core.kinds import SIDES, Side
from pontifex.core.rehearsal.packets import InnerHeader, packet_between, probe_packet
from pontifex.core.rehearsal.world import World

_ROUND_TRIP_S: Final = 4.0  # for which an answer is waited
_PAUSE_S: Final = 0.5
_SMALL: Final = 56  # octets behind the IP header
_TRIES: Final = 3


class ProbeKind(Enum):
    """What is tried."""

    ACROSS = "across"  # a small packet, and its answer
    LARGEST = "largest"  # the largest packet that should pass
    TOO_LARGE = "too-large"  # one octet more
    TCP = "tcp"  # a connection to a port
    HOPS = "hops"  # the way, hop by hop
    OUTSIDE = "outside"  # the address that the outside sees
    RESOLVER = "resolver"  # who answers a name


PACKETS: Final = (ProbeKind.ACROSS, ProbeKind.LARGEST, ProbeKind.TOO_LARGE)  # of the tunnel itself, by single packets


@dataclass(frozen=True, slots=True, kw_only=True)
class ProbeResult:
    """What became of a probe."""

    kind: ProbeKind
    sender: Annotated[Side, Field(title="Sent behind")]
    passes: bool
    round_trip_ms: Annotated[float | None, Field(title="Round trip, ms", description="Null where no answer came.")]
    octets: Annotated[int, Field(title="Octets", description="Of the inner packet.")]
    text: Annotated[str, Field(title="What happened")]
    answers: Annotated[
        tuple[Address, ...], Field(title="Who answered", description="The hops, the resolver, or as it is seen.")
    ] = ()


def probe(world: World, side: Side, kind: ProbeKind = ProbeKind.ACROSS) -> ProbeResult:
    """Send a packet from behind a gateway to behind the other one and back; a lost one is sent again, as a person would."""
    result = ping(world, side, kind)
    for _ in range(_TRIES - 1):
        if result.passes or kind is ProbeKind.TOO_LARGE or not world.gateways[side].is_running:
            break
        result = ping(world, side, kind)
    return result


def ping(world: World, side: Side, kind: ProbeKind = ProbeKind.ACROSS) -> ProbeResult:
    """Send a packet once, and wait for its answer."""
    header = packet_between(*networks_between(world, side))
    if header is None:
        return _failed(side, kind, 0, "nothing could pass between the networks")
    size = _size(world, side, header, kind)
    if size is None:
        return _failed(side, kind, 0, "no tunnel carries it")
    began = world.clock.now
    why = sent_across(world, side, header, size)
    if why:
        return _failed(side, kind, size, why)
    arrived = began if kind is ProbeKind.TOO_LARGE else _answered(world, side, header, size)
    if arrived is None:
        return _failed(side, kind, size, "it arrived, and the answer didn't")
    took = round((arrived - began) * 1000, 3)
    return ProbeResult(kind=kind, sender=side, passes=True, round_trip_ms=took, octets=size, text=f"answered after {took:g} ms")


def networks_between(world: World, side: Side) -> tuple[Region, Region]:
    """Return the networks of a gateway's side and of the other one between which hosts try to reach each other.

    Where both ends have a tunnel, that is what both carry: who tries takes hosts that are to be reached.
    """
    gateway, other = world.gateways[side], world.gateways[side.other].carries
    near, far = gateway.carries or (gateway.own.settings.local_networks, gateway.own.settings.remote_networks)
    if gateway.carries is None or other is None or other == (far, near):
        return near, far
    return common_region(near, other[1]), common_region(far, other[0])


def _failed(side: Side, kind: ProbeKind, size: int, text: str) -> ProbeResult:
    return ProbeResult(kind=kind, sender=side, passes=False, round_trip_ms=None, octets=size, text=text)


def _size(world: World, side: Side, header: InnerHeader, kind: ProbeKind) -> int | None:
    if kind is ProbeKind.ACROSS:
        return IP_HEADER[header.source.family] + _SMALL
    path_mtu = min(world.access[end].mtu for end in SIDES)
    largest = world.gateways[side].inner_mtu(world.access[side].outside.family, path_mtu)
    return None if largest is None else largest + (kind is ProbeKind.TOO_LARGE)


def sent_across(world: World, side: Side, header: InnerHeader, size: int) -> str:
    """Send a packet and wait for it behind the other gateway; say why it didn't come, or nothing where it did."""
    packet = probe_packet(header.source, header.destination, header.protocol, header.ports or (0, 0), size)
    arrived, why = carried_across(world, side, packet)
    return why or ("" if arrived == packet else "it arrived changed")


def carried_across(world: World, side: Side, packet: bytes) -> tuple[bytes, str]:
    """Send a packet into the tunnel and wait for what comes out behind the other gateway; say why nothing does, else nothing."""
    heard = world.record.delivered[side.other]
    before = len(heard)
    noted = len(world.record.sent)
    why = world.forward(side, packet)
    if why:
        if world.clock.next_due < math.inf:  # something goes on that may bring the tunnel up
            _wait(world, _PAUSE_S)
        return b"", why
    _wait(world, _ROUND_TRIP_S / 2, lambda: len(heard) > before)
    if len(heard) == before:
        dropped = next((sent.dropped for sent in world.record.sent[noted:] if sent.dropped and sent.sender is side), "")
        return b"", dropped or "the far gateway refused it"
    return heard[-1], ""


def _answered(world: World, side: Side, header: InnerHeader, size: int) -> float | None:
    """Let the host behind the other gateway answer; return when that arrived, or None."""
    ports = header.ports[::-1] if header.ports else None
    back = InnerHeader(header.destination, header.source, header.protocol, ports)
    if sent_across(world, side.other, back, size):
        return None
    return world.clock.now


def _wait(world: World, seconds: float, until: Callable[[], bool] = lambda: False) -> None:
    """Let time pass, at most so long, or until something has come."""
    end = world.clock.now + seconds
    while not until() and world.clock.next_due <= end:
        world.clock.step()
    if not until():
        world.run_until(end)
