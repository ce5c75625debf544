"""What two peered clouds reach of each other: as the clouds were read, and once all steps are taken."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date
from itertools import islice, product
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address, Service
from pontifex.core.clouds.as_read import as_agreed, as_read
from pontifex.core.clouds.intended import IntendedPeering, subnets_of
from pontifex.core.clouds.steps import Readings
from pontifex.core.kinds import Network
from pontifex.core.model import Design
from pontifex.core.routing import Conditions, Flow, Tables, Trace, failing_tunnels, trace
from pontifex.core.routing.all_flows.matrix import Reach, reach_of
from pontifex.core.routing.trace.flow import ANY_SERVICE
from pontifex.core.routing.wanted.blocks import wants

_MOST_PAIRS: Final = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class CloudReach:
    """One subnet and another beyond a peering."""

    source_id: str
    destination_id: str
    service: Service
    before: Reach
    after: Reach
    why: Annotated[str, Field(title="What becomes of it as the clouds were read")]


@dataclass(frozen=True, slots=True)
class _Asked:
    source: Network
    destination: Network
    flow: Flow


@dataclass(frozen=True, slots=True)
class CloudStates:
    """A design as its clouds were read, and as it is once all steps are taken; made once for all peerings."""

    design: Design
    before: tuple[Tables, Conditions]
    after: tuple[Tables, Conditions]

    @classmethod
    def of(cls, design: Design, readings: Readings, today: date) -> CloudStates:
        """Return both states, each with the tunnels that don't come up in it."""
        before, after = as_read(design, readings), as_agreed(design)
        return cls(design, (Tables(before), _conditions(before, today)), (Tables(after), _conditions(after, today)))


def cloud_reach(states: CloudStates, peering: IntendedPeering) -> Iterator[CloudReach]:
    """Yield what intents want between two cloud networks, or every pair of their subnets where none wants anything."""
    for asked in islice(_asked(states.design, peering), _MOST_PAIRS):
        before, after = (_traced(*state, asked) for state in (states.before, states.after))
        yield CloudReach(
            source_id=asked.source.id,
            destination_id=asked.destination.id,
            service=asked.flow.service,
            before=reach_of(before),
            after=reach_of(after),
            why=str(before.verdict),
        )


def _conditions(design: Design, today: date) -> Conditions:
    return Conditions.of(design, failing=failing_tunnels(design, today))


def _traced(tables: Tables, conditions: Conditions, asked: _Asked) -> Trace:
    return trace(tables, asked.flow, conditions, asked.source, asked.destination)


def _asked(design: Design, peering: IntendedPeering) -> Iterator[_Asked]:
    sides = [[subnet.id for subnet in subnets_of(design, cloud)] for cloud in (peering.left, peering.right)]
    left, right = map(set, sides)
    across = [
        want
        for want in wants(design)
        if (want.source.id in left and want.destination.id in right) or (want.source.id in right and want.destination.id in left)
    ]
    if across:
        yield from (_Asked(flow.source, flow.destination, replace(flow.flow, dscp=flow.dscp)) for flow in across)
        return
    for source_id, target_id in product(*sides):
        for pair in ((source_id, target_id), (target_id, source_id)):
            source, destination = (design.network_by_id[id_] for id_ in pair)
            begin, end = (Address(network.prefix.family, network.prefix.network) for network in (source, destination))
            if begin.family is end.family:
                yield _Asked(source, destination, Flow(begin, end, ANY_SERVICE))
