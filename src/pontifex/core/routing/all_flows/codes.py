"""Decisions as numbers: what each stands for, and what follows from it, as arrays to be indexed with them."""

from __future__ import annotations

from collections.abc import Collection
from typing import Final

import numpy as np
from numpy.typing import NDArray

from pontifex.core.kinds import SIDES, Side
from pontifex.core.model import Design
from pontifex.core.routing.all_flows.walk_outcomes import BY_HAND_END, END_PLACE
from pontifex.core.routing.trace.decide import Decision, DecisionKind
from pontifex.core.routing.trace.flow_path import End

Numbers = NDArray[np.int64]  # what arrays are indexed with: narrower ones would be widened each time
StoredNumbers = NDArray[np.int32]  # what there is very much of

LOST, HELD, DELIVER, UNKNOWN, BY_HAND = range(5)  # gateways, sides of tunnels and uplinks follow
_FIXED: Final = 5
NONE: Final = -1


class Codes:
    """The codes of a design's decisions. Gateways, tunnels and uplinks are told by their places in the design."""

    def __init__(self, design: Design, unknown: Collection[str]) -> None:
        """Tunnels in `unknown` are those of which it isn't known whether they come up."""
        self.gateway_place = {one.id: place for place, one in enumerate(design.gateways)}
        self._tunnel_place = {one.id: place for place, one in enumerate(design.tunnels)}
        self._uplink_place = {one.id: place for place, one in enumerate(design.uplinks)}
        self.first_tunnel = _FIXED + len(design.gateways)
        self.first_uplink = self.first_tunnel + 2 * len(design.tunnels)
        codes = self.first_uplink + len(design.uplinks)
        self.next = np.full(codes, NONE, dtype=np.int64)  # gateway that it comes to
        self.acting = np.full(codes, NONE, dtype=np.int64)  # gateway that does it
        self.tunnel = np.full(codes, NONE, dtype=np.int64)  # that it goes into
        self.end = np.full(codes, END_PLACE[End.LOST], dtype=np.uint8)  # how it ends there
        self.end[[DELIVER, HELD, UNKNOWN]] = END_PLACE[End.ARRIVES], END_PLACE[End.HELD], END_PLACE[End.UNKNOWN]
        self.end[BY_HAND] = BY_HAND_END
        self.end[self.first_uplink :] = END_PLACE[End.UNPROTECTED]  # every destination here is a network of the design
        self.next[_FIXED : self.first_tunnel] = np.arange(len(design.gateways))
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
            return _FIXED + self.gateway_place[decision.gateway.id]
        return {DecisionKind.DELIVER: DELIVER, DecisionKind.NEIGHBOUR: UNKNOWN, DecisionKind.HOLD: HELD}.get(decision.kind, LOST)

    def tunnels_and_uplinks(self, codes: StoredNumbers) -> tuple[StoredNumbers, StoredNumbers]:
        """Return the places of tunnels and of uplinks that codes stand for, -1 where they stand for something else."""
        tunnels = np.where(codes >= 0, self.tunnel[codes], NONE)
        uplinks = np.where(codes >= self.first_uplink, codes - self.first_uplink, NONE)
        return tunnels.astype(np.int32), uplinks.astype(np.int32)
