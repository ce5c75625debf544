"""A stand-in gateway whose tunnel has no IKE: what is the same whatever its calls are made of."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Generic, Protocol, TypeVar

from pontifex.core.addressing import Region
from pontifex.core.call_effects import CallEffect, CallUp, SendSegment
from pontifex.core.ike.effects import Logged, LogLevel, Redial, Socket
from pontifex.core.kinds import Role
from pontifex.core.rehearsal.gateway import StandIn, allows
from pontifex.core.rehearsal.packets import UDP, Packet, read_inner


class CallEndpoint(Protocol):
    """One end of such a tunnel."""

    @property
    def due(self) -> float:
        """When it is to be woken."""

    def wake(self, now: float) -> list[CallEffect]:
        """Do what is due."""

    def dial(self, now: float, local: Socket, remote: Socket) -> list[CallEffect]:
        """Call the other end."""


_Endpoint = TypeVar("_Endpoint", bound=CallEndpoint)


@dataclass(slots=True)
class CallStandIn(StandIn, Generic[_Endpoint]):
    """A gateway with one endpoint."""

    endpoint: _Endpoint | None = None

    @abstractmethod
    def begun(self) -> _Endpoint:
        """Return an endpoint that knows of nothing yet."""

    @property
    @abstractmethod
    def call_ports(self) -> tuple[int, int]:
        """The ports that a call goes from and to."""

    @property
    def protocol(self) -> int:
        """What carries the tunnel."""
        return UDP

    def start(self, now: float) -> None:
        """Begin from nothing: nothing is left of what stood. An end that calls calls at once."""
        self.endpoint = self.begun() if self.own.is_on else None
        if self.own.role is Role.CALL:
            self.dial(now)

    def stop(self) -> None:
        """Switch the end off without a word to the other one."""
        self.endpoint = None

    @property
    def due(self) -> float:
        """When something is to be sent again, asked, or called anew."""
        return self.endpoint.due if self.endpoint else float("inf")

    def wake(self, now: float) -> None:
        """Do what is due."""
        if self.endpoint:
            self.act(now, self.endpoint.wake(now))

    def dial(self, now: float) -> None:
        """Call the other end, where there is an address to call."""
        remote = self.peer_to_call() if self.endpoint else None
        if self.endpoint and remote:
            near, far = self.call_ports
            self.act(now, self.endpoint.dial(now, Socket(self.local, near), Socket(remote, far)))

    @property
    def is_running(self) -> bool:
        """Whether the end is switched on."""
        return self.endpoint is not None

    def deliver(self, inner: bytes, networks: tuple[Region, Region] | None) -> None:
        """Pass on what has come out of the tunnel, where the networks allow it."""
        header = read_inner(inner)
        if header is None or networks is None or not allows(*networks, header, outbound=False):
            self.log(Logged("A packet from the tunnel is dropped: its addresses aren't those of the tunnel.", LogLevel.WARNING))
            return
        self.delivered(inner)

    def act(self, now: float, effects: Sequence[CallEffect]) -> None:
        """Do what the end has left to be done, in its order."""
        for effect in effects:
            match effect:
                case SendSegment():
                    self.send(Packet(effect.source, effect.destination, self.protocol, effect.octets), effect.told)
                case Logged():
                    self.log(effect)
                case Redial() if self.own.role.calls:
                    self.dial(now)
                case CallUp():
                    self.counters.established += 1
                    self.counters.ike_rekeys += effect.renewed
                case _:
                    pass
            self.changed(effect)
