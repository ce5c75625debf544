"""What the intents put on the uplinks, with what the tunnels add around it, and who is over capacity then."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.kinds import SIDES, Tunnel
from pontifex.core.kinds.dscp import dscp_name
from pontifex.core.model import Design
from pontifex.core.routing.all_flows.sweep import FailureCandidate
from pontifex.core.routing.links.quality import uplink_quality
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.dependents import Dependents
from pontifex.core.routing.trace.flow import Conditions
from pontifex.core.routing.trace.flow_path import Trace, uses
from pontifex.core.routing.wanted.intents import IntentTraces

_BARE: Final = 1.0  # where it isn't known what is put around a packet


@dataclass(frozen=True, slots=True, kw_only=True)
class ClassLoad:
    """What one class takes of an uplink, in Mbit/s with all headers."""

    dscp: Annotated[str, Field(title="Class")]
    up_mbit_s: float
    down_mbit_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class UplinkLoad:
    """What an uplink is to carry, in Mbit/s with all headers."""

    uplink_id: str
    up_mbit_s: Annotated[float, Field(title="Up")]
    down_mbit_s: Annotated[float, Field(title="Down")]
    rate_up_mbit_s: Annotated[
        float | None, Field(title="Rate up", description="What is left of it by what the design doesn't know of.")
    ]
    rate_down_mbit_s: Annotated[float | None, Field(title="Rate down")]
    over: Annotated[bool, Field(title="Over capacity")]
    classes: tuple[ClassLoad, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class OverAfter:
    """A failure after which uplinks are over capacity that weren't before."""

    id: Annotated[str, Field(title="What fails")]
    name: str
    uplinks: tuple[UplinkLoad, ...]


_Loads = dict[str, dict[int, list[float]]]  # by uplink and class: up and down


class IntentLoads:
    """The intents with a rate on their ways. A rate is shared evenly among the pairs of an intent; each takes it both ways."""

    def __init__(self, tables: Tables, conditions: Conditions) -> None:
        self._tables, self._conditions = tables, conditions
        wanted = IntentTraces(tables, conditions)
        pairs = Counter(want.intent.id for want in wanted.all)
        rated = [(want, rate / pairs[want.intent.id]) for want in wanted.all if (rate := want.intent.rate_mbit_s)]
        self._ways = [(want, rate, wanted.reach(want)[1]) for want, rate in rated]
        self._used = [uses(traced) for _, _, traced in self._ways]

    def loads(self) -> tuple[UplinkLoad, ...]:
        """Return what they put on each uplink, in the order of the uplinks, in full packets."""
        return self._loads([traced for _, _, traced in self._ways], self._conditions)

    def _loads(self, traces: Sequence[Trace], conditions: Conditions) -> tuple[UplinkLoad, ...]:
        design = self._tables.design
        found: _Loads = defaultdict(lambda: defaultdict(lambda: [0.0, 0.0]))
        for (want, rate, _), traced in zip(self._ways, traces, strict=True):
            _add(self._tables, found, traced, want.dscp, rate)
        return tuple(_load(design, id_, found[id_], conditions) for id_ in design.uplink_by_id if id_ in found)

    def over_after(self, suspects: Iterable[FailureCandidate]) -> Iterator[OverAfter]:
        """Yield the failures after which uplinks are over capacity that weren't before: only what uses them goes otherwise."""
        before = {load.uplink_id for load in self.loads() if load.over}
        dependents = Dependents(self._tables.design)
        for suspect in suspects:
            during = self._conditions.with_fallen(dependents.of([suspect.id]))
            gone = during.down - self._conditions.down
            if not any(used is None or used & gone for used in self._used):
                continue
            wanted = IntentTraces(self._tables, during)
            traces = [
                wanted.reach(want)[1] if used is None or used & gone else traced
                for (want, _, traced), used in zip(self._ways, self._used, strict=True)
            ]
            over = tuple(load for load in self._loads(traces, during) if load.over and load.uplink_id not in before)
            if over:
                yield OverAfter(id=suspect.id, name=suspect.name, uplinks=over)


def _add(tables: Tables, found: _Loads, traced: Trace, dscp: int, rate: float) -> None:
    for way in filter(None, (traced.forward, traced.back)):
        for hop in way.hops:
            if hop.tunnel_id:
                tunnel = tables.design.tunnel_by_id[hop.tunnel_id]
                outer = rate * expansion(tables, tunnel)
                sides = sorted(SIDES, key=lambda side: tunnel.end(side).gateway_id != hop.gateway_id)  # where it goes in first
                for direction, side in enumerate(sides):
                    uplink_id = tunnel.end(side).uplink_id
                    if uplink_id:
                        found[uplink_id][dscp][direction] += outer
            elif hop.uplink_id:
                found[hop.uplink_id][dscp][0] += rate


def expansion(tables: Tables, tunnel: Tunnel) -> float:
    """Return by how much full packets grow in a tunnel: the size outside for the size inside."""
    cost = tables.overhead(tunnel)
    return cost.outer_size(cost.inner_mtu) / cost.inner_mtu if cost else _BARE


def _load(design: Design, uplink_id: str, classes: dict[int, list[float]], conditions: Conditions) -> UplinkLoad:
    uplink = design.uplink_by_id[uplink_id]
    up, down = (sum(some[direction] for some in classes.values()) for direction in range(2))
    used = uplink_quality(uplink, conditions.quality).used_mbit_s or 0.0
    rates = [None if rate is None else max(rate - used, 0.0) for rate in (uplink.rate_up_mbit_s, uplink.rate_down_mbit_s)]
    over = any(rate is not None and load > rate for load, rate in zip((up, down), rates, strict=True))
    return UplinkLoad(
        uplink_id=uplink_id,
        up_mbit_s=round(up, 3),
        down_mbit_s=round(down, 3),
        rate_up_mbit_s=rates[0],
        rate_down_mbit_s=rates[1],
        over=over,
        classes=tuple(
            ClassLoad(dscp=dscp_name(dscp), up_mbit_s=round(some[0], 3), down_mbit_s=round(some[1], 3))
            for dscp, some in sorted(classes.items(), reverse=True)
        ),
    )
