"""Decisions as numbers: what each stands for, and what follows from it, as arrays to be indexed with them."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Final

import numpy as np
from numpy.typing import NDArray

from pontifex.core.kinds import SIDES, Side
from pontifex.core.model import Design
from pontifex.core.routing.trace.decide import Decision, DecisionKind
from pontifex.core.routing.trace.flow_path import End

Numbers = NDArray[np.int64]  # what arrays are indexed with: narrower ones would be widened each time
StoredNumbers = NDArray[np.int32]  # what there is very much of

ENDS: Final = tuple(End)
END_PLACE: Final = {end: np.uint8(place) for place, end in enumerate(ENDS)}
BY_HAND_END: Final = np.uint8(len(ENDS))  # left to be traced one by one

_FIXED: Final = 5
LOST, HELD, DELIVER, UNKNOWN, BY_HAND = range(_FIXED)  # gateways, sides of tunnels and uplinks follow
NONE: Final = -1


class Codes:
    """The codes of a design's decisions. Gateways, tunnels and uplinks are told by their places in the design."""

    def __init__(self, design: Design, unknown: Collection[str]) -> None:
        """Tunnels in `unknown` are those of which it isn't known whether they come up."""
        self.gateway_place = {gateway.id: place for place, gateway in enumerate(design.gateways)}
        self._tunnel_place = {tunnel.id: place for place, tunnel in enumerate(design.tunnels)}
        self._uplink_place = {uplink.id: place for place, uplink in enumerate(design.uplinks)}
        self.first_gateway = _FIXED
        self.first_tunnel = self.first_gateway + len(design.gateways)
        self.first_uplink = self.first_tunnel + 2 * len(design.tunnels)
        codes = self.first_uplink + len(design.uplinks) + 1  # the last stands for NONE, which leads nowhere
        self.next = np.full(codes, NONE, dtype=np.int64)  # gateway that it comes to
        self.acting = np.full(codes, NONE, dtype=np.int64)  # gateway that does it
        self.tunnel = np.full(codes, NONE, dtype=np.int64)  # that it goes into
        self.end = np.full(codes, END_PLACE[End.LOST], dtype=np.uint8)  # how it ends there
        self.end[[DELIVER, HELD, UNKNOWN]] = END_PLACE[End.ARRIVES], END_PLACE[End.HELD], END_PLACE[End.UNKNOWN]
        self.end[BY_HAND] = BY_HAND_END
        self.end[self.first_uplink : -1] = END_PLACE[End.UNPROTECTED]  # every destination here is a network of the design
        self.next[self.first_gateway : self.first_tunnel] = np.arange(len(design.gateways))
        for place, tunnel in enumerate(design.tunnels):
            for k, side in enumerate(SIDES):
                code = self.first_tunnel + 2 * place + k
                self.tunnel[code] = place
                self.acting[code] = self.gateway_place[tunnel.end(side).gateway_id]
                self.next[code] = self.gateway_place[tunnel.end(side.other).gateway_id]
                if tunnel.id in unknown:
                    self.next[code], self.end[code] = NONE, END_PLACE[End.UNKNOWN]
        for place, uplink in enumerate(design.uplinks):
            self.acting[self.first_uplink + place] = self.gateway_place[uplink.gateway_id]

    def of(self, decision: Decision) -> int:
        """Return the code of a decision."""
        if decision.tunnel and decision.side:
            side = 0 if decision.side is Side.LEFT else 1
            return self.first_tunnel + 2 * self._tunnel_place[decision.tunnel.id] + side
        if decision.kind is DecisionKind.UPLINK and decision.uplink:
            return self.first_uplink + self._uplink_place[decision.uplink.id]
        if decision.kind is DecisionKind.ROUTER and decision.gateway:
            return self.first_gateway + self.gateway_place[decision.gateway.id]
        return {DecisionKind.DELIVER: DELIVER, DecisionKind.NEIGHBOUR: UNKNOWN, DecisionKind.HOLD: HELD}.get(decision.kind, LOST)

    def using(self, gateways: Sequence[int], tunnels: Sequence[int], uplinks: Sequence[int]) -> NDArray[np.bool_]:
        """Whether each code leads to one of some gateways, or into one of some tunnels or uplinks, by their places."""
        to_gateway, into_tunnel = (np.zeros(len(self.next), dtype=np.bool_) for _ in range(2))  # the last stands for NONE
        to_gateway[list(gateways)] = into_tunnel[list(tunnels)] = True
        found: NDArray[np.bool_] = to_gateway[self.next] | into_tunnel[self.tunnel]
        found[[self.first_uplink + place for place in uplinks]] = True
        return found
