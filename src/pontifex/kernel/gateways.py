"""Two stand-in gateways at real sockets: they send out of their namespaces, and what hosts send comes by a tun device."""

from __future__ import annotations

import os
import select
import socket
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from functools import partial
from threading import Event, Thread
from typing import Final

from pontifex.core.addressing import Address, Family, parse_address
from pontifex.core.call_effects import CallEffect, Told
from pontifex.core.entropy import SeededEntropy
from pontifex.core.ike.effects import IKE_PORT, NAT_PORT, Effect, Logged, Socket
from pontifex.core.ike.message import ExchangeType, Message
from pontifex.core.kinds import SIDES, Side
from pontifex.core.rehearsal.events import LogLine, Sent
from pontifex.core.rehearsal.gateway import Resolve
from pontifex.core.rehearsal.ike_stand_in import IkeStandIn
from pontifex.core.rehearsal.own_end import OwnEnd
from pontifex.core.rehearsal.packets import ESP, UDP, Packet
from pontifex.core.rehearsal.world import Record
from pontifex.kernel.namespaces import within

_MOST_OCTETS: Final = 65_535
_LONGEST_WAIT_S: Final = 0.2
_FAMILY: Final = {Family.V4: socket.AF_INET, Family.V6: socket.AF_INET6}
_IP_MTU_DISCOVER, _DONT = 10, 0  # ip(7): messages of IKE may go in fragments
_INIT, _ANSWER = bytes((ExchangeType.IKE_SA_INIT,)), b"\x20"  # exchange type and flags (RFC 7296 section 3.1)
_EXCHANGE: Final = 18  # where the header of IKE has the exchange type, before its flags


@dataclass(slots=True)
class _Attachment:
    """The sockets of one gateway, and its tun device."""

    stand_in: IkeStandIn
    local: Address
    tun: int
    udp: dict[int, socket.socket]  # by port
    esp: socket.socket
    heard: Callable[[bytes], None]  # a message of IKE

    def files(self) -> dict[int, Callable[[float], None]]:
        """Return what reads each file, by its number."""
        readers = {opened.fileno(): partial(self._datagram, port, opened) for port, opened in self.udp.items()}
        return {**readers, self.esp.fileno(): self._esp, self.tun: self._inner}

    def _datagram(self, port: int, opened: socket.socket, now: float) -> None:
        octets, sender = opened.recvfrom(_MOST_OCTETS)
        source = Socket(_address(sender[0]), sender[1])
        self.heard(octets)
        self.stand_in.receive(now, Packet(source, Socket(self.local, port), UDP, octets))

    def _esp(self, now: float) -> None:
        octets, sender = self.esp.recvfrom(_MOST_OCTETS)
        if self.local.family is Family.V4:
            octets = octets[(octets[0] & 15) * 4 :]  # a raw socket gives the IP header as well (raw(7))
        self.stand_in.receive(now, Packet(Socket(_address(sender[0]), 0), Socket(self.local, 0), ESP, octets))

    def _inner(self, now: float) -> None:
        self.stand_in.forward(now, os.read(self.tun, _MOST_OCTETS))

    def send(self, packet: Packet) -> None:
        """Send a packet; what the kernel doesn't take is lost, as on a line that is down."""
        to = str(packet.destination.address)
        with suppress(OSError):
            if packet.protocol == ESP:
                self.esp.sendto(packet.payload, (to, 0))
            else:
                self.udp[packet.source.port].sendto(packet.payload, (to, packet.destination.port))

    def close(self) -> None:
        """Close its sockets."""
        for opened in (*self.udp.values(), self.esp):
            opened.close()


