"""All findings of a design, and the analysis that a screen shows at once."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import date
from typing import Annotated, Any, Final

from pydantic import Field

from pontifex.core.catalogue import Code
from pontifex.core.failures import OnFailure
from pontifex.core.findings.algorithms import algorithm_findings
from pontifex.core.findings.carrying import carrying_findings
from pontifex.core.findings.checks import Checks
from pontifex.core.findings.exposures import exposure_findings, networks_inside, redundant_networks, reused_keys
from pontifex.core.findings.finding import Finding
from pontifex.core.findings.overlaps import Overlap, overlap_findings, overlaps
from pontifex.core.findings.routes import route_findings
from pontifex.core.findings.rules import rule_findings
from pontifex.core.findings.space import between_findings, network_findings
from pontifex.core.findings.tunnels import row_findings
from pontifex.core.kinds import SIDES, Tunnel, TunnelEnd
from pontifex.core.matching import Forecast, GatewayTunnels, Row, StageState, TunnelEnds, compare, forecast
from pontifex.core.matching.forecast import unknown_forecast
from pontifex.core.model import Design
from pontifex.core.model.design import SETTINGS_ID
from pontifex.core.routing import Tables


@dataclass(frozen=True, slots=True, kw_only=True)
class Analysis:
    """What is known of a design at a revision: forecasts, collisions and findings."""

    revision: int
    today: Annotated[date, Field(title="Day", description="For which certificates and exceptions were judged.")]
    forecasts: Annotated[tuple[Forecast, ...], Field(title="Forecasts", description="One a tunnel, in the order of the tunnels.")]
    overlaps: Annotated[tuple[Overlap, ...], Field(title="Collisions of networks")]
    findings: Annotated[tuple[Finding, ...], Field(title="Findings", description="The worst first.")]


_MENDED_WITH_ROOM: Final = frozenset(
    {Code.ADDRESS_INNER_NETWORK, Code.TUNNEL_INNER_ADDRESS_TWICE, Code.TUNNEL_INNER_NETWORKS_DIFFER}
)


@dataclass
class AnalysisCache:
    """What was worked out for an earlier revision, each part with all that it was worked out from.

    A part is taken over when it would be worked out from the very same values; a design shares with its forerunner
    whatever a change didn't touch, so that an edit costs what it touches.
    """

    tunnels: dict[str, tuple[tuple[Any, ...], Forecast, tuple[Finding, ...]]] = field(default_factory=dict)
    networks: dict[str, tuple[tuple[Any, ...], tuple[Finding, ...]]] = field(default_factory=dict)
    collisions: tuple[tuple[Any, ...], tuple[Any, ...], tuple[Overlap, ...], tuple[Finding, ...]] | None = None
    between: tuple[tuple[Any, ...], tuple[Finding, ...]] | None = None
    paths: tuple[tuple[Any, ...], tuple[Finding, ...]] | None = None


@dataclass(frozen=True, slots=True)
class TunnelOutlines:
    """What of the tunnels matters to the address space: where they run, what they name, and their inner addresses."""

    tunnels: tuple[Any, ...]

    @classmethod
    def of(cls, design: Design) -> TunnelOutlines:
        """Return the outlines of a design's tunnels."""
        return cls(tuple((one.id, one.name, *map(_outline, (one.left, one.right))) for one in design.tunnels))


def _outline(end: TunnelEnd) -> tuple[Any, ...]:
    named = (end.inner_address, end.local_networks, end.remote_networks, end.mode, end.technology)
    return end.gateway_id, end.uplink_id, end.peer_address, end.port, end.enabled, *named


