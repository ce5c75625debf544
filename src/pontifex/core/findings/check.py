"""All findings of a design, and the analysis that a screen shows at once."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence, Set
from dataclasses import dataclass, field, replace
from datetime import date
from functools import cached_property, partial
from itertools import chain
from typing import Annotated, Any, Final, Generic, TypeVar
from zlib import crc32

from pydantic import Field

from pontifex.core.catalogue import Code, Severity
from pontifex.core.failures import OnFailure
from pontifex.core.findings.accepting import with_acceptances
from pontifex.core.findings.algorithms import algorithm_findings
from pontifex.core.findings.carrying import carrying_findings
from pontifex.core.findings.checks import Checks
from pontifex.core.findings.clouds import cloud_findings
from pontifex.core.findings.exits import WaitingExit, exit_findings, waiting_exits
from pontifex.core.findings.exposures import exposure_findings, key_prints, networks_inside, redundant_networks, reused_key
from pontifex.core.findings.finding import Finding
from pontifex.core.findings.idle_routes import unneeded_routes
from pontifex.core.findings.intents import intent_findings
from pontifex.core.findings.outlined import OutlinedFindings, Outlines
from pontifex.core.findings.overlaps import Overlap, overlap_findings, overlaps
from pontifex.core.findings.profiles import calls_beside, end_findings, profile_findings
from pontifex.core.findings.recorded import Place, Reads, changed_places, recorded
from pontifex.core.findings.routes import WaitingWants, idle_findings, standing_wants, unmet_findings, waiting_wants
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
    SharedRows,
    StageState,
    TunnelEnds,
    forecast,
    telling_rows,
)
from pontifex.core.matching.forecast import unknown_forecast
from pontifex.core.model import Design
from pontifex.core.model.design import SETTINGS_ID
from pontifex.core.reasons import Named, all_named
from pontifex.core.routing import Tables

R = TypeVar("R")
_SHARES: Final = 64  # of the networks: what is taken over costs less in large parts, what is done anew in small ones
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
    shared: SharedRows = field(default_factory=SharedRows)
    _parts: dict[_PartName, _Part[Any]] = field(default_factory=dict)
    _used: dict[_PartName, _Part[Any]] = field(default_factory=dict)
    _seen: dict[str, Design] = field(default_factory=dict)  # the states that the parts hold for
    _changed: dict[str, frozenset[Place]] = field(default_factory=dict)
    _read: dict[str, frozenset[str]] = field(default_factory=dict)  # the attributes that parts have read of each state
    _complete: bool = True

    def copy(self) -> AnalysisCache:
        """Return what is kept, to go on from without a change of this."""
        return AnalysisCache(
            self.outlines.copy(), self.shared, dict(self._parts), {}, self._seen, {}, dict(self._read), self._complete
        )

    def see(self, **states: Design) -> None:
        """Begin an analysis of states of a design, each by the name that parts are asked for under."""
        if not self._complete:  # the last analysis was broken off: what was not asked for then may be out of date
            self._parts, self._used = {}, {}
        self._complete = False
        self._changed = {
            name: changed_places(self._seen[name], state, self._read.get(name, frozenset()))
            if name in self._seen
            else frozenset()
            for name, state in states.items()
        }
        self._seen = states

    def part(self, state: str, name: _PartName, work: Callable[[Design], R], given: tuple[object, ...] = ()) -> R:
        """Return a part of the analysis; `work` reads the state that it is given, and nothing else that may change."""
        known: _Part[R] | None = self._parts.get(name)
        if known is None or known.given != given or not known.reads.hold(self._changed[state]):
            reads = Reads()
            known = _Part(given, reads, work(recorded(self._seen[state], reads)))
            self._read[state] = self._read.get(state, frozenset()) | reads.names
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
    checking = _Checking(design, outlined, today, memory, on_failure)
    collisions = checking.networks()
    forecasts = checking.tunnels()
    checking.paths(forecasts)
    checking.people_and_clouds()
    checking.keys()
    memory.end()
    for failed in checking.checks.found:
        on_failure(failed)
    findings = _in_order(checking.checks.findings)
    return Analysis(
        revision=design.revision,
        today=today,
        forecasts=tuple(forecasts),
        overlaps=collisions,
        findings=with_acceptances(design, findings, today),
        overlaps_count=len(collisions),
        findings_count=len(findings),
    )


def _in_order(found: Iterable[Finding]) -> list[Finding]:
    """Return findings, the worst first; those of one severity by code and place. There are far fewer codes than findings."""
    by_code: dict[tuple[Severity, Code], list[Finding]] = defaultdict(list)
    for finding in found:
        by_code[finding.severity, finding.code].append(finding)
    kinds = sorted(by_code, key=lambda kind: (kind[0].rank, kind[1]))
    return [told for kind in kinds for told in sorted(by_code[kind], key=lambda finding: finding.where[0].id)]


class _Checking:
    """An analysis under way: what was found so far."""

    def __init__(self, design: Design, outlined: Design, today: date, memory: AnalysisCache, on_failure: OnFailure) -> None:
        self._design, self._outlined, self._today = design, outlined, today
        self._memory, self._on_failure = memory, on_failure
        self.checks = Checks(design)
        self._key_users: dict[str, list[Tunnel]] = defaultdict(list)  # by the key's fingerprint

    def _add(self, found: OutlinedFindings) -> None:
        self.checks.findings += found.in_full(self._outlined, self._design)

    def _outlined_part(self, name: str, work: Callable[[Design], OutlinedFindings]) -> None:
        self._add(self._memory.part("outlined", (name, ""), work))

    def networks(self) -> tuple[Overlap, ...]:
        """Check the address space; return its collisions."""
        memory, guard = self._memory, self.checks.guard
        collisions: tuple[Overlap, ...] = ()
        with guard("collisions of networks", SETTINGS_ID):
            collisions, found = memory.part("outlined", ("collisions", ""), _collisions)
            self._add(found)
        shares = memory.part("outlined", ("shares", ""), lambda design: _shares(design.networks))
        for share, networks in enumerate(shares):
            with guard("networks", SETTINGS_ID):
                self._add(memory.part("outlined", ("networks", str(share)), partial(_networks, networks), (networks,)))
        with guard("hosts, reservations and translations", SETTINGS_ID):
            self._outlined_part("between", _between)
        return collisions

    def tunnels(self) -> list[Forecast]:
        """Compare both ends of each tunnel; return the forecasts."""
        forecasts = []
        together: GatewayTunnels | None = None
        today, memory, checks = self._today, self._memory, self.checks
        with checks.guard("tunnels of one gateway", SETTINGS_ID):
            together = GatewayTunnels.of(self._design)
        for tunnel in self._design.tunnels:
            beside = NO_NEIGHBOURS
            with checks.guard("tunnels of one gateway", tunnel.id):
                beside = together.neighbours(tunnel) if together else NO_NEIGHBOURS
            work = partial(_tunnel, tunnel, today, beside, memory.shared, self._on_failure)
            foretold, found, prints = memory.part("whole", ("tunnel", tunnel.id), work, (tunnel, today, beside))
            forecasts.append(foretold)
            checks.findings += found
            for fingerprint in prints:
                self._key_users[fingerprint].append(tunnel)
        return forecasts

    def paths(self, forecasts: Sequence[Forecast]) -> None:
        """Check where traffic goes. What waits behind a tunnel that has troubles of its own is not told yet."""
        with self.checks.guard("paths", SETTINGS_ID):
            waiting, found = self._memory.part("outlined", ("paths", ""), _paths)
            self._add(found)
            troubled = waiting.through & {foretold.tunnel_id for foretold in forecasts if foretold.state in _BEFORE_TRAFFIC}
            work = partial(_unmet, waiting, troubled)
            self._add(self._memory.part("outlined", ("paths", "unmet"), work, (waiting, troubled)))

    def people_and_clouds(self) -> None:
        """Check the profiles of those who dial in, prefix lists and clouds."""
        memory, guard, today = self._memory, self.checks.guard, self._today
        for profile in self._design.profiles:
            with guard("profiles", SETTINGS_ID):
                calls = calls_beside(self._design, profile)
                if calls:
                    work = partial(_profile_ends, profile, today, calls)
                    self._add(memory.part("outlined", ("profile", profile.id), work, (profile, today, calls)))
        with guard("people", SETTINGS_ID):
            self._outlined_part("people", _people)
        with guard("prefix lists", SETTINGS_ID):
            self.checks.findings += memory.part("outlined", ("lists", ""), partial(_lists, today), (today,))
        with guard("clouds", SETTINGS_ID):
            self._outlined_part("clouds", _clouds)

    def keys(self) -> None:
        """Tell of keys that serve several tunnels."""
        with self.checks.guard("keys used more than once", SETTINGS_ID):
            for fingerprint in sorted(key for key, tunnels in self._key_users.items() if len(tunnels) > 1):
                users = all_named(self._key_users[fingerprint])
                work = partial(_reused_key, fingerprint, users)
                self.checks.findings.append(self._memory.part("whole", ("key", fingerprint), work, (users,)))


def _collisions(design: Design) -> tuple[tuple[Overlap, ...], OutlinedFindings]:
    found = overlaps(design)
    return found, OutlinedFindings.of(overlap_findings(design, found))


def _shares(networks: Sequence[Network]) -> list[tuple[Network, ...]]:
    """Return networks in shares that are looked at together: each stays in its own, whatever others come and go."""
    shares: list[list[Network]] = [[] for _ in range(_SHARES)]
    for network in networks:
        shares[crc32(network.id.encode()) % _SHARES].append(network)
    return [tuple(share) for share in shares]


def _networks(networks: Sequence[Network], design: Design) -> OutlinedFindings:
    return OutlinedFindings.of(found for network in networks for found in network_findings(design, network))


def _reused_key(fingerprint: str, users: tuple[Named[Tunnel], ...], _design: Design) -> Finding:
    return reused_key(fingerprint, users)


def _profile_ends(profile: Profile, today: date, calls: Neighbours, design: Design) -> OutlinedFindings:
    return OutlinedFindings.of(end_findings(design, profile, today, calls))


def _people(design: Design) -> OutlinedFindings:
    return OutlinedFindings.of(profile_findings(design) if design.profiles else ())


def _lists(today: date, design: Design) -> tuple[Finding, ...]:
    return tuple(prefix_list_findings(design, today))


def _clouds(design: Design) -> OutlinedFindings:
    return OutlinedFindings.of(cloud_findings(design))


def _between(design: Design) -> OutlinedFindings:
    return OutlinedFindings.of(between_findings(design))


_BEFORE_TRAFFIC: Final = frozenset({StageState.FAILS, StageState.PARTIAL})


@dataclass(frozen=True, eq=False)
class _Waiting:
    """What the paths don't give of what is wanted."""

    wants: tuple[WaitingWants, ...]
    exits: tuple[WaitingExit, ...]

    @cached_property
    def through(self) -> frozenset[str]:
        """The tunnels that any of it is to go through."""
        return frozenset().union(*(waiting.through for some in (self.wants, self.exits) for waiting in some))


