"""What is to be entered at one end of a tunnel, in neutral terms and in the order in which devices ask."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from typing import Annotated, Any, Final

from pydantic import Field

from pontifex.core.findings import Analysis
from pontifex.core.handover.plan.probes import ping_text
from pontifex.core.handover.sheets.expected_log import expected_log
from pontifex.core.kinds import Side, TunnelEnd, is_set
from pontifex.core.matching import Stage, TunnelEnds, Verdict, compare
from pontifex.core.matching.end_fields import TEXTS
from pontifex.core.matching.row import Relation
from pontifex.core.matching.rows import ROWS
from pontifex.core.matching.spec import RowSpec
from pontifex.core.model import Design
from pontifex.core.model.written import ABSENT, WrittenObject
from pontifex.core.routing import Conditions, Reach, Tables
from pontifex.core.routing.trace.flow import Failing, failing_of
from pontifex.core.routing.wanted.intents import IntentTraces

_SECTIONS: Final = {
    Stage.REACH: "Peer and role",
    Stage.INIT: "Phase 1: IKE SA",
    Stage.AUTH: "Identities and proof",
    Stage.CHILD: "Phase 2: Child SA and networks",
    Stage.TRAFFIC: "Tunnel interface",
    Stage.REKEY: "Lifetimes",
    Stage.RESTART: "Whether the peer is alive",
}
_NOT_ENTERED: Final = ("uplink_id",)  # it is where the device stands, and no value of the tunnel
_MOST_PINGS: Final = 6


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetLine:
    """One value that the device asks for."""

    field: str
    title: str
    value: Annotated[str, Field(title="Enter", description="Empty where nothing is to be entered, or it isn't known yet.")]
    ask: Annotated[str, Field(title="Question", description="To be asked where a value is lacking; else empty.")]
    counterpart: Annotated[str, Field(title="The other end has", description="Empty where nothing must fit.")]
    is_secret: Annotated[bool, Field(title="By a separate channel")]


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetSection:
    """Some values that belong together."""

    title: str
    lines: tuple[SheetLine, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """One end of a tunnel, to be entered at its device."""

    design: str
    revision: int
    day: date
    tunnel_id: str
    tunnel: str
    side: Side
    device: str
    site: str
    organisation: str
    far_device: str
    far_site: str
    technology: str
    sections: tuple[SheetSection, ...]
    routes: Annotated[tuple[str, ...], Field(title="Routes to enter")]
    open: Annotated[tuple[str, ...], Field(title="What must pass the filters")]
    checks: Annotated[tuple[str, ...], Field(title="Checks, with the answer that must come")]
    log: Annotated[tuple[str, ...], Field(title="What the log must say")]
    forecast: str


def sheet(design: Design, tunnel_id: str, side: Side, analysis: Analysis) -> Sheet:
    """Return the sheet of an end, with what the analysis of the design foretells. Raise KeyError for an unknown tunnel."""
    tunnel = design.tunnel_by_id[tunnel_id]
    ends = TunnelEnds(design, tunnel, analysis.today)
    end = tunnel.end(side)
    gateway, far = ends.gateway(side), ends.gateway(side.other)
    site, far_site = design.site_of(end), design.site_of(tunnel.end(side.other))
    foretold = next(forecast for forecast in analysis.forecasts if forecast.tunnel_id == tunnel_id)
    unknown = {row.key for row in compare(ends) if row.verdict is Verdict.UNKNOWN}
    return Sheet(
        design=design.name,
        revision=design.revision,
        day=analysis.today,
        tunnel_id=tunnel_id,
        tunnel=tunnel.name,
        side=side,
        device=gateway.name,
        site=site.name,
        organisation=site.organisation,
        far_device=far.name,
        far_site=far_site.name,
        technology=end.technology.label,
        sections=tuple(_sections(ends, side, unknown)),
        routes=tuple(_routes(design, tunnel_id, gateway.id)),
        open=tuple(_open(ends, side)),
        checks=tuple(_checks(design, {site.id, far_site.id}, failing_of(analysis.forecasts))),
        log=expected_log(ends, side),
        forecast=str(foretold.sentence),
    )


def _sections(ends: TunnelEnds, side: Side, unknown: set[str]) -> Iterator[SheetSection]:
    """Yield the values stage by stage; `unknown` are the rows of which something is lacking."""
    specs = ROWS[ends.end(side).technology]
    seen: set[str] = set(_NOT_ENTERED)
    for stage, title in _SECTIONS.items():
        lines: list[SheetLine] = []
        for spec in (spec for spec in specs if spec.stage is stage and spec.applies(ends)):
            for field, counterpart in _fields(spec):
                if field not in seen:
                    seen.add(field)
                    lines.append(_line(ends, side, field, counterpart, spec.key in unknown))
        if lines:
            yield SheetSection(title=title, lines=tuple(lines))


def _fields(spec: RowSpec) -> Iterator[tuple[str, str]]:
    """Yield the fields of an end that a row is about, each with the field of the other end that must fit it."""
    fits = spec.relation is not Relation.COMPLEMENTARY
    yield spec.own, spec.far if fits else ""
    if spec.far != spec.own:
        yield spec.far, spec.own if fits else ""


def _line(ends: TunnelEnds, side: Side, field: str, counterpart: str, lacking: bool) -> SheetLine:
    text = TEXTS[field]
    value = getattr(ends.end(side), field)
    known = value is not None and value != ()
    fits = getattr(ends.end(side.other), counterpart, None) if counterpart else None
    return SheetLine(
        field=field,
        title=str(TunnelEnd.model_fields[field].title),
        value=_written(ends, side, field, value) if known else "",
        ask=text.question if lacking and not known else "",
        counterpart=_written(ends, side.other, counterpart, fits) if is_set(fits) else "",
        is_secret=text.secret and field in _BY_VOICE,
    )


_BY_VOICE: Final = ("key", "control_key", "account", "accepted_account")


def _written(ends: TunnelEnds, side: Side, field: str, value: Any) -> str:
    uplink = ends.uplink(side)
    if field == "uplink_id" and uplink:
        return str(uplink.address or uplink.dns_name or "")
    text = WrittenObject(ends.tunnel, ends.design).field(f"{side.value}/{field}", value)
    return "" if text == ABSENT else text


def _routes(design: Design, tunnel_id: str, gateway_id: str) -> Iterator[str]:
    for route in design.routes:
        if (route.gateway_id, route.tunnel_id) == (gateway_id, tunnel_id):
            yield f"{route.prefix} by this tunnel{f', metric {route.metric}' if route.metric else ''}"


def _open(ends: TunnelEnds, side: Side) -> Iterator[str]:
    """Yield what a filter in front of the device must let pass."""
    far = ends.uplink(side.other)
    whom = str(far.address) if far and far.address else "the far gateway"
    end = ends.end(side)
    if end.technology.is_ipsec:
        yield f"UDP 500 and 4500 from and to {whom}"
        near = ends.uplink(side)
        if not any(uplink and uplink.behind_nat for uplink in (near, far)):
            yield f"ESP (IP protocol 50) from and to {whom}"
    elif end.port and end.technology.traits.outer_packets:
        transport = end.transport.value.upper() if end.transport else "UDP"
        yield f"{transport} {end.port} from and to {whom}"


def _checks(design: Design, sites: set[str], failing: Failing) -> Iterator[str]:
    """Yield the wanted pairs between both sites, each with the answer that the paths give."""
    traces = IntentTraces(Tables(design), Conditions.of(design, failing=failing))
    between = [want for want in traces.all if {want.source.site_id, want.destination.site_id} == sites]
    for want in between[:_MOST_PINGS]:
        yield f"{ping_text(want)}: {'answered' if traces.reach(want)[0] is Reach.REACHES else 'no answer yet, by the design'}"
