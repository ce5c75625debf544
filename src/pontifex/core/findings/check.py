"""All findings of a design, and the analysis that a screen shows at once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from datetime import date
from functools import partial
from typing import Annotated, Any, Final, Generic, TypeVar

from pydantic import Field

from pontifex.core.failures import OnFailure
from pontifex.core.findings.accepting import with_acceptances
from pontifex.core.findings.algorithms import algorithm_findings
from pontifex.core.findings.carrying import carrying_findings
from pontifex.core.findings.checks import Checks
from pontifex.core.findings.clouds import cloud_findings
from pontifex.core.findings.exits import exit_findings
from pontifex.core.findings.exposures import exposure_findings, key_users, networks_inside, redundant_networks, reused_key
from pontifex.core.findings.finding import Finding
from pontifex.core.findings.outlined import Outlines, in_full
from pontifex.core.findings.overlaps import Overlap, overlap_findings, overlaps
from pontifex.core.findings.profiles import end_findings, profile_findings
from pontifex.core.findings.recorded import Place, Reads, changed_places, recorded
from pontifex.core.findings.routes import route_findings
from pontifex.core.findings.rules import rule_findings
from pontifex.core.findings.space import between_findings, network_findings
from pontifex.core.findings.tunnels import row_findings
from pontifex.core.findings.workloads import prefix_list_findings, workload_findings
from pontifex.core.kinds import Network, Profile, Tunnel
from pontifex.core.matching import (
    NO_NEIGHBOURS,
    Forecast,
    GatewayTunnels,
    Neighbours,
    Row,
    StageState,
    TunnelEnds,
    compare,
    forecast,
)
from pontifex.core.matching.forecast import unknown_forecast
from pontifex.core.model import Design
from pontifex.core.model.design import SETTINGS_ID
from pontifex.core.reasons import Named
from pontifex.core.routing import Tables

R = TypeVar("R")
_PartName = tuple[str, str]  # what is examined, and the object that it is about


@dataclass(frozen=True, slots=True, kw_only=True)
class Analysis:
    """What is known of a design at a revision: forecasts, collisions and findings."""

    revision: int
    today: Annotated[date, Field(title="Day", description="For which certificates and exceptions were judged.")]
    forecasts: Annotated[tuple[Forecast, ...], Field(title="Forecasts", description="One a tunnel, in the order of the tunnels.")]
    overlaps: Annotated[tuple[Overlap, ...], Field(title="Collisions of networks")]
    findings: Annotated[tuple[Finding, ...], Field(title="Findings", description="The worst first.")]
    overlaps_count: Annotated[int, Field(title="How many collisions there are")]
    findings_count: Annotated[int, Field(title="How many findings there are")]

    def first(self, most: int) -> Analysis:
        """Return the analysis with the first of its collisions and findings alone."""
        return replace(self, overlaps=self.overlaps[:most], findings=self.findings[:most])


@dataclass(frozen=True, slots=True)
class _Part(Generic[R]):
    """A part of the analysis, with all that it was worked out from."""

    given: tuple[object, ...]
    reads: Reads
    result: R


@dataclass
class AnalysisCache:
    """What was worked out for an earlier revision, so that an edit costs what it touches.

    A part is taken over when it was worked out from the very same values: those that it is given, and those that it has
    read of the design.
    """

    outlines: Outlines = field(default_factory=Outlines)
    _parts: dict[_PartName, _Part[Any]] = field(default_factory=dict)
    _used: dict[_PartName, _Part[Any]] = field(default_factory=dict)
    _seen: dict[str, Design] = field(default_factory=dict)  # the states that the parts hold for
    _changed: dict[str, frozenset[Place]] = field(default_factory=dict)
    _complete: bool = True

    def copy(self) -> AnalysisCache:
        """Return what is kept, to go on from without a change of this."""
        return AnalysisCache(self.outlines.copy(), dict(self._parts), {}, self._seen, {}, self._complete)

    def see(self, **states: Design) -> None:
        """Begin an analysis of states of a design, each by the name that parts are asked for under."""
        if not self._complete:  # the last analysis was broken off: what was not asked for then may be out of date
            self._parts, self._used = {}, {}
        self._complete = False
        self._changed = {
            name: changed_places(self._seen[name], state) if name in self._seen else frozenset() for name, state in states.items()
        }
        self._seen = states

    def part(self, state: str, name: _PartName, work: Callable[[Design], R], given: tuple[object, ...] = ()) -> R:
        """Return a part of the analysis; `work` reads the state that it is given, and nothing else that may change."""
        known: _Part[R] | None = self._parts.get(name)
        if known is None or known.given != given or not known.reads.hold(self._changed[state]):
            reads = Reads()
            known = _Part(given, reads, work(recorded(self._seen[state], reads)))
        self._used[name] = known
        return known.result

    def end(self) -> None:
        """End an analysis: parts that it had no use for are forgotten, since their objects are gone."""
        self._parts, self._used, self._complete = self._used, {}, True


def analyse(design: Design, today: date, memory: AnalysisCache | None = None, on_failure: OnFailure = lambda _: None) -> Analysis:
    """Run every check on a design. The same design and day give the same analysis, in the same order.

    A check that ends in an error of ours is a finding of its own, at its object; `on_failure` is told of it.
    """
    memory = memory or AnalysisCache()
    outlined = memory.outlines.of(design)
    memory.see(whole=design, outlined=outlined)
    checks = Checks(design)
    collisions: tuple[Overlap, ...] = ()
    with checks.guard("collisions of networks", SETTINGS_ID):
        collisions, found = memory.part("outlined", ("collisions", ""), _collisions)
        checks.findings += in_full(found, outlined, design)
    for network in design.networks:
        with checks.guard("networks", SETTINGS_ID):
            of_network = memory.part("outlined", ("network", network.id), partial(_network, network), (network,))
            checks.findings += in_full(of_network, outlined, design)
    with checks.guard("hosts, reservations and translations", SETTINGS_ID):
        checks.findings += in_full(memory.part("outlined", ("between", ""), _between), outlined, design)
    forecasts = []
    together: GatewayTunnels | None = None
    with checks.guard("tunnels of one gateway", SETTINGS_ID):
        together = GatewayTunnels.of(design)
    for tunnel in design.tunnels:
        beside = together.neighbours(tunnel) if together else NO_NEIGHBOURS
        work = partial(_tunnel, tunnel, today, beside, on_failure)
        foretold, of_tunnel = memory.part("whole", ("tunnel", tunnel.id), work, (tunnel, today, beside))
        forecasts.append(foretold)
        checks.findings += of_tunnel
    with checks.guard("paths", SETTINGS_ID):
        troubled = frozenset(one.tunnel_id for one in forecasts if one.state in _BEFORE_TRAFFIC)
        of_paths = memory.part("outlined", ("paths", ""), partial(_paths, troubled), (troubled,))
        checks.findings += in_full(of_paths, outlined, design)
    for profile in design.profiles:
        with checks.guard("profiles", SETTINGS_ID):
            work_on_ends = partial(_profile_ends, profile, today)
            checks.findings += memory.part("whole", ("profile", profile.id), work_on_ends, (profile, today))
    with checks.guard("people", SETTINGS_ID):
        checks.findings += in_full(memory.part("outlined", ("people", ""), _people), outlined, design)
    with checks.guard("prefix lists", SETTINGS_ID):
        checks.findings += memory.part("outlined", ("lists", ""), partial(_lists, today), (today,))
    with checks.guard("clouds", SETTINGS_ID):
        checks.findings += in_full(memory.part("outlined", ("clouds", ""), _clouds), outlined, design)
    with checks.guard("keys used more than once", SETTINGS_ID):
        for fingerprint, users in key_users(design).items():
            work_on_key = partial(_reused_key, fingerprint, users)
            checks.findings.append(memory.part("whole", ("key", fingerprint), work_on_key, (users,)))
    memory.end()
    for failed in checks.found:
        on_failure(failed)
    findings = sorted(checks.findings, key=lambda one: (one.severity.rank, one.code, one.where[0].id))
    return Analysis(
        revision=design.revision,
        today=today,
        forecasts=tuple(forecasts),
        overlaps=collisions,
        findings=with_acceptances(design, findings, today),
        overlaps_count=len(collisions),
        findings_count=len(findings),
    )


def _collisions(design: Design) -> tuple[tuple[Overlap, ...], tuple[Finding, ...]]:
    found = overlaps(design)
    return found, tuple(overlap_findings(design, found))


def _network(network: Network, design: Design) -> tuple[Finding, ...]:
    return tuple(network_findings(design, network))


def _reused_key(fingerprint: str, users: tuple[Named[Tunnel], ...], _design: Design) -> Finding:
    return reused_key(fingerprint, users)


def _profile_ends(profile: Profile, today: date, design: Design) -> tuple[Finding, ...]:
    return tuple(end_findings(design, profile, today))


def _people(design: Design) -> tuple[Finding, ...]:
    return tuple(profile_findings(design)) if design.profiles else ()


def _lists(today: date, design: Design) -> tuple[Finding, ...]:
    return tuple(prefix_list_findings(design, today))


def _clouds(design: Design) -> tuple[Finding, ...]:
    return tuple(cloud_findings(design))


def _between(design: Design) -> tuple[Finding, ...]:
    return tuple(between_findings(design))


_BEFORE_TRAFFIC: Final = frozenset({StageState.FAILS, StageState.PARTIAL})


def _paths(troubled: frozenset[str], design: Design) -> tuple[Finding, ...]:
    """What decides where traffic goes. What waits behind a tunnel that has troubles of its own is not told yet."""
    tables = Tables(design)
    return (
        *route_findings(tables, troubled),
        *exit_findings(tables, troubled),
        *rule_findings(tables),
        *carrying_findings(tables),
        *workload_findings(tables),
    )


def _tunnel(
    tunnel: Tunnel, today: date, beside: Neighbours, on_failure: OnFailure, design: Design
) -> tuple[Forecast, tuple[Finding, ...]]:
    ends = TunnelEnds(design, tunnel, today)
    checks = Checks(design, tunnel)
    rows: tuple[Row, ...] = ()
    with checks.guard("both ends", tunnel.id):
        rows = compare(ends, beside)
        checks.findings += row_findings(tunnel, rows)
    foretold = forecast(tunnel, rows) if rows else unknown_forecast(tunnel)
    checks.run("algorithms", lambda: algorithm_findings(ends))
    checks.run("exposures", lambda: exposure_findings(ends))
    checks.run("networks of both sides", lambda: (*redundant_networks(ends), *networks_inside(ends)))
    for failed in (*ends.failures.found, *checks.found):
        on_failure(failed)
    return foretold, tuple(checks.findings)


def findings(design: Design, today: date) -> tuple[Finding, ...]:
    """Return all findings of a design, the worst first."""
    return analyse(design, today).findings
