"""One end of a tunnel over TLS: the connections that it has, what is due of them, and which of them carries packets."""

from __future__ import annotations

from typing import Final

from pontifex.core.call_effects import CallDown, CallEffect, CallEnded, CallUp
from pontifex.core.entropy import Entropy
from pontifex.core.ike.effects import Redial, Socket
from pontifex.core.tls.connection import TlsConnection, TlsState
from pontifex.core.tls.data_channel import DataError
from pontifex.core.tls.segments import Frame, FrameKind, Segment, SegmentKind
from pontifex.core.tls.settings import TlsSettings

_REDIAL_AFTER_S: Final = 10.0
_ID: Final = 8  # octets


class TlsEndpoint:
    """All that an end knows of its tunnel. It has no clock, no socket and no randomness but what is handed in."""

    def __init__(self, own: TlsSettings, entropy: Entropy) -> None:
        self._own, self._entropy = own, entropy
        self._connections: dict[bytes, TlsConnection] = {}
        self._redial_at = float("inf")
        self._renewing: set[bytes] = set()  # the connections that another one is to take the place of

    def configure(self, own: TlsSettings) -> None:
        """Take other settings; connections that stand go on as they are."""
        self._own = own

    @property
    def carrying(self) -> TlsConnection | None:
        """The connection that carries packets: the newest one."""
        return next((connection for connection in reversed(self._connections.values()) if connection.phase is TlsState.UP), None)

    @property
    def is_calling(self) -> bool:
        """Whether a call of this end is under way."""
        return any(
            connection.calls and connection.phase in (TlsState.HELLO, TlsState.SESSION)
            for connection in self._connections.values()
        )

    @property
    def due(self) -> float:
        """When it is to be woken."""
        return min(
            (time for connection in self._connections.values() for time in self._times(connection)), default=self._redial_at
        )

    def _times(self, connection: TlsConnection) -> tuple[float, ...]:
        own = self._own
        times = (connection.frames.due, self._redial_at)
        if connection.phase is not TlsState.UP:
            return times
        alive = connection.said_at + own.keepalive_s if own.keepalive_s else float("inf")
        return *times, alive, connection.doubted_at, self._renewal(connection)

    def _renewal(self, connection: TlsConnection) -> float:
        due = connection.up_at + self._own.renegotiation_s if self._own.renegotiation_s else float("inf")
        return float("inf") if connection.id in self._renewing else due

    def dial(self, now: float, local: Socket, remote: Socket, replaces: bytes = b"") -> list[CallEffect]:
        """Call the other end, unless a call is under way."""
        self._redial_at = float("inf")
        if self.is_calling:
            return []
        made = TlsConnection(self._own, self._entropy(_ID), local, remote, calls=True, entropy=self._entropy, replaces=replaces)
        self._connections[made.id] = made
        return self._settled(now, made, made.call(now))

    def wake(self, now: float) -> list[CallEffect]:
        """Do what is due."""
        effects: list[CallEffect] = [Redial()] if self._redial_at <= now else []
        if effects:
            self._redial_at = float("inf")
        for connection in list(self._connections.values()):
            said = connection.wake(now) if connection.frames.due <= now else []
            if connection.phase is TlsState.UP:
                said += self._upkeep(now, connection)
            effects += self._settled(now, connection, said)
        return effects

    def _upkeep(self, now: float, connection: TlsConnection) -> list[CallEffect]:
        own = self._own
        if connection.doubted_at <= now:
            return connection.doubt(now)
        said = connection.alive(now) if own.keepalive_s and connection.said_at + own.keepalive_s <= now else []
        if self._renewal(connection) <= now:
            said += self._renew(now, connection)
        return said

    def _renew(self, now: float, connection: TlsConnection) -> list[CallEffect]:
        """Begin the connection that takes another one's place; the end that called calls anew."""
        self._renewing.add(connection.id)
        return (
            self.dial(now, connection.local, connection.remote, connection.id)
            if connection.calls
            else connection.ask_renewal(now)
        )

    def receive(self, now: float, octets: bytes, source: Socket, local: Socket) -> tuple[list[CallEffect], bytes | None, str]:
        """Take a segment; return what follows, the host's packet that was in it, and why such a packet is dropped."""
        segment = Segment.read(octets)
        if segment is None:
            return [], None, ""
        connection = self._connections.get(segment.connection) or self._called(segment, source, local)
        if connection is None:
            return [], None, ""  # of a connection from before a restart: it answers nothing
        if segment.kind is SegmentKind.DATA:
            return [], *self._opened(now, connection, segment)
        said = connection.receive(now, segment, source)
        frame = Frame.read(segment.body) if segment.kind is SegmentKind.FRAME else None
        if frame and frame.kind is FrameKind.RENEW and connection.phase is TlsState.UP and connection.id not in self._renewing:
            said += self._renew(now, connection)
        return self._settled(now, connection, said), None, ""

    def _called(self, segment: Segment, source: Socket, local: Socket) -> TlsConnection | None:
        """Return the connection that a caller begins; None where this is no beginning."""
        frame = Frame.read(segment.body) if segment.kind is SegmentKind.FRAME and segment.number == 0 else None
        if frame is None or frame.kind is not FrameKind.HELLO:
            return None
        made = TlsConnection(self._own, segment.connection, local, source, calls=False, entropy=self._entropy)
        self._connections[made.id] = made
        return made

    @staticmethod
    def _opened(now: float, connection: TlsConnection, segment: Segment) -> tuple[bytes | None, str]:
        if connection.incoming is None:
            return None, ""
        try:
            packet = connection.incoming.open(segment.body)
        except DataError as error:
            return None, str(error)
        connection.hear(now)
        return packet, ""

    def _settled(self, now: float, connection: TlsConnection, said: list[CallEffect]) -> list[CallEffect]:
        """Let go of what has ended or was replaced, and call again where this end does."""
        effects = list(said)
        for effect in said:
            if isinstance(effect, CallUp) and connection.replaces in self._connections:
                del self._connections[connection.replaces]
            if isinstance(effect, CallEnded):
                del self._connections[connection.id]
                if connection.outgoing:
                    effects.append(CallDown(connection.id))
                if connection.calls and self._own.redials and self.carrying is None:
                    self._redial_at = now + _REDIAL_AFTER_S
        return effects
