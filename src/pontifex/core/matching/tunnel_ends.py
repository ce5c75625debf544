"""The two ends of one tunnel with all that is needed to compare them."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date
from functools import cached_property
from typing import Any

from pontifex.core.addressing import Family
from pontifex.core.failures import Failures
from pontifex.core.ipsec import Agreement, Refusal
from pontifex.core.ipsec.policy import AlgorithmPolicy
from pontifex.core.kinds import ANY_PEER, SIDES, Gateway, Side, Technology, Transport, Tunnel, TunnelEnd, Uplink
from pontifex.core.matching.around import has_no_way_around, routes_around
from pontifex.core.matching.row import Judgement, Remedy, Row, RowHeading
from pontifex.core.model import Design, Put, apply_operations, put
from pontifex.core.reasons import Names


def mirrored(side: Side, own: str, far: str) -> tuple[str, str]:
    """Return the fields of the left and the right end for a row about one side: its own field, and the far end's."""
    return (own, far) if side is Side.LEFT else (far, own)


@dataclass(frozen=True)
class TunnelEnds:
    """A tunnel in its design. Names of ends are those of their sites, as people call them."""

    design: Design
    tunnel: Tunnel
    today: date  # the day for which certificates and exceptions are judged
    settled: dict[str, Agreement | Refusal | None] = field(default_factory=dict)  # negotiations that are done, by row
    failures: Failures = field(default_factory=Failures)  # rows that could not be compared

    @cached_property
    def left(self) -> TunnelEnd:
        """The left end; both are read again and again."""
        return self.tunnel.left

    @cached_property
    def right(self) -> TunnelEnd:
        """The right end."""
        return self.tunnel.right

    def end(self, side: Side) -> TunnelEnd:
        """The end of a side."""
        return self.left if side is Side.LEFT else self.right

    @cached_property
    def names(self) -> Names:
        """What to call each end; where both stand at one site, by gateway."""
        here, there = self._gateways[Side.LEFT], self._gateways[Side.RIGHT]
        sites = self.design.site_by_id
        left, right = sites[here.site_id].name, sites[there.site_id].name
        return Names(here.name, there.name) if left == right else Names(left, right)

    @cached_property
    def technology(self) -> Technology | None:
        """The technology of both ends, None when they differ."""
        left, right = self.left.technology, self.right.technology
        return left if left is right else None

    @property
    def policy(self) -> AlgorithmPolicy:
        """The algorithm policy in force."""
        return self.design.policy

    def gateway(self, side: Side) -> Gateway:
        """The gateway of a side."""
        return self._gateways[side]

    @cached_property
    def _gateways(self) -> dict[Side, Gateway]:
        gateways = self.design.gateway_by_id
        return {Side.LEFT: gateways[self.left.gateway_id], Side.RIGHT: gateways[self.right.gateway_id]}

    def uplink(self, side: Side) -> Uplink | None:
        """The uplink of a side, None when it isn't known yet."""
        return self._uplinks[side]

    @cached_property
    def _uplinks(self) -> dict[Side, Uplink | None]:
        return {Side.LEFT: self.design.uplink_of(self.left), Side.RIGHT: self.design.uplink_of(self.right)}

    def can_be_called(self, side: Side) -> bool | None:
        """Whether a call from outside reaches a side; None while its uplink isn't known."""
        return self._callable[side]

    @cached_property
    def _callable(self) -> dict[Side, bool | None]:
        return {side: self._is_callable(uplink) if uplink else None for side, uplink in self._uplinks.items()}

    def _is_callable(self, uplink: Uplink) -> bool:
        return uplink.callable(self.over_tcp) or (self.transport_unknown and uplink.callable(True))

    @cached_property
    def over_tcp(self) -> bool:
        """Whether TCP carries the tunnel; anything else comes in UDP, or as ESP."""
        return self._may_use_tcp and Transport.TCP in (self.left.transport, self.right.transport)

    @cached_property
    def transport_unknown(self) -> bool:
        """Whether it isn't known yet if UDP or TCP is to carry the tunnel."""
        return self._may_use_tcp and self.left.transport is None and self.right.transport is None

    @property
    def _may_use_tcp(self) -> bool:
        return self.technology is not None and self.technology.traits.over_tcp

    @cached_property
    def callers(self) -> tuple[Side, ...]:
        """The sides that call."""
        return tuple(side for side in SIDES if self.calls(side))

    def is_to_call(self, side: Side) -> bool:
        """Whether a side is meant to call, and the other can be called."""
        role = self.end(side).role
        return role is not None and role.calls and bool(self.can_be_called(side.other))

    def calls(self, side: Side) -> bool:
        """Whether a side calls: it is meant to, the other can be called, and it has somebody to call."""
        return self.is_to_call(side) and not self.takes_any(side)

    def takes_any(self, side: Side) -> bool:
        """Whether a side takes any caller, and so has nobody to call."""
        return self.end(side).peer_address == ANY_PEER

    @property
    def outer_family(self) -> Family:
        """The family that the ends call each other in, as far as addresses tell."""
        if ":" in (self.left.peer_address or "") or ":" in (self.right.peer_address or ""):
            return Family.V6
        return next(iter(self.uplink_families.values()), Family.V4)

    @cached_property
    def uplink_families(self) -> dict[Side, Family]:
        """The family of each uplink's address, where it is known."""
        return {side: uplink.address.family for side, uplink in self._uplinks.items() if uplink and uplink.address}

    @property
    def inner_families(self) -> frozenset[Family]:
        """The families of the networks at both ends."""
        return frozenset([network.family for end in (self.left, self.right) for network in end.local_networks])

    @cached_property
    def caller(self) -> Side:
        """The side that makes the first call; where both might, or neither, the left one."""
        for makes_call in (self.calls, self.is_to_call):
            for side in SIDES:
                if makes_call(side):
                    return side
        return Side.LEFT

    def set_field(self, side: Side, title: str, **fields: Any) -> Remedy:
        """Return the remedy that replaces fields of one end."""
        return self._remedy(title, self.tunnel.with_valid({side.value: self.end(side).with_valid(fields)}))

    def set_named(self, side: Side, title: str, field: str, value: Any) -> Remedy:
        """Return the remedy that replaces a field of one end which is known by name alone."""
        return self._remedy(title, self.tunnel.with_field(side, field, value))

    def set_same(self, title: str, **fields: Any) -> Remedy:
        """Return the remedy that replaces fields of both ends by the same values."""
        return self.set_ends(title, self.left.with_valid(fields), self.right.with_valid(fields))

    def set_facing(self, title: str, side: Side, own: TunnelEnd, far: TunnelEnd) -> Remedy:
        """Return the remedy that replaces the end of a side, and the one that it faces."""
        return self.set_ends(title, *((own, far) if side is Side.LEFT else (far, own)))

    def set_ends(self, title: str, left: TunnelEnd, right: TunnelEnd) -> Remedy:
        """Return the remedy that replaces both ends."""
        return self._remedy(title, self.tunnel.changed(left=left, right=right))

    def _remedy(self, title: str, changed: Tunnel) -> Remedy:
        """Return the remedy that replaces the tunnel, with the routes that its own packets then need to go around it."""
        around = routes_around(self.design, self.tunnel, changed)
        return Remedy(title=title, operations=(put(changed), *map(put, around)))

    def after(self, remedy: Remedy) -> TunnelEnds:
        """Return the pair as a remedy of this tunnel leaves it."""
        (first, *others) = remedy.operations
        if isinstance(first, Put) and isinstance(first.object, Tunnel) and not others:
            return TunnelEnds(self.design, first.object, self.today)
        design = apply_operations(self.design, remedy.operations)
        return TunnelEnds(design, design.tunnel_by_id[self.tunnel.id], self.today)

    def copy_to(self, side: Side, what: str, left_field: str, right_field: str) -> Remedy:
        """Return the remedy that makes a field of one end like the other end's."""
        fields = {Side.LEFT: left_field, Side.RIGHT: right_field}
        value = getattr(self.end(side.other), fields[side.other])
        return self.set_named(side, f"Make {self.names[side]} like {self.names[side.other]}: {what}", fields[side], value)

    def copies(self, what: str, left_field: str, right_field: str) -> tuple[Remedy, ...]:
        """Return the remedies that make one end's field like the other's, the right end first, as far as they can be."""
        both = (self.copy_to(side, what, left_field, right_field) for side in (Side.RIGHT, Side.LEFT))
        return tuple(remedy for remedy in both if not has_no_way_around(self.design, self.tunnel, self.after(remedy).tunnel))

    def row(self, heading: RowHeading, judgement: Judgement, this: Side) -> Row:
        """Return the row of a judgement; `this` is the side whose own field it is about."""
        return Row(heading, judgement, this, self.names)
