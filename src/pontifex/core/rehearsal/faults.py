"""Faults that are let happen at a time of a rehearsal."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from enum import Enum
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address
from pontifex.core.ike.settings import EndSettings, Proof
from pontifex.core.kinds import Side
from pontifex.core.peer_keys.settings import PeerKeySettings
from pontifex.core.rehearsal.events import MarkKind
from pontifex.core.rehearsal.own_end import Settings
from pontifex.core.rehearsal.world import World

_DELAY_S: Final = 0.4  # that "delay" adds, one way
_ANOTHER_SECRET: Final = b"another secret"
_LONG_AGO: Final = date(2000, 1, 1)
_LOSS: Final = 0.3  # that "loss" adds


class FaultKind(Enum):
    """What goes wrong at one side, or is put right again."""

    UPLINK_DOWN = "uplink-down"
    UPLINK_UP = "uplink-up"
    RESTART = "restart"
    RESTART_UNSAVED = "restart-unsaved"
    SAVED = "saved"
    SWITCHED_OFF = "switched-off"
    SWITCHED_ON = "switched-on"
    ADDRESS_CHANGES = "address-changes"
    NAT_FORGETS = "nat-forgets"
    PORTS_BLOCKED = "ports-blocked"
    PORTS_OPEN = "ports-open"
    KEY_CHANGED = "key-changed"
    CLOCK_WRONG = "clock-wrong"
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


STEP_KINDS: Final = {
    "start": FaultKind.SWITCHED_ON,
    "stop": FaultKind.SWITCHED_OFF,
    "save": FaultKind.SAVED,
    "restart": FaultKind.RESTART,
}
_STEP_S: Final = 10.0  # that a step is given before the next one
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
    kinds, sides = [fault_kind.value for fault_kind in FaultKind], [known.value for known in Side]
    if kind not in kinds:
        raise FaultTextError(f"'{kind}' is nothing that can be let happen: {', '.join(kinds)}")
    if side not in sides:
        raise FaultTextError(f"'{side}' is no side: left or right")
    return Fault(at_s=parse_duration(time), kind=FaultKind(kind), side=Side(side))


def parse_order(texts: Sequence[str]) -> list[Fault]:
    """Read a list of steps, such as "start right", "save right", "wait 30s" and "start left", as what happens when.

    Each step gets 10 s before the next one. Raise FaultTextError naming the word that isn't understood.
    """
    found: list[Fault] = []
    at_s = 0.0
    for text in texts:
        words = text.split()
        if len(words) == 2 and words[0] == "wait":
            at_s += parse_duration(words[1])
        elif len(words) == 2 and words[0] in STEP_KINDS and words[1] in {side.value for side in Side}:
            found.append(Fault(at_s=at_s, kind=STEP_KINDS[words[0]], side=Side(words[1])))
            at_s += _STEP_S
        else:
            raise FaultTextError(f"'{text}' is no step: write {', '.join(STEP_KINDS)} and a side, or wait 30s")
    return found


def _uplink(world: World, side: Side, *, is_down: bool) -> None:
    world.access[side].is_down = is_down


def _change_address(world: World, side: Side) -> None:
    """Give the uplink the next address: what its NAT or filter knew is gone, and its name follows."""
    access = world.access[side]
    old = access.outside
    access.outside = Address(old.family, old.value ^ 1)
    access.forget()
    if not access.translates:
        access.inside = access.outside
        world.move(side)


def _block(world: World, side: Side, *, blocked: bool) -> None:
    world.access[side].blocked = set(world.gateways[side].ports) if blocked else set()


def _change_key(world: World, side: Side) -> None:
    """Give one end another key: what stands goes on standing until it is dialled anew."""
    gateway = world.gateways[side]
    gateway.configure(replace(gateway.own, settings=_with_another_key(gateway.own.settings)))


def _with_another_key(settings: Settings) -> Settings:
    if isinstance(settings, PeerKeySettings):
        return replace(settings, private=_ANOTHER_SECRET.ljust(32, b"\0"))
    if isinstance(settings, EndSettings):
        return replace(settings, proof=Proof(_ANOTHER_SECRET, settings.proof.key))
    return replace(settings, control_key=_ANOTHER_SECRET)


def _set_clock_back(world: World, side: Side) -> None:
    """Let an end believe that it is years ago, as after a restart without a battery: certificates aren't valid yet."""
    gateway = world.gateways[side]
    settings = gateway.own.settings
    if not isinstance(settings, PeerKeySettings):  # of static keys nothing hangs on a day
        gateway.configure(replace(gateway.own, settings=replace(settings, today=lambda _: _LONG_AGO)))


def _restart_unsaved(world: World, side: Side) -> None:
    world.gateways[side].is_saved = False
    world.start_again(side)


def _save(world: World, side: Side) -> None:
    world.gateways[side].is_saved = True


def _worsen(world: World, side: Side, *, loss: float = 0, delay_s: float = 0) -> None:
    access = world.access[side]
    access.loss, access.delay_s = min(access.loss + loss, 1.0), access.delay_s + delay_s


_HAPPENS: Final[dict[FaultKind, Callable[[World, Side], None]]] = {
    FaultKind.UPLINK_DOWN: lambda world, side: _uplink(world, side, is_down=True),
    FaultKind.UPLINK_UP: lambda world, side: _uplink(world, side, is_down=False),
    FaultKind.RESTART: lambda world, side: world.start_again(side),
    FaultKind.RESTART_UNSAVED: _restart_unsaved,
    FaultKind.SAVED: _save,
    FaultKind.SWITCHED_OFF: lambda world, side: world.stop(side),
    FaultKind.SWITCHED_ON: lambda world, side: world.start(side),
    FaultKind.ADDRESS_CHANGES: _change_address,
    FaultKind.NAT_FORGETS: lambda world, side: world.access[side].forget(),
    FaultKind.PORTS_BLOCKED: lambda world, side: _block(world, side, blocked=True),
    FaultKind.PORTS_OPEN: lambda world, side: _block(world, side, blocked=False),
    FaultKind.KEY_CHANGED: _change_key,
    FaultKind.CLOCK_WRONG: _set_clock_back,
    FaultKind.LOSS: lambda world, side: _worsen(world, side, loss=_LOSS),
    FaultKind.DELAY: lambda world, side: _worsen(world, side, delay_s=_DELAY_S),
}
LABELS: Final = {
    FaultKind.UPLINK_DOWN: "the uplink goes down",
    FaultKind.UPLINK_UP: "the uplink is back",
    FaultKind.RESTART: "the gateway restarts",
    FaultKind.RESTART_UNSAVED: "the gateway restarts, and nothing was saved",
    FaultKind.SAVED: "the gateway saves",
    FaultKind.SWITCHED_OFF: "the end is switched off",
    FaultKind.SWITCHED_ON: "the end is switched on",
    FaultKind.ADDRESS_CHANGES: "the address changes",
    FaultKind.NAT_FORGETS: "the NAT forgets",
    FaultKind.PORTS_BLOCKED: "the tunnel's ports are blocked",
    FaultKind.PORTS_OPEN: "the tunnel's ports pass again",
    FaultKind.KEY_CHANGED: "the key is changed at one end",
    FaultKind.CLOCK_WRONG: "the gateway's clock is years behind",
    FaultKind.LOSS: "three packets of ten are lost",
    FaultKind.DELAY: "each packet takes 0.4 s longer",
}


def let_happen(world: World, fault: Fault) -> None:
    """Let a fault happen now."""
    world.mark(MarkKind.FAULT, LABELS[fault.kind], fault.side)
    _HAPPENS[fault.kind](world, fault.side)
