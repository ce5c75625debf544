"""What the networks of both ends let into each tunnel, for many flows between parts at once."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from pontifex.core.addressing import Service
from pontifex.core.kinds import SIDES, Tunnel
from pontifex.core.routing.all_flows.codes import Numbers
from pontifex.core.routing.all_flows.equivalence_classes import EquivalenceClasses, Flags
from pontifex.core.routing.all_flows.walk_outcomes import Pairs


class SelectorFlags:
    """The networks of all tunnels as flags of parts, one row for each side of each tunnel, about traffic of one kind."""

    def __init__(
        self, tunnels: Sequence[Tunnel], parts: EquivalenceClasses, service: Service, source_ports: tuple[int, int]
    ) -> None:
        self._size = len(parts)
        shape = (2 * len(tunnels), len(parts))
        self._source = np.ones(shape, dtype=np.bool_)
        self._destination = np.ones(shape, dtype=np.bool_)
        for place, tunnel in enumerate(tunnels):
            for k, side in enumerate(SIDES):
                near, far = tunnel.end(side), tunnel.end(side.other)
                for flags, lists, ports in (
                    (self._source, (near.local_networks, far.remote_networks), source_ports),
                    (self._destination, (near.remote_networks, far.local_networks), service.ports),
                ):
                    for named in filter(None, lists):
                        asked = [selector for selector in named if selector.is_about(service.protocols, ports)]
                        flags[2 * place + k] &= parts.of_selectors(asked)

    def lets(self, side: Numbers, source: Pairs, destination: Pairs) -> Flags:
        """The flows that are let into a tunnel from a side, by the row of that side (RFC 4301 section 5)."""
        rows = side * self._size
        lets: Flags = self._source.ravel()[rows + source] & self._destination.ravel()[rows + destination]
        return lets
