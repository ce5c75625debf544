"""One end of a tunnel with static peer keys: its calls, its sessions, and what is due of them.

A session stands until a newer one takes its place. An end that has sent something and heard nothing calls anew.
"""

from __future__ import annotations

import struct
from dataclasses import dataclass, field, replace
from typing import Final

from cryptography.hazmat.primitives.asymmetric.x25519 import X25519PrivateKey

from pontifex.core.call_effects import CallEffect, CallEnded, CallReached, CallStep, CallUp, SendSegment, Told
from pontifex.core.entropy import Entropy
from pontifex.core.ike.effects import Logged, LogLevel, Redial, Socket
from pontifex.core.kinds import Technology
from pontifex.core.peer_keys.datagrams import Datagram, DatagramKind
from pontifex.core.peer_keys.noise import KEY, Handshake, NotOpenedError, opened, public_octets, sealed
from pontifex.core.peer_keys.settings import PeerKeySettings

_NEVER: Final = float("inf")
_FIRST_AGAIN_S: Final = 1.0  # and twice as long each time
_MOST_TRIES: Final = 5
_REDIAL_AFTER_S: Final = 10.0
_KEPT: Final = 2  # sessions: packets may still be under way in the one before
_TIME: Final = struct.Struct(">d")  # of a call: an older one that is sent again by somebody is dropped


def _told(name: str, *lines: str, is_routine: bool = False) -> Told:
    return Told(name, lines, is_routine=is_routine, technology=Technology.PEER_KEY)


@dataclass(slots=True)
class PeerKeySession:
    """What both ends have agreed on."""

    own: int  # its number at this end
    theirs: int
    outgoing: bytes = field(repr=False)
    incoming: bytes = field(repr=False)
    sent: int = 0
    heard: int = -1  # the highest counter

    @property
    def id(self) -> bytes:
        """What both ends know it by."""
        return bytes.fromhex(f"{min(self.own, self.theirs):08x}{max(self.own, self.theirs):08x}")


@dataclass(slots=True)
class _Call:
    """A call of this end that is under way."""

    own: int
    handshake: Handshake
    octets: bytes
    again_at: float
    tries: int = 1


