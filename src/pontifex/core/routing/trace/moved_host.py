"""A host that moves to another network: what changes for it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from pontifex.core.addressing import Address
from pontifex.core.kinds import Host, Network
from pontifex.core.model import Design, apply_operations, put
from pontifex.core.reasons import Sentence
from pontifex.core.routing.all_flows.matrix import Reach, flow_between, reach_of
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.flow import Conditions
from pontifex.core.routing.trace.flow_path import Trace
from pontifex.core.routing.trace.trace import trace


@dataclass(frozen=True, slots=True, kw_only=True)
class MovedPair:
    """How a host reaches a network, or is reached from it, before and after."""

    network_id: str
    begins: Annotated[bool, Field(title="The host begins the connection")]
    before: Reach
    after: Reach
    verdict_before: Sentence
    verdict_after: Sentence


def moved_host(
    design: Design, host: Host, network: Network, address: Address, conditions: Conditions
) -> tuple[Design, tuple[MovedPair, ...]]:
    """Return the design with a host moved to an address of another network, and the networks for which that changes anything."""
    after = apply_operations(design, [put(host.changed(network_id=network.id, address=address))])
    states = [(Tables(state), state.host_by_id[host.id], state) for state in (design, after)]
    found = []
    for other in design.networks:
        if other.zone or other.prefix.family is not host.address.family or other.prefix.family is not address.family:
            continue
        for begins in (True, False):
            traces = [_traced(tables, here, state.network_by_id[other.id], begins, conditions) for tables, here, state in states]
            reaches = [reach_of(walked) for walked in traces]
            if reaches[0] is not reaches[1] or traces[0].verdict != traces[1].verdict:
                found.append(
                    MovedPair(
                        network_id=other.id,
                        begins=begins,
                        before=reaches[0],
                        after=reaches[1],
                        verdict_before=traces[0].verdict,
                        verdict_after=traces[1].verdict,
                    )
                )
    return after, tuple(found)


def _traced(tables: Tables, host: Host, other: Network, begins: bool, conditions: Conditions) -> Trace:
    home = tables.design.network_by_id[host.network_id]
    there = other.prefix.first_host
    if begins:
        return trace(tables, flow_between(tables, home, host.address, other, there), conditions, home, other)
    return trace(tables, flow_between(tables, other, there, home, host.address), conditions, other, home)
