"""Two stand-in gateways and the Internet between them, in one virtual time."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import partial
from random import Random
from typing import Final

from pontifex.core.addressing import Address
from pontifex.core.call_effects import CallDown, CallEffect, CallUp, SendSegment, Told
from pontifex.core.entropy import SeededEntropy
from pontifex.core.ike.effects import ChildInstalled, ChildRemoved, Effect, Keepalive, Logged, LogLevel, Send
from pontifex.core.ike.message import Message
from pontifex.core.ike.settings import EndSettings
from pontifex.core.kinds import SIDES, Side, Uplink
from pontifex.core.peer_keys.settings import PeerKeySettings
from pontifex.core.rehearsal.clock import Clock
from pontifex.core.rehearsal.events import LogLine, Mark, MarkKind, Sent
from pontifex.core.rehearsal.gateway import StandIn
from pontifex.core.rehearsal.ike_stand_in import IkeStandIn
from pontifex.core.rehearsal.internet import DroppedError, Internet, access
from pontifex.core.rehearsal.own_end import OwnEnd
from pontifex.core.rehearsal.packets import Packet
from pontifex.core.rehearsal.peer_key_stand_in import PeerKeyStandIn
from pontifex.core.rehearsal.tls_stand_in import TlsStandIn
from pontifex.core.tls.settings import TlsSettings


@dataclass(slots=True)
class Record:
    """What has happened so far."""

    sent: list[Sent] = field(default_factory=list)
    logs: list[LogLine] = field(default_factory=list)
    marks: list[Mark] = field(default_factory=list)
    effects: list[tuple[Side, Effect | CallEffect]] = field(default_factory=list)  # SAs and connections that came and went
    delivered: dict[Side, list[bytes]] = field(default_factory=lambda: {side: [] for side in SIDES})

    def has(self, side: Side, kind: type[Effect | CallEffect]) -> bool:
        """Whether something has happened at a side."""
        return any(at is side and isinstance(effect, kind) for at, effect in self.effects)


class World:
    """Both gateways with their accesses. Nothing happens but by the clock."""

    def __init__(self, ends: dict[Side, OwnEnd], uplinks: dict[Side, Uplink], seed: bytes) -> None:
        self.clock = Clock()
        self.record = Record()
        self.access = {
            side: access(uplinks[side], uplinks[side.other], ends[side.other].peer, over_tcp=_over_tcp(ends[side]))
            for side in SIDES
        }
        self._names = {side: uplinks[side].dns_name for side in SIDES}
        self._internet = Internet(Random(seed))  # noqa: S311 -- loss and jitter, which can be repeated
        self.gateways = {side: self._gateway(side, ends[side], seed) for side in SIDES}
        self._woken: dict[Side, float] = dict.fromkeys(SIDES, float("inf"))

    def _gateway(self, side: Side, own: OwnEnd, seed: bytes) -> StandIn:
        return _STAND_INS[type(own.settings)](
            own=own,
            entropy=SeededEntropy(seed + side.value.encode()),
            local=self.access[side].inside,
            send=partial(self._send, side),
            resolve=partial(self._resolve, side),
            log=partial(self._log, side),
            delivered=self.record.delivered[side].append,
            changed=partial(self._changed, side),
        )

    def _name(self, side: Side) -> str:
        return self.gateways[side].own.name

    def _resolve(self, side: Side, name: str) -> Address | None:
        """Ask the name service; the far end's names come first, since it is the one that is looked for."""
        for other in (side.other, side):
            if self._names[other] == name:
                return self.access[other].outside
        return None

    def start(self, side: Side) -> None:
        """Switch an end on."""
        self.gateways[side].start(self.clock.now)
        self._plan(side)

    def start_again(self, side: Side) -> None:
        """Begin with what was saved: with nothing, where nobody saved what was entered."""
        gateway = self.gateways[side]
        if gateway.is_saved:
            self.start(side)
            return
        self.stop(side)
        self._log(side, Logged("After the restart there is no such tunnel: what was entered was never saved.", LogLevel.ERROR))

    def stop(self, side: Side) -> None:
        """Switch an end off without a word to the other one."""
        was_up = self.gateways[side].is_up
        self.gateways[side].stop()
        if was_up:
            self._mark_down(side)

    def restart(self, side: Side) -> None:
        """Let a gateway lose all its SAs, and begin anew."""
        self.mark(MarkKind.RESTART, f"{self._name(side)} restarts", side)
        self.start(side)

    def move(self, side: Side) -> None:
        """Let a gateway go on from the address that its access has now."""
        self.gateways[side].move(self.clock.now, self.access[side].inside)
        self._plan(side)

    def run_until(self, time: float) -> None:
        """Let time pass."""
        self.clock.run_until(time)

    def forward(self, side: Side, inner: bytes) -> str:
        """Let a host behind a gateway send a packet towards the other side; say why it isn't sent, or nothing where it is."""
        why = self.gateways[side].forward(self.clock.now, inner)
        self._plan(side)
        return why

    def _plan(self, side: Side) -> None:
        """Let a gateway be woken when something is due of it."""
        due = self.gateways[side].due
        if due < self._woken[side]:
            self._woken[side] = due
            self.clock.at(due, partial(self._wake, side, due))

    def _wake(self, side: Side, planned: float) -> None:
        if self._woken[side] != planned:
            return  # planned anew meanwhile
        self._woken[side] = float("inf")
        if self.gateways[side].due <= self.clock.now:
            self.gateways[side].wake(self.clock.now)
        self._plan(side)

    def _send(self, side: Side, packet: Packet, message: Message | Told | None) -> None:
        """Carry a packet to the other gateway, and note it whether it arrives or not."""
        sent = Sent(self.clock.now, side, packet, packet, message)
        self.record.sent.append(sent)
        start, end = self.access[side], self.access[side.other]
        try:
            sent.outside = start.leave(self.clock.now, packet)
            after = self._internet.delay_s(sent.outside, start, end)
        except DroppedError as error:
            sent.dropped = str(error)
            return
        self.clock.at(self.clock.now + after, partial(self._arrive, side.other, sent))

    def _arrive(self, side: Side, sent: Sent) -> None:
        try:
            inside = self.access[side].arrive(self.clock.now, sent.outside)
        except DroppedError as error:
            sent.dropped = str(error)
            return
        self.gateways[side].receive(self.clock.now, inside)
        self._plan(side)

    def answer_passes(self, side: Side) -> bool:
        """Whether an answer to what has arrived at a side would get back to where it came from."""
        near, far = self.access[side], self.access[side.other]
        for sent in self.record.sent:
            if sent.sender is side or sent.dropped:
                continue
            seen = sent.outside
            try:
                answer = near.leave(self.clock.now, Packet(seen.destination, seen.source, seen.protocol, b""))
                far.arrive(self.clock.now, answer)
            except DroppedError:
                continue
            return True
        return False

    def _log(self, side: Side, line: Logged) -> None:
        self.record.logs.append(LogLine(at_s=round(self.clock.now, 6), side=side, level=line.level, text=line.text))

    def _changed(self, side: Side, effect: Effect | CallEffect) -> None:
        if isinstance(effect, _IN_PASSING):
            return
        self.record.effects.append((side, effect))
        match effect:
            case ChildInstalled():
                self._mark_up(side, "Child SA", renewed=effect.replaces is not None)
            case CallUp():
                self._mark_up(side, "connection", renewed=effect.renewed)
            case ChildRemoved() | CallDown() if not self.gateways[side].is_up:
                self._mark_down(side)
            case _:
                pass

    def _mark_up(self, side: Side, what: str, *, renewed: bool) -> None:
        text = f"{self._name(side)} has a {'rekeyed' if renewed else 'new'} {what}"
        self.mark(MarkKind.REKEY if renewed else MarkKind.UP, text, side)

    def _mark_down(self, side: Side) -> None:
        what = "Child SA" if isinstance(self.gateways[side], IkeStandIn) else "connection"
        self.mark(MarkKind.DOWN, f"{self._name(side)} has no {what} any more", side)

    def mark(self, kind: MarkKind, text: str, side: Side | None = None) -> None:
        """Note something on the time axis."""
        self.record.marks.append(Mark(at_s=round(self.clock.now, 6), kind=kind, text=text, side=side))


_IN_PASSING: Final = (Send, Keepalive, Logged, SendSegment)  # effects by which nothing comes or goes

_STAND_INS: Final[dict[type, type[StandIn]]] = {
    EndSettings: IkeStandIn,
    TlsSettings: TlsStandIn,
    PeerKeySettings: PeerKeyStandIn,
}


def _over_tcp(end: OwnEnd) -> bool:
    return isinstance(end.settings, TlsSettings) and end.settings.over_tcp