class PeerKeyEndpoint:
    """All that an end knows of its tunnel. It has no clock, no socket and no randomness but what is handed in."""

    def __init__(self, own: PeerKeySettings, entropy: Entropy) -> None:
        self._own, self._entropy = own, entropy
        self._static = X25519PrivateKey.from_private_bytes(own.private)
        self._call: _Call | None = None
        self._sessions: list[PeerKeySession] = []  # the newest last
        self._newest_call = -1.0  # of the other end
        self._sockets: tuple[Socket, Socket] | None = None  # its own, and where the other end was heard last
        self._redial_at = self._unheard_at = _NEVER
        self._said_at = 0.0

    def configure(self, own: PeerKeySettings) -> None:
        """Take other settings; a session that stands goes on as it is."""
        self._own = own
        self._static = X25519PrivateKey.from_private_bytes(own.private)

    @property
    def carrying(self) -> PeerKeySession | None:
        """The session that carries packets."""
        return self._sessions[-1] if self._sessions else None

    def has(self, session: PeerKeySession) -> bool:
        """Whether it has the other half of a session."""
        return any(kept.id == session.id for kept in self._sessions)

    @property
    def due(self) -> float:
        """When it is to be woken."""
        again = self._call.again_at if self._call else _NEVER
        return min(again, self._redial_at, self._unheard_at, self._alive_at)

    @property
    def _alive_at(self) -> float:
        return self._said_at + self._own.keepalive_s if self._own.keepalive_s and self.carrying else _NEVER

    def dial(self, now: float, local: Socket, remote: Socket) -> list[CallEffect]:
        """Call the other end, unless a call is under way."""
        self._redial_at = _NEVER
        if self._call:
            return []
        self._sockets = local, remote
        handshake = Handshake(self._static, self._ephemeral(), self._own.expected)
        number = int.from_bytes(self._entropy(4))
        try:
            body = handshake.call(_TIME.pack(now))
        except NotOpenedError as error:
            return [Logged(f"The other end can't be called: {error}.", LogLevel.ERROR), CallEnded(str(error))]
        octets = Datagram(DatagramKind.CALL, 0, number, 0, body).octets()
        self._call = _Call(number, handshake, octets, now + _FIRST_AGAIN_S)
        return [self._send(octets, _told("call", "its own public key, sealed for the other end's"))]

    def _ephemeral(self) -> X25519PrivateKey:
        return X25519PrivateKey.from_private_bytes(self._entropy(KEY))

    def _send(self, octets: bytes, told: Told | None) -> SendSegment:
        assert self._sockets
        return SendSegment(*self._sockets, octets, told)

    def wake(self, now: float) -> list[CallEffect]:
        """Do what is due."""
        effects: list[CallEffect] = []
        if self._call and self._call.again_at <= now:
            effects += self._again(now, self._call)
        if self._redial_at <= now or self._unheard_at <= now:
            self._redial_at = self._unheard_at = _NEVER
            effects.append(Redial())
        if self._alive_at <= now:
            effects += self._packet(now, b"", _told("keep-alive", is_routine=True))
        return effects

    def _again(self, now: float, call: _Call) -> list[CallEffect]:
        if call.tries == _MOST_TRIES:
            self._call = None
            self._redial_at = now + _REDIAL_AFTER_S if self._own.redials else _NEVER
            why = "The other end doesn't answer"
            return [Logged(f"{why}.", LogLevel.ERROR), CallEnded(why)]
        call.again_at = now + _FIRST_AGAIN_S * 2**call.tries
        call.tries += 1
        return [self._send(call.octets, _told("the same call again"))]

    def packet(self, now: float, inner: bytes) -> list[CallEffect]:
        """Send a packet of a host by the newest session."""
        if self._unheard_at == _NEVER:
            self._unheard_at = now + self._own.dead_peer_s
        return self._packet(now, inner, None)

    def _packet(self, now: float, inner: bytes, told: Told | None) -> list[CallEffect]:
        session = self.carrying
        assert session
        body = sealed(session.outgoing, session.sent, inner)
        octets = Datagram(DatagramKind.PACKET, session.theirs, session.own, session.sent, body).octets()
        session.sent += 1
        self._said_at = now
        return [self._send(octets, told)]

    def receive(self, now: float, octets: bytes, source: Socket, local: Socket) -> tuple[list[CallEffect], bytes | None]:
        """Take a datagram; return what follows, and the host's packet that was in it."""
        datagram = Datagram.read(octets)
        try:
            match datagram:
                case Datagram(kind=DatagramKind.CALL):
                    return self._called(now, datagram, source, local), None
                case Datagram(kind=DatagramKind.ANSWER):
                    return self._answered(now, datagram, source, local), None
                case Datagram(kind=DatagramKind.PACKET):
                    return self._opened(datagram, source, local)
        except NotOpenedError:
            why = "A datagram is dropped: it isn't sealed for this end's key, or was changed on its way"
            return [CallReached(CallStep.ANSWERED), Logged(f"{why}.", LogLevel.ERROR)], None
        return [], None

    def _called(self, now: float, call: Datagram, source: Socket, local: Socket) -> list[CallEffect]:
        handshake = Handshake(self._static, self._ephemeral(), b"")
        payload = handshake.hear_call(call.body)
        reached: list[CallEffect] = [CallReached(CallStep.ANSWERED)]
        refusal = self._refusal(handshake.remote_static)
        if refusal:
            return [*reached, Logged(f"A call is dropped: {refusal}.", LogLevel.ERROR)]
        sent_at = _TIME.unpack(payload)[0] if len(payload) == _TIME.size else -1.0
        if sent_at <= self._newest_call:
            return [*reached, Logged("A call is dropped: it is an older one, sent again.", LogLevel.WARNING)]
        self._newest_call = sent_at
        number = int.from_bytes(self._entropy(4))
        body = handshake.answer(b"")
        theirs, mine = handshake.keys()
        self._sockets = local, source
        answer = self._send(Datagram(DatagramKind.ANSWER, call.from_session, number, 0, body).octets(), _told("answer"))
        return [*reached, answer, *self._stands(now, PeerKeySession(number, call.from_session, mine, theirs))]

    def _refusal(self, caller: bytes) -> str:
        if caller == public_octets(self._static):
            return "the caller has this end's own key"
        return "" if caller == self._own.expected else "its public key isn't that of the peer"

    def _answered(self, now: float, answer: Datagram, source: Socket, local: Socket) -> list[CallEffect]:
        call = self._call
        if call is None or answer.to_session != call.own:
            return []
        handshake = replace(call.handshake)  # an answer that somebody made up must not spoil the call
        handshake.hear_answer(answer.body)
        self._call, self._sockets = None, (local, source)
        mine, theirs = handshake.keys()
        return [CallReached(CallStep.ANSWERED), *self._stands(now, PeerKeySession(call.own, answer.from_session, mine, theirs))]

    def _stands(self, now: float, session: PeerKeySession) -> list[CallEffect]:
        self._sessions = [*self._sessions, session][-_KEPT:]
        self._said_at, self._unheard_at, self._redial_at = now, _NEVER, _NEVER
        return [Logged("A session with the peer stands."), CallUp(session.id, renewed=False)]

    def _opened(self, packet: Datagram, source: Socket, local: Socket) -> tuple[list[CallEffect], bytes | None]:
        session = next((candidate for candidate in self._sessions if candidate.own == packet.to_session), None)
        if session is None:
            return [], None  # of a session from before a restart: it answers nothing
        inner = opened(session.incoming, packet.counter, packet.body)
        if packet.counter <= session.heard:
            return [Logged("A packet is dropped: it was heard before.", LogLevel.WARNING)], None
        session.heard = packet.counter
        self._sockets, self._unheard_at = (local, source), _NEVER
        return [], inner or None