def analyse(design: Design, today: date, memory: AnalysisCache | None = None, on_failure: OnFailure = lambda _: None) -> Analysis:
    """Run every check on a design. The same design and day give the same analysis, in the same order.

    A check that ends in an error of ours is a finding of its own, at its object; `on_failure` is told of it.
    """
    memory = memory or AnalysisCache()
    _forget_removed(design, memory)
    shape = TunnelOutlines.of(design)
    checks = Checks(design)
    collisions: tuple[Overlap, ...] = ()
    with checks.guard("collisions of networks", SETTINGS_ID):
        collisions, found = _collisions(design, memory, shape)
        checks.findings += found
    checks.run("networks", lambda: _each_network(design, memory, shape))
    checks.run("hosts, reservations and translations", lambda: _between(design, memory, shape))
    forecasts = []
    together: GatewayTunnels | None = None
    with checks.guard("tunnels of one gateway", SETTINGS_ID):
        together = GatewayTunnels(design)
    for tunnel in design.tunnels:
        foretold, of_tunnel = _tunnel(TunnelEnds(design, tunnel, today), together, memory, on_failure)
        forecasts.append(foretold)
        checks.findings += of_tunnel
    checks.run("paths", lambda: _paths(design, memory, shape, forecasts))
    checks.run("keys used more than once", lambda: reused_keys(design))
    for failed in checks.found:
        on_failure(failed)
    findings = sorted(checks.findings, key=lambda one: (one.severity.rank, one.code, one.where[0].id))
    return Analysis(
        revision=design.revision, today=today, forecasts=tuple(forecasts), overlaps=collisions, findings=tuple(findings)
    )


def _same(some: tuple[Any, ...], others: tuple[Any, ...]) -> bool:
    """Whether two tuples hold the very same values, one by one; days, numbers and words may be copies."""
    return len(some) == len(others) and all(
        one is other
        or (isinstance(one, date | int | str | TunnelOutlines) and one == other)
        or (isinstance(one, _Beside) and one.is_same(other))
        for one, other in zip(some, others, strict=True)
    )


def _forget_removed(design: Design, memory: AnalysisCache) -> None:
    for gone in memory.tunnels.keys() - design.tunnel_by_id.keys():
        del memory.tunnels[gone]


def _collisions(design: Design, memory: AnalysisCache, shape: TunnelOutlines) -> tuple[tuple[Overlap, ...], tuple[Finding, ...]]:
    """Tunnels matter only where something shares addresses: they join sites, and name networks."""
    always = (design.networks, design.sites, design.gateways, design.translations, design.prefix_reservations, *_settings(design))
    around = (shape, design.uplinks, design.hosts)
    known = memory.collisions
    if known and _same(known[0], always) and (not (known[2] or design.translations) or _same(known[1], around)):
        return known[2], known[3]
    collisions = overlaps(design)
    found = tuple(overlap_findings(design, collisions))
    memory.collisions = always, around, collisions, found
    return collisions, found


def _settings(design: Design) -> tuple[Any, ...]:
    """Return what holds for the design as a whole: a remedy that proposes supernets puts all of it."""
    return (design.name, design.supernets, design.policies, design.policy_id, design.planning_horizon_days)


def _each_network(design: Design, memory: AnalysisCache, shape: TunnelOutlines) -> Iterator[Finding]:
    kept: dict[str, tuple[tuple[Any, ...], tuple[Finding, ...]]] = {}
    room = (design.networks, design.prefix_reservations, design.translations, shape)  # what growing depends on
    for network in design.networks:
        sources = (network, design.site_by_id[network.site_id], *_settings(design), *design.hosts_of_network(network.id))
        if network.hosts_expected is not None:
            sources = (*sources, *room)
        known = memory.networks.get(network.id)
        if not known or not _same(known[0], sources):
            known = sources, tuple(network_findings(design, network))
        kept[network.id] = known
        yield from known[1]
    memory.networks = kept


def _between(design: Design, memory: AnalysisCache, shape: TunnelOutlines) -> tuple[Finding, ...]:
    """What stands beside networks; tunnels join sites, and a design without any of it pays nothing for a changed tunnel."""
    beside = (design.hosts, design.prefix_reservations, design.translations, design.profiles)
    sources: tuple[Any, ...] = (*beside, design.routes, design.networks, design.sites, design.gateways, *_settings(design))
    if any(beside):
        sources = (*sources, shape)
    if not memory.between or not _same(memory.between[0], sources):
        memory.between = sources, tuple(between_findings(design))
    return memory.between[1]


