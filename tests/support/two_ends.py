"""Two machines of IKEv2 that talk to each other over a line which a test decides about."""

from __future__ import annotations

import heapq
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date
from itertools import count
from typing import Any

from pontifex.core.addressing import Address, parse_address, parse_selector
from pontifex.core.entropy import SeededEntropy
from pontifex.core.ike.effects import Effect, Logged, Redial, Send, Socket
from pontifex.core.ike.endpoint import Endpoint
from pontifex.core.ike.settings import EndSettings, Proof
from pontifex.core.ipsec import Proposal, Transform, TransformType
from pontifex.core.kinds import Identity, IdentityType

LEFT, RIGHT = (Socket(Address(*parse_address(text)), 500) for text in ("198.51.100.10", "203.0.113.5"))
DELAY_S = 0.02


def proposal(*transforms: tuple[str, int, int | None]) -> Proposal:
    """Return a proposal of transforms by type, number and key length."""
    return Proposal(
        transforms=tuple(Transform(type=TransformType(type_), id=id_, key_length=bits) for type_, id_, bits in transforms)
    )


IKE = proposal(("ENCR", 20, 256), ("PRF", 5, None), ("KE", 31, None))
ESP = proposal(("ENCR", 20, 256), ("KE", 31, None), ("ESN", 0, None))


def settings(side: str, **changed: Any) -> EndSettings:
    """Return what an end is configured with, so that both ends agree unless something is changed."""
    own, far = ("left", "right") if side == "left" else ("right", "left")
    networks = {"left": "10.64.0.0/22", "right": "10.65.0.0/24"}
    usual: dict[str, Any] = {
        "ike_proposals": (IKE,),
        "child_proposals": (ESP,),
        "identity": Identity(type=IdentityType.FQDN, value=f"{own}.skerry.example"),
        "expected": Identity(type=IdentityType.FQDN, value=f"{far}.skerry.example"),
        "proof": Proof(b"one secret for both ends"),
        "local_networks": (parse_selector(networks[own]),),
        "remote_networks": (parse_selector(networks[far]),),
        "redials": side == "left",
        "today": lambda now: date(2026, 11, 26),
    }
    return EndSettings(**{**usual, **changed})


@dataclass
class TwoEnds:
    """Both machines. `passes` decides of each datagram, by its number, whether it arrives."""

    left: Endpoint
    right: Endpoint
    passes: Callable[[int], bool] = lambda number: True
    now: float = 0.0
    sent: list[tuple[str, Send]] = field(default_factory=list)
    effects: list[tuple[str, Effect]] = field(default_factory=list)
    _way: list[tuple[float, int, str, Send]] = field(default_factory=list)
    _number: count[int] = field(default_factory=count)

    @classmethod
    def of(cls, left: dict[str, Any] | None = None, right: dict[str, Any] | None = None, **more: Any) -> TwoEnds:
        """Return two ends whose settings differ from the usual ones as given."""
        near, far = (
            Endpoint(settings(side, **(changed or {})), SeededEntropy(side.encode()))
            for side, changed in (("left", left), ("right", right))
        )
        return cls(near, far, **more)

    def end(self, side: str) -> Endpoint:
        """The machine of a side."""
        return self.left if side == "left" else self.right

    def dial(self, side: str = "left") -> None:
        """Let an end call."""
        near, far = (LEFT, RIGHT) if side == "left" else (RIGHT, LEFT)
        self._take(side, self.end(side).dial(self.now, near, far))

    def _take(self, side: str, effects: list[Effect]) -> None:
        for effect in effects:
            self.effects.append((side, effect))
            if isinstance(effect, Send):
                number = next(self._number)
                self.sent.append((side, effect))
                if self.passes(number):
                    heapq.heappush(self._way, (self.now + DELAY_S, number, side, effect))
            elif isinstance(effect, Redial):
                self.dial(side)

    def run(self, until: float) -> None:
        """Let everything happen up to a time."""
        while True:
            due, side = min((self.left.due, "left"), (self.right.due, "right"))
            arrival = self._way[0][0] if self._way else float("inf")
            if min(due, arrival) > until:
                self.now = until
                return
            if arrival <= due:
                self.now, _, sender, sent = heapq.heappop(self._way)
                receiver = "right" if sender == "left" else "left"
                self._take(receiver, self.end(receiver).receive(self.now, sent.octets, sent.source, sent.destination))
            else:
                self.now = max(self.now, due)
                self._take(side, self.end(side).wake(self.now))

    def exchanges(self) -> list[tuple[str, str, str]]:
        """Return who sent which exchange, and the first error that it told."""
        return [
            (side, sent.message.header.name, sent.message.error.name if sent.message.error else "") for side, sent in self.sent
        ]

    def log(self, side: str) -> list[str]:
        """Return what a side has logged."""
        return [effect.text for at, effect in self.effects if at == side and isinstance(effect, Logged)]

    def children(self) -> tuple[set[tuple[bytes, bytes]], set[tuple[bytes, bytes]]]:
        """Return the Child SAs of either end, as SPIs of what the left one receives and sends."""
        left = {(child.sa.spi_in, child.sa.spi_out) for sa in self.left.sas for child in sa.children.values()}
        right = {(child.sa.spi_out, child.sa.spi_in) for sa in self.right.sas for child in sa.children.values()}
        return left, right
