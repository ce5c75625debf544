"""What the intents put on the uplinks, with what the tunnels add around it, and who is over capacity then."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import replace
from datetime import date
from typing import Final

from pydantic import Field

from pontifex.core.matching import Pair
from pontifex.core.matching.inner import tunnel_overhead
from pontifex.core.model import SIDES, Design, Tunnel
from pontifex.core.model.dscp import dscp_name
from pontifex.core.routing.flow import Conditions
from pontifex.core.routing.intents import Wanted
from pontifex.core.routing.quality import uplink_quality
from pontifex.core.routing.sweep import Suspect
from pontifex.core.routing.tables import Tables
from pontifex.core.routing.trace import Trace
from pontifex.core.value import Value

_BARE: Final = 1.0  # where it isn't known what is put around a packet


class ClassLoad(Value):
    """What one class takes of an uplink, in Mbit/s with all headers."""

    dscp: str = Field(title="Class")
    up_mbit_s: float
    down_mbit_s: float


class UplinkLoad(Value):
    """What an uplink is to carry, in Mbit/s with all headers."""

    uplink_id: str
    up_mbit_s: float = Field(title="Up")
    down_mbit_s: float = Field(title="Down")
    rate_up_mbit_s: float | None = Field(title="Rate up", description="What is left of it by what the design doesn't know of.")
    rate_down_mbit_s: float | None = Field(title="Rate down")
    over: bool = Field(title="Over capacity")
    classes: tuple[ClassLoad, ...]


class OverAfter(Value):
    """A failure after which uplinks are over capacity that weren't before."""

    id: str = Field(title="What fails")
    name: str
    uplinks: tuple[UplinkLoad, ...]


_Loads = dict[str, dict[int, list[float]]]  # by uplink and class: up and down


def loads(tables: Tables, conditions: Conditions) -> tuple[UplinkLoad, ...]:
    """Return what the intents with a rate put on each uplink, in the order of the uplinks.

    A rate is shared evenly among the pairs of an intent; each pair takes it in both directions, in full packets.
    """
    design = tables.design
    found: _Loads = defaultdict(lambda: defaultdict(lambda: [0.0, 0.0]))
    wanted = Wanted(tables, conditions)
    of_intent: dict[str, int] = defaultdict(int)
    for want in wanted.all:
        of_intent[want.intent.id] += 1
    for want in wanted.all:
        if want.intent.rate_mbit_s:
            _, traced = wanted.reach(want)
            _add(tables, found, traced, want.dscp, want.intent.rate_mbit_s / of_intent[want.intent.id])
    return tuple(
        _load(design, uplink_id, found[uplink_id], conditions) for uplink_id in design.uplink_by_id if uplink_id in found
    )


def _add(tables: Tables, found: _Loads, traced: Trace, dscp: int, rate: float) -> None:
    for way in filter(None, (traced.forward, traced.back)):
        for hop in way.hops:
            if hop.tunnel_id:
                tunnel = tables.design.tunnel_by_id[hop.tunnel_id]
                outer = rate * expansion(tables.design, tunnel)
                sides = sorted(SIDES, key=lambda side: tunnel.end(side).gateway_id != hop.gateway_id)  # where it goes in first
                for direction, side in enumerate(sides):
                    uplink_id = tunnel.end(side).uplink_id
                    if uplink_id:
                        found[uplink_id][dscp][direction] += outer
            elif hop.uplink_id:
                found[hop.uplink_id][dscp][0] += rate


def expansion(design: Design, tunnel: Tunnel) -> float:
    """Return by how much full packets grow in a tunnel: the size outside for the size inside."""
    cost = tunnel_overhead(Pair(design, tunnel, date.min))
    return cost.outer_size(cost.inner_mtu) / cost.inner_mtu if cost else _BARE


def _load(design: Design, uplink_id: str, classes: dict[int, list[float]], conditions: Conditions) -> UplinkLoad:
    uplink = design.uplink_by_id[uplink_id]
    up, down = (sum(some[direction] for some in classes.values()) for direction in range(2))
    used = uplink_quality(uplink, conditions.quality).used_mbit_s or 0.0
    rates = [None if rate is None else max(rate - used, 0.0) for rate in (uplink.rate_up_mbit_s, uplink.rate_down_mbit_s)]
    over = any(rate is not None and load > rate for load, rate in zip((up, down), rates, strict=True))
    return UplinkLoad.of(
        uplink_id=uplink_id,
        up_mbit_s=round(up, 3),
        down_mbit_s=round(down, 3),
        rate_up_mbit_s=rates[0],
        rate_down_mbit_s=rates[1],
        over=over,
        classes=tuple(
            ClassLoad.of(dscp=dscp_name(dscp), up_mbit_s=round(some[0], 3), down_mbit_s=round(some[1], 3))
            for dscp, some in sorted(classes.items(), reverse=True)
        ),
    )


def over_after(tables: Tables, conditions: Conditions, suspects: Iterable[Suspect]) -> Iterator[OverAfter]:
    """Yield the failures after which uplinks are over capacity that weren't before."""
    before = {one.uplink_id for one in loads(tables, conditions) if one.over}
    for suspect in suspects:
        failed = Conditions.of(tables.design, frozenset({suspect.id}), conditions.tunnels, conditions.quality)
        during = replace(failed, uplinks=conditions.uplinks | failed.uplinks, gateways=conditions.gateways | failed.gateways)
        over = tuple(one for one in loads(tables, during) if one.over and one.uplink_id not in before)
        if over:
            yield OverAfter.of(id=suspect.id, name=suspect.name, uplinks=over)