@dataclass(slots=True)
class KernelGateways:
    """Both gateways, each in its namespace, in real time; a thread of their own serves them."""

    ends: dict[Side, OwnEnd]
    addresses: dict[Side, Address]
    namespaces: dict[Side, str]
    tuns: dict[Side, int]
    resolve: Resolve
    seed: bytes
    record: Record = field(default_factory=Record)
    was_answered: bool = False  # IKE_SA_INIT, at whichever end
    _lines: dict[Side, _Attachment] = field(default_factory=dict)
    _began: float = 0.0
    _stop: Event = field(default_factory=Event)
    _thread: Thread | None = None

    def __enter__(self) -> KernelGateways:
        self._began = time.monotonic()
        for side in SIDES:
            self._lines[side] = self._line(side)
        self._thread = Thread(target=self._serve, daemon=True)
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._stop.set()
        if self._thread:
            self._thread.join(5)
        for line in self._lines.values():
            line.close()

    @property
    def now(self) -> float:
        """Seconds since the beginning."""
        return time.monotonic() - self._began

    def stand_in(self, side: Side) -> IkeStandIn:
        """Return the gateway of a side."""
        return self._lines[side].stand_in

    def _line(self, side: Side) -> _Attachment:
        stand_in = IkeStandIn(
            own=self.ends[side],
            entropy=SeededEntropy(self.seed + side.value.encode()),
            local=self.addresses[side],
            send=partial(self._send, side),
            resolve=self.resolve,
            log=partial(self._log, side),
            delivered=partial(self._deliver, side),
            changed=partial(self._changed, side),
        )
        local = self.addresses[side]
        udp = {port: within(self.namespaces[side], partial(_udp, local, port)) for port in (IKE_PORT, NAT_PORT)}
        esp = within(self.namespaces[side], partial(_raw, local))
        return _Attachment(stand_in, local, self.tuns[side], udp, esp, self._heard)

    def _serve(self) -> None:
        """Switch both ends on, those that wait first, and serve them until this is over."""
        for side in sorted(SIDES, key=lambda end_side: self.ends[end_side].role.calls):
            self._lines[side].stand_in.start(self.now)
        readers = {file: reader for line in self._lines.values() for file, reader in line.files().items()}
        while not self._stop.is_set():
            due = min(line.stand_in.due for line in self._lines.values())
            wait = min(max(due - self.now, 0), _LONGEST_WAIT_S)
            for file in select.select(list(readers), [], [], wait)[0]:
                with suppress(OSError):
                    readers[file](self.now)
            for line in self._lines.values():
                if line.stand_in.due <= self.now:
                    line.stand_in.wake(self.now)

    def _send(self, side: Side, packet: Packet, message: Message | Told | None) -> None:
        self.record.sent.append(Sent(self.now, side, packet, packet, message))
        self._lines[side].send(packet)

    def _heard(self, octets: bytes) -> None:
        if octets[_EXCHANGE : _EXCHANGE + 1] == _INIT and octets[_EXCHANGE + 1 : _EXCHANGE + 2] == _ANSWER:
            self.was_answered = True

    def _deliver(self, side: Side, inner: bytes) -> None:
        with suppress(OSError):
            os.write(self.tuns[side], inner)

    def _log(self, side: Side, line: Logged) -> None:
        self.record.logs.append(LogLine(at_s=round(self.now, 6), side=side, level=line.level, text=line.text))

    def _changed(self, side: Side, effect: Effect | CallEffect) -> None:
        self.record.effects.append((side, effect))


def _address(text: str) -> Address:
    return Address(*parse_address(text.partition("%")[0]))


def _udp(local: Address, port: int) -> socket.socket:
    made = socket.socket(_FAMILY[local.family], socket.SOCK_DGRAM)
    if local.family is Family.V4:
        made.setsockopt(socket.IPPROTO_IP, _IP_MTU_DISCOVER, _DONT)
    made.bind((str(local), port))
    made.setblocking(False)
    return made


def _raw(local: Address) -> socket.socket:
    made = socket.socket(_FAMILY[local.family], socket.SOCK_RAW, ESP)
    made.bind((str(local), 0))
    made.setblocking(False)
    return made
