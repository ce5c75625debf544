"""Faults that are let happen at a time of a rehearsal."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import Enum
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address
from pontifex.core.ike.effects import IKE_PORT, NAT_PORT
from pontifex.core.ike.settings import Proof
from pontifex.core.kinds import Side
from pontifex.core.rehearsal.events import MarkKind
from pontifex.core.rehearsal.world import World

_DELAY_S: Final = 0.4  # that "delay" adds, one way
_LOSS: Final = 0.3  # that "loss" adds


class FaultKind(Enum):
    """What goes wrong at one side, or is put right again."""

    UPLINK_DOWN = "uplink-down"
    UPLINK_UP = "uplink-up"
    RESTART = "restart"
    SWITCHED_OFF = "switched-off"
    SWITCHED_ON = "switched-on"
    ADDRESS_CHANGES = "address-changes"
    NAT_FORGETS = "nat-forgets"
    PORTS_BLOCKED = "ports-blocked"
    PORTS_OPEN = "ports-open"
    KEY_CHANGED = "key-changed"
    LOSS = "loss"
    DELAY = "delay"


@dataclass(frozen=True, slots=True, kw_only=True)
class Fault:
    """A fault at a time, in seconds from the beginning."""

    at_s: Annotated[float, Field(title="At, s", ge=0, le=7 * 86_400)]
    kind: FaultKind
    side: Side

    def __str__(self) -> str:
        return f"{self.at_s:g}s {self.kind.value} {self.side.value}"


class FaultTextError(ValueError):
    """A text that is no fault; the message says what is wrong."""


_UNITS: Final = {"": 1, "s": 1, "m": 60, "h": 3600}
_DURATION: Final = re.compile(r"(\d{1,6}(?:\.\d{1,3})?)([smh]?)")


def parse_duration(text: str) -> float:
    """Read "30s", "15m" or "2h" as seconds. Raise FaultTextError."""
    found = _DURATION.fullmatch(text.strip())
    if found is None:
        raise FaultTextError(f"'{text}' is no time: write 30s, 15m or 2h")
    return float(found[1]) * _UNITS[found[2]]


def parse_fault(text: str) -> Fault:
    """Read "30s restart left". Raise FaultTextError naming the word that isn't understood."""
    words = text.split()
    if len(words) != 3:
        raise FaultTextError(f"'{text}' is no fault: write a time, what happens, and the side: 30s restart left")
    time, kind, side = words
    kinds, sides = [one.value for one in FaultKind], [one.value for one in Side]
    if kind not in kinds:
        raise FaultTextError(f"'{kind}' is nothing that can be let happen: {', '.join(kinds)}")
    if side not in sides:
        raise FaultTextError(f"'{side}' is no side: left or right")
    return Fault(at_s=parse_duration(time), kind=FaultKind(kind), side=Side(side))


def _uplink(world: World, side: Side, *, is_down: bool) -> None:
    world.access[side].is_down = is_down


def _change_address(world: World, side: Side) -> None:
    """Give the uplink the next address: what its NAT or filter knew is gone, and its name follows."""
    access = world.access[side]
    old = access.outside
    access.outside = Address(old.family, old.value ^ 1)
    if not access.translates:
        access.inside = access.outside
        world.gateways[side].local = access.inside
    access.forget()


def _block(world: World, side: Side, *, blocked: bool) -> None:
    world.access[side].blocked = {IKE_PORT, NAT_PORT} if blocked else set()


def _change_key(world: World, side: Side) -> None:
    """Give one end another key: what stands goes on standing until it is dialled anew."""
    gateway = world.gateways[side]
    settings = replace(gateway.own.settings, proof=Proof(b"another secret", gateway.own.settings.proof.key))
    gateway.own = replace(gateway.own, settings=settings)
    if gateway.endpoint:
        gateway.endpoint.configure(settings)


def _worsen(world: World, side: Side, *, loss: float = 0, delay_s: float = 0) -> None:
    access = world.access[side]
    access.loss, access.delay_s = min(access.loss + loss, 1.0), access.delay_s + delay_s


_HAPPENS: Final[dict[FaultKind, Callable[[World, Side], None]]] = {
    FaultKind.UPLINK_DOWN: lambda world, side: _uplink(world, side, is_down=True),
    FaultKind.UPLINK_UP: lambda world, side: _uplink(world, side, is_down=False),
    FaultKind.RESTART: lambda world, side: world.start(side),
    FaultKind.SWITCHED_OFF: lambda world, side: world.gateways[side].stop(),
    FaultKind.SWITCHED_ON: lambda world, side: world.start(side),
    FaultKind.ADDRESS_CHANGES: _change_address,
    FaultKind.NAT_FORGETS: lambda world, side: world.access[side].forget(),
    FaultKind.PORTS_BLOCKED: lambda world, side: _block(world, side, blocked=True),
    FaultKind.PORTS_OPEN: lambda world, side: _block(world, side, blocked=False),
    FaultKind.KEY_CHANGED: _change_key,
    FaultKind.LOSS: lambda world, side: _worsen(world, side, loss=_LOSS),
    FaultKind.DELAY: lambda world, side: _worsen(world, side, delay_s=_DELAY_S),
}
LABELS: Final = {
    FaultKind.UPLINK_DOWN: "the uplink goes down",
    FaultKind.UPLINK_UP: "the uplink is back",
    FaultKind.RESTART: "the gateway restarts",
    FaultKind.SWITCHED_OFF: "the end is switched off",
    FaultKind.SWITCHED_ON: "the end is switched on",
    FaultKind.ADDRESS_CHANGES: "the address changes",
    FaultKind.NAT_FORGETS: "the NAT forgets",
    FaultKind.PORTS_BLOCKED: "UDP 500 and 4500 are blocked",
    FaultKind.PORTS_OPEN: "UDP 500 and 4500 pass again",
    FaultKind.KEY_CHANGED: "the key is changed at one end",
    FaultKind.LOSS: "three packets of ten are lost",
    FaultKind.DELAY: "each packet takes 0.4 s longer",
}


def let_happen(world: World, fault: Fault) -> None:
    """Let a fault happen now."""
    world.mark(MarkKind.FAULT, LABELS[fault.kind], fault.side)
    _HAPPENS[fault.kind](world, fault.side)