_BEFORE_TRAFFIC: Final = frozenset({StageState.FAILS, StageState.PARTIAL})


def _paths(design: Design, memory: AnalysisCache, shape: TunnelOutlines, forecasts: list[Forecast]) -> tuple[Finding, ...]:
    """What decides where traffic goes. What waits behind a tunnel that has troubles of its own is not told yet."""
    troubled = " ".join(one.tunnel_id for one in forecasts if one.state in _BEFORE_TRAFFIC)
    sources: tuple[Any, ...] = (design.routes, design.rules, design.filters, design.intents, design.networks, design.sites)
    around = (design.gateways, design.uplinks, design.hosts, design.translations, design.supernets)
    sources = (*sources, *around, shape, troubled)
    if not memory.paths or not _same(memory.paths[0], sources):
        tables = Tables(design)
        found = (*route_findings(tables, frozenset(troubled.split())), *rule_findings(tables), *carrying_findings(tables))
        memory.paths = sources, found
    return memory.paths[1]


def _tunnel(
    ends: TunnelEnds, together: GatewayTunnels | None, memory: AnalysisCache, on_failure: OnFailure
) -> tuple[Forecast, tuple[Finding, ...]]:
    design, tunnel = ends.design, ends.tunnel
    beside = _Beside(together.neighbours(tunnel) if together else ())
    known = memory.tunnels.get(tunnel.id)
    if known and _same(known[0], (*_sources(design, tunnel, ends.today, known[2]), beside)):
        return known[1], known[2]
    checks = Checks(design, tunnel)
    rows: tuple[Row, ...] = ()
    with checks.guard("both ends", tunnel.id):
        rows = compare(ends, together)
        checks.findings += row_findings(tunnel, rows)
    foretold = forecast(tunnel, rows) if rows else unknown_forecast(tunnel)
    checks.run("algorithms", lambda: algorithm_findings(ends))
    checks.run("exposures", lambda: exposure_findings(ends))
    checks.run("networks of both sides", lambda: (*redundant_networks(ends), *networks_inside(ends)))
    found = tuple(checks.findings)
    for failed in (*ends.failures.found, *checks.found):
        on_failure(failed)
    memory.tunnels[tunnel.id] = (*_sources(design, tunnel, ends.today, found), beside), foretold, found
    return foretold, found


@dataclass(frozen=True, slots=True)
class _Beside:
    """The other tunnels that a tunnel's analysis reads, with counts; the same where they are the very same objects."""

    tunnels: tuple[Tunnel | int, ...]

    def is_same(self, other: object) -> bool:
        """Whether another one holds the very same tunnels."""
        return isinstance(other, _Beside) and _same(self.tunnels, other.tunnels)


def _sources(design: Design, tunnel: Tunnel, today: date, found: tuple[Finding, ...]) -> tuple[Any, ...]:
    """Return all that a tunnel's analysis reads, where it led to these findings."""
    return (
        tunnel,
        today,
        design.policies,
        design.policy_id,
        design.planning_horizon_days,
        *_surroundings(design, tunnel, any(one.code in _MENDED_WITH_ROOM for one in found)),
    )


def _surroundings(design: Design, tunnel: Tunnel, seeks_room: bool) -> Iterator[Any]:
    """Yield what a tunnel's analysis reads beside the tunnel itself.

    The other tunnels matter only where a remedy seeks room for an inner network; whether one does, follows from the rest.
    """
    if seeks_room:
        yield design.tunnels
        yield from _settings(design)
        yield design.networks
        yield design.prefix_reservations
        yield design.translations
    for side in SIDES:
        end = tunnel.end(side)
        yield design.gateway_by_id[end.gateway_id]
        yield design.uplink_of(end)
        site = design.site_of(end)
        yield site
        if end.inner_address or tunnel.end(side.other).inner_address:
            yield design.networks  # which the inner network must not touch


def findings(design: Design, today: date) -> tuple[Finding, ...]:
    """Return all findings of a design, the worst first."""
    return analyse(design, today).findings
