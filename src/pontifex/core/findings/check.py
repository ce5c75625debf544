"""All findings of a design, and the analysis that a screen shows at once."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence, Set
from dataclasses import dataclass, replace
from datetime import date
from functools import cached_property, partial
from itertools import chain
from typing import Annotated, Final, TypeVar
from zlib import crc32

from pydantic import Field

from pontifex.core.catalogue import Code, Severity
from pontifex.core.failures import FailedCheck, OnFailure
from pontifex.core.findings.accepting import with_acceptances
from pontifex.core.findings.cache import AnalysisCache, Examined
from pontifex.core.findings.carrying import carrying_findings
from pontifex.core.findings.checks import Checks
from pontifex.core.findings.clouds import cloud_findings
from pontifex.core.findings.exits import WaitingExit, exit_findings, waiting_exits
from pontifex.core.findings.exposures import reused_key
from pontifex.core.findings.finding import Finding, Remark
from pontifex.core.findings.idle_routes import unneeded_routes
from pontifex.core.findings.intents import intent_findings
from pontifex.core.findings.overlaps import Overlap, overlap_findings, overlaps
from pontifex.core.findings.profiles import calls_beside, end_findings, profile_findings
from pontifex.core.findings.routes import WaitingWants, idle_findings, standing_wants, unmet_findings, waiting_wants
from pontifex.core.findings.rules import rule_findings
from pontifex.core.findings.space import between_findings, network_findings
from pontifex.core.findings.tunnels import examined_tunnel
from pontifex.core.findings.workloads import prefix_list_findings, workload_findings
from pontifex.core.kinds import Network, Profile, Tunnel
from pontifex.core.matching import NO_NEIGHBOURS, Forecast, GatewayTunnels, Neighbours, StageState
from pontifex.core.model import Design
from pontifex.core.model.design import SETTINGS_ID
from pontifex.core.reasons import Named, all_named
from pontifex.core.routing import Tables
from pontifex.core.space.meeting import Crossings, crossings_of

R = TypeVar("R")
_SHARES: Final = 64  # of the networks: what is taken over costs less in large parts, what is done anew in small ones


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


def analyse(design: Design, today: date, memory: AnalysisCache | None = None, on_failure: OnFailure = lambda _: None) -> Analysis:
    """Run every check on a design. The same design and day give the same analysis, in the same order.

    A check that ends in an error of ours is a finding of its own, at its object; `on_failure` is told of it.
    """
    memory = memory or AnalysisCache()
    memory.begin(design)
    checking = _Checking(design, today, memory)
    collisions = checking.networks()
    forecasts = checking.tunnels()
    checking.paths(forecasts)
    checking.people_and_clouds()
    checking.keys()
    memory.end()
    for failed in (*memory.failed, *checking.checks.found):
        on_failure(failed)
    findings = _in_order(chain(checking.findings, (remark.finding for remark in checking.checks.remarks)))
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

    def __init__(self, design: Design, today: date, memory: AnalysisCache) -> None:
        self._design, self._today, self._memory = design, today, memory
        self.findings: list[Finding] = []
        self.checks = Checks(design)  # of the parts as wholes
        self._key_users: dict[str, list[Tunnel]] = defaultdict(list)  # by the key's fingerprint

    def _outlined(self, name: str, work: Callable[[Design], Examined[R]], about: str = "", given: tuple[object, ...] = ()) -> R:
        """Have a part of the outlined design, and keep its findings."""
        result, findings = self._memory.outlined_part((name, about), work, given)
        self.findings += findings
        return result

    def networks(self) -> tuple[Overlap, ...]:
        """Check the address space; return its collisions."""
        guard = self.checks.guard
        collisions: tuple[Overlap, ...] = ()
        crossings: Crossings | None = None
        with guard("ways between sites", SETTINGS_ID):
            crossings = self._outlined("crossings", _crossings)
        with guard("collisions of networks", SETTINGS_ID):
            collisions = self._outlined("collisions", partial(_collisions, crossings), given=(crossings,))
        shares = self._outlined("shares", _shares)
        for share, networks in enumerate(shares):
            with guard("networks", SETTINGS_ID):
                self._outlined("networks", partial(_networks, networks), str(share), (networks,))
        with guard("hosts, reservations and translations", SETTINGS_ID):
            self._outlined("between", partial(_between, crossings), given=(crossings,))
        return collisions

    def tunnels(self) -> list[Forecast]:
        """Compare both ends of each tunnel; return the forecasts."""
        forecasts = []
        together: GatewayTunnels | None = None
        today, memory, checks = self._today, self._memory, self.checks
        with checks.guard("tunnels of one gateway", SETTINGS_ID):
            together = GatewayTunnels.of(self._design)
        for tunnel in self._design.tunnels:
            try:  # a guard for each of a thousand tunnels would cost more than most answers
                beside = together.neighbours(tunnel) if together else NO_NEIGHBOURS
            except Exception as error:
                beside = NO_NEIGHBOURS
                checks.note(FailedCheck("tunnels of one gateway", tunnel.id, error))
            work = partial(examined_tunnel, tunnel, today, beside)
            (foretold, prints), found = memory.part(("tunnel", tunnel.id), work, (tunnel, today, beside))
            forecasts.append(foretold)
            self.findings += found
            for fingerprint in prints:
                self._key_users[fingerprint].append(tunnel)
        return forecasts

    def paths(self, forecasts: Sequence[Forecast]) -> None:
        """Check where traffic goes. What waits behind a tunnel that has troubles of its own is not told yet."""
        with self.checks.guard("paths", SETTINGS_ID):
            waiting = self._outlined("paths", _paths)
            troubled = waiting.through & {foretold.tunnel_id for foretold in forecasts if foretold.state in _BEFORE_TRAFFIC}
            self._outlined("unmet", partial(_unmet, waiting, troubled), given=(waiting, troubled))

    def people_and_clouds(self) -> None:
        """Check the profiles of those who dial in, prefix lists and clouds."""
        guard, today = self.checks.guard, self._today
        for profile in self._design.profiles:
            with guard("profiles", SETTINGS_ID):
                calls = calls_beside(self._design, profile)
                if calls:
                    work = partial(_profile_ends, profile, today, calls)
                    self._outlined("profile", work, profile.id, (profile, today, calls))
        with guard("prefix lists", SETTINGS_ID):
            self._outlined("lists", partial(_lists, today), given=(today,))
        with guard("clouds", SETTINGS_ID):
            self._outlined("clouds", _clouds)

    def keys(self) -> None:
        """Tell of keys that serve several tunnels."""
        with self.checks.guard("keys used more than once", SETTINGS_ID):
            for fingerprint in sorted(key for key, tunnels in self._key_users.items() if len(tunnels) > 1):
                users = all_named(self._key_users[fingerprint])
                _, found = self._memory.part(("key", fingerprint), partial(_reused_key, fingerprint, users), (users,))
                self.findings += found


def _crossings(design: Design) -> Examined[Crossings]:
    return Examined(crossings_of(design, design.tunnels))


def _collisions(crossings: Crossings | None, design: Design) -> Examined[tuple[Overlap, ...]]:
    found = overlaps(design, crossings)
    return Examined(found, overlap_findings(design, found))


def _shares(design: Design) -> Examined[tuple[tuple[Network, ...], ...]]:
    """Return networks in shares that are looked at together: each stays in its own, whatever others come and go."""
    shares: list[list[Network]] = [[] for _ in range(_SHARES)]
    for network in design.networks:
        shares[crc32(network.id.encode()) % _SHARES].append(network)
    return Examined(tuple(map(tuple, shares)))


def _networks(networks: Sequence[Network], design: Design) -> Examined[None]:
    return Examined(None, [remark for network in networks for remark in network_findings(design, network)])


def _reused_key(fingerprint: str, users: tuple[Named[Tunnel], ...], _design: Design) -> Examined[None]:
    return Examined(None, [reused_key(fingerprint, users)])


def _profile_ends(profile: Profile, today: date, calls: Neighbours, design: Design) -> Examined[None]:
    return Examined(None, tuple(end_findings(design, profile, today, calls)))


def _lists(today: date, design: Design) -> Examined[None]:
    return Examined(None, tuple(prefix_list_findings(design, today)))


def _clouds(design: Design) -> Examined[None]:
    return Examined(None, tuple(cloud_findings(design)))


def _between(crossings: Crossings | None, design: Design) -> Examined[None]:
    return Examined(None, tuple(between_findings(design, crossings)))


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


# what is looked at in the tables of all gateways, which are made once for all of it
PATH_CHECKS: Final[dict[str, Callable[[Tables], Iterable[Remark]]]] = {
    "idle tunnels": idle_findings,
    "rules": rule_findings,
    "intents": intent_findings,
    "what carries tunnels": carrying_findings,
    "exits": workload_findings,
    "people": profile_findings,
}


def _paths(design: Design) -> Examined[_Waiting]:
    """What decides where traffic goes: what isn't met, and what is to be said of the rest."""
    tables, checks = Tables(design), Checks(design)
    wanted = standing_wants(tables) if design.intents else None
    if wanted:
        checks.run("routes without use", partial(unneeded_routes, tables), wanted)
    for name, check in PATH_CHECKS.items():
        checks.run(name, check, tables)
    waiting = _Waiting(tuple(waiting_wants(wanted)) if wanted else (), tuple(waiting_exits(tables)))
    return Examined(waiting, checks.remarks, checks.found)


def _unmet(waiting: _Waiting, troubled: Set[str], design: Design) -> Examined[None]:
    unmet = unmet_findings(design, waiting.wants, troubled)
    return Examined(None, (*unmet, *exit_findings(design, waiting.exits, troubled)))


def findings(design: Design, today: date) -> tuple[Finding, ...]:
    """Return all findings of a design, the worst first."""
    return analyse(design, today).findings
