"""Two networks, or parts of them: the pair of their addresses that fares worst."""

from __future__ import annotations

from pontifex.core.addressing import Address, Prefix, Service
from pontifex.core.kinds import Network
from pontifex.core.routing.all_flows.equivalence_classes import parts_of
from pontifex.core.routing.all_flows.matrix import Reach, flow_between, reach_of
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.flow import Conditions
from pontifex.core.routing.trace.flow_path import Trace
from pontifex.core.routing.trace.trace import trace


def worst_between(
    tables: Tables,
    conditions: Conditions,
    source: tuple[Network, Prefix],
    destination: tuple[Network, Prefix],
    service: Service,
    dscp: int,
) -> tuple[Reach, Trace]:
    """Return what addresses of one network get of another's, the worst of it, with a trace that shows it.

    The prefixes are those of the networks, or parts of them. Exact: an address for each part that gateways treat alike.
    """
    found: list[tuple[Reach, Trace]] = []
    for begin in _parts(tables, *source):
        for end in _parts(tables, *destination):
            flow = flow_between(tables, source[0], begin, destination[0], end, service, dscp)
            traced = trace(tables, flow, conditions, source[0], destination[0])
            found.append((reach_of(traced), traced))
    return max(found, key=lambda pair: pair[0].rank)


def _parts(tables: Tables, network: Network, prefix: Prefix) -> list[Address]:
    """Return an address for each part of a prefix; what is of narrower networks of the site aside, if anything is left."""
    cut = [Address(prefix.family, first) for first in parts_of(tables, prefix)]
    return [address for address in cut if tables.narrowest(network, address) is network] or cut