def _paths(design: Design) -> tuple[_Waiting, OutlinedFindings]:
    """What decides where traffic goes: what isn't met, and what is to be said of the rest."""
    tables = Tables(design)
    wanted = standing_wants(tables) if design.intents else None
    found = chain(
        unneeded_routes(tables, wanted) if wanted else (),
        idle_findings(tables),
        rule_findings(tables),
        intent_findings(design),
        carrying_findings(tables),
        workload_findings(tables),
    )
    waiting = _Waiting(tuple(waiting_wants(wanted)) if wanted else (), tuple(waiting_exits(tables)))
    return waiting, OutlinedFindings.of(found)


def _unmet(waiting: _Waiting, troubled: Set[str], design: Design) -> OutlinedFindings:
    unmet = unmet_findings(design, waiting.wants, troubled)
    return OutlinedFindings.of(chain(unmet, exit_findings(design, waiting.exits, troubled)))


def _tunnel(
    tunnel: Tunnel, today: date, beside: Neighbours, shared: SharedRows, on_failure: OnFailure, design: Design
) -> tuple[Forecast, tuple[Finding, ...], frozenset[str]]:
    ends = TunnelEnds(design, tunnel, today)
    checks = Checks(design, tunnel)
    rows: tuple[Row, ...] = ()
    with checks.guard("both ends", tunnel.id):
        rows = telling_rows(ends, beside, shared)
        checks.findings += row_findings(tunnel, rows)
    foretold = forecast(tunnel, rows) if rows else unknown_forecast(tunnel)
    checks.run("algorithms", lambda: algorithm_findings(ends))
    checks.run("exposures", lambda: exposure_findings(ends))
    checks.run("networks of both sides", lambda: (*redundant_networks(ends), *networks_inside(ends)))
    prints: frozenset[str] = frozenset()
    with checks.guard("keys used more than once", tunnel.id):
        prints = key_prints(tunnel)
    for failed in (*ends.failures.found, *checks.found):
        on_failure(failed)
    return foretold, tuple(checks.findings), prints


def findings(design: Design, today: date) -> tuple[Finding, ...]:
    """Return all findings of a design, the worst first."""
    return analyse(design, today).findings
