"""Use cases about paths: who reaches whom, one flow, single failures, routes, rules, quality, and split tunnels."""

from __future__ import annotations

from collections.abc import Sequence

from pontifex.core.addressing import Address, Family
from pontifex.core.addressing.dhcp_routes import MOST_OCTETS
from pontifex.core.exits.order import exit_order
from pontifex.core.exits.workloads import exit_table
from pontifex.core.handover import LinuxPlan, linux_plan
from pontifex.core.kinds import Network, ObjectType, Rule
from pontifex.core.model import Design, put
from pontifex.core.rehearsal.leases import lease_course
from pontifex.core.routing import Conditions, Flow, Split, Tables, Trace, matrix, route_list, sweep
from pontifex.core.routing.all_flows.matrix import services_of
from pontifex.core.routing.all_flows.sweep import suspects
from pontifex.core.routing.all_flows.worst_flow import worst_between
from pontifex.core.routing.links.capacity import IntentLoads
from pontifex.core.routing.links.choice import choices
from pontifex.core.routing.links.quality import thresholds
from pontifex.core.routing.links.quality_course import QualityCourse, quality_course, usual_course
from pontifex.core.routing.rules.rules import RuleList
from pontifex.core.routing.split.split import led_to, missing
from pontifex.core.routing.trace.flow import Failing, failing_of, failing_tunnels
from pontifex.core.routing.trace.moved_host import moved_host
from pontifex.core.routing.trace.trace import trace
from pontifex.core.routing.wanted.blocks import wanted_blocks, wants
from pontifex.core.routing.wanted.generate import missing_routes, needed_routes
from pontifex.core.space import handed_out
from pontifex.services.analyses import AnalysisService
from pontifex.services.kept import KeptDesigns
from pontifex.services.path_answers import (
    ChangedCell,
    ChangedCells,
    ExitShown,
    LinkChoices,
    MovedHost,
    NeededRoutes,
    PathsMatrix,
    RuleMove,
    SplitPlan,
    Sweep,
    WantedPair,
)
from pontifex.services.path_questions import (
    NotInDesign,
    Supposed,
    answers,
    dhcp_option,
    letters,
    positioned,
    read_course,
    read_dscp,
    read_place,
    read_service,
    read_slow,
    state_at,
)


class PathsService:
    """All use cases about paths. Nothing here writes: changes go through the repository."""

    def __init__(self, designs: KeptDesigns, analyses: AnalysisService) -> None:
        self._designs, self._analyses = designs, analyses
        self._tables: dict[str, Tables] = {}

    def exits(self, design_id: str) -> tuple[ExitShown, ...]:
        """Return what hangs on each exit of a design."""
        tables = self.tables(design_id)
        shown = []
        for exit_ in tables.design.exits:
            table = exit_table(tables, exit_)
            shown.append(ExitShown(table=table, order=exit_order(tables.design, exit_, table)))
        return tuple(shown)

    def tables(self, design_id: str) -> Tables:
        """Return the tables of a design as it stands; made once a revision."""
        design = self._designs.get(design_id)
        kept = self._tables.get(design_id)
        if kept is None or kept.design is not design:
            kept = self._tables[design_id] = Tables(design)
            self._tables = {id_: candidate for id_, candidate in self._tables.items() if id_ in self._designs}
        return kept

    def _conditions(self, tables: Tables, supposed: Supposed) -> Conditions:
        design = tables.design
        known = (design.uplink_by_id, design.tunnel_by_id, design.gateway_by_id, design.site_by_id)
        for id_ in supposed.down:
            if not any(id_ in items for items in known):
                raise NotInDesign(f"there is no uplink, tunnel, gateway or site '{id_}' in this design")
        slow = dict(read_slow(design, text) for text in supposed.slow)
        return Conditions.of(design, frozenset(supposed.down), self._failing(design, supposed.all_up), slow)

    def _failing(self, design: Design, all_up: bool) -> Failing:
        """Return the tunnels that don't come up; of an earlier revision they are worked out, now they are known already."""
        if all_up:
            return Failing()
        if self._designs.known(design.id) is design:
            return failing_of(self._analyses.of(design).forecasts)
        return failing_tunnels(design, self._analyses.today)

    def matrix(self, design_id: str, service: str, dscp: str, supposed: Supposed) -> PathsMatrix:
        """Return who reaches whom. Raise TooLarge, UnreadableQuestion, NotInDesign."""
        tables = self.tables(design_id)
        asked, class_ = read_service(service), read_dscp(dscp)
        found = matrix(tables, self._conditions(tables, supposed), asked, class_)
        wanted = {
            (found.place[want.source.id], found.place[want.destination.id])
            for want in wants(tables.design)
            if (want.service.contains(asked) or asked.contains(want.service))
            and {want.source.id, want.destination.id} <= found.place.keys()  # hosts of isolated networks aside
        }
        return PathsMatrix(
            revision=tables.design.revision,
            service=str(asked),
            services=tuple(map(str, services_of(tables.design))),
            network_ids=tuple(network.id for network in found.networks),
            rows=tuple(letters(found)),
            wanted=tuple(WantedPair(row=row, column=column) for row, column in sorted(wanted)),
        )

    def trace(self, design_id: str, source: str, destination: str, service: str, dscp: str, supposed: Supposed) -> Trace:
        """Follow a flow between addresses, hosts or networks; of networks the pair of addresses that fares worst.

        Raise UnreadableQuestion, NotInDesign.
        """
        tables = self.tables(design_id)
        conditions, asked, class_ = self._conditions(tables, supposed), read_service(service), read_dscp(dscp)
        design = tables.design
        ends = [(network, network.prefix) for text in (source, destination) if (network := design.network_by_id.get(text))]
        if len(ends) == 2 and source != destination and ends[0][1].family is ends[1][1].family:
            return worst_between(tables, conditions, ends[0], ends[1], asked, class_)[1]
        begin, home = read_place(design, source, "source")
        end, goal = read_place(design, destination, "destination")
        if goal and home:
            end = tables.chains.seen_from(home.site_id, goal, end)
        return trace(tables, Flow(begin, end, asked, class_), conditions, home, goal)

    def sweep(self, design_id: str, all_up: bool) -> Sweep:
        """Return every single failure. Raise TooLarge."""
        tables = self.tables(design_id)
        return Sweep(failures=sweep(tables, self._failing(tables.design, all_up)))

    def routes(self, design_id: str) -> NeededRoutes:
        """Return the routes that the intents need."""
        tables = self.tables(design_id)
        needed = needed_routes(tables, wanted_blocks(tables.design))
        return NeededRoutes(routes=needed, operations=tuple(map(put, missing_routes(tables.design, needed))))

    def links(self, design_id: str, supposed: Supposed) -> LinkChoices:
        """Return what the rules choose, and what the uplinks carry, also when a link fails. Raise NotInDesign."""
        tables = self.tables(design_id)
        conditions = self._conditions(tables, supposed)
        failing = [suspect for suspect in suspects(tables.design) if suspect.type in (ObjectType.UPLINK, ObjectType.TUNNEL)]
        carried = IntentLoads(tables, conditions)
        return LinkChoices(
            rules=tuple(choices(tables, conditions)),
            loads=carried.loads(),
            over_after=tuple(carried.over_after(failing)),
        )

    def quality_course(
        self, design_id: str, rule_id: str, path_id: str, measure: str, course: Sequence[str], supposed: Supposed
    ) -> QualityCourse:
        """Return what a rule takes while a measure of a path goes its course. Raise NotInDesign, UnreadableQuestion."""
        tables = self.tables(design_id)
        rule = _rule(tables.design, rule_id)
        path = next((candidate for candidate in rule.paths if candidate.id == path_id), None)
        limit = next((threshold for threshold in thresholds(rule, path) if threshold.measure == measure), None) if path else None
        if path is None or limit is None:
            raise NotInDesign(f"the rule '{rule_id}' has no path '{path_id}' with a limit of that measure")
        points = read_course(course) or usual_course(rule, limit)
        return quality_course(tables, rule, path, limit, points, self._conditions(tables, supposed))

    def move_rule(self, design_id: str, rule_id: str, place: int) -> RuleMove:
        """Return what it changes to move a rule to a place among its gateway's rules, from 0. Raise NotInDesign."""
        tables = self.tables(design_id)
        rule = _rule(tables.design, rule_id)
        listed = RuleList.of(tables, tables.design.gateway_by_id[rule.gateway_id])
        moved, changes = listed.moved(rule_id, max(0, min(place, len(listed.rules) - 1)))
        return RuleMove(changes=tuple(changes), operations=tuple(map(put, positioned(moved.rules))))

    def linux(self, design_id: str, gateway_id: str) -> LinuxPlan:
        """Return the commands that make a Linux machine do what a gateway's routes, rules and filters say. Raise NotInDesign."""
        tables = self.tables(design_id)
        if gateway_id not in tables.design.gateway_by_id:
            raise NotInDesign(f"there is no gateway '{gateway_id}' in this design")
        return linux_plan(tables, gateway_id)

    def move_host(self, design_id: str, host_id: str, network_id: str, address: Address, supposed: Supposed) -> MovedHost:
        """Return what changes for a host at an address of another network. Raise NotInDesign."""
        tables = self.tables(design_id)
        host, network = tables.design.host_by_id.get(host_id), tables.design.network_by_id.get(network_id)
        if host is None or network is None:
            raise NotInDesign(f"there is no {'network' if host else 'host'} '{network_id if host else host_id}' in this design")
        after, pairs = moved_host(tables.design, host, network, address, self._conditions(tables, supposed))
        return MovedHost(pairs=pairs, operations=(put(after.host_by_id[host_id]),))

    def difference(self, design_id: str, since: int, until: int | None, service: str, all_up: bool) -> ChangedCells:
        """Return the pairs of networks that fare otherwise at a revision than at an earlier one; without `until`, now.

        Raise TooLarge, NotInDesign.
        """
        asked = read_service(service)
        states = []
        for revision in (since, until):
            state = self.tables(design_id) if revision is None else Tables(state_at(self._designs, design_id, revision))
            found = matrix(state, Conditions.of(state.design, failing=self._failing(state.design, all_up)), asked)
            states.append({(cell.source.id, cell.destination.id): cell.reach.value for cell in found.cells()})
        before, after = states
        return ChangedCells(
            cells=tuple(
                ChangedCell(source_id=pair[0], destination_id=pair[1], before=was, after=is_)
                for pair in sorted(before.keys() | after.keys())
                if (was := before.get(pair, "")) != (is_ := after.get(pair, ""))
            )
        )

    def split(
        self, design_id: str, profile_id: str, other: Split | None, most: int | None, router: str, default_inside: bool
    ) -> SplitPlan:
        """Return the plan of a profile's split, or of another one in its place. Raise NotInDesign."""
        tables = self.tables(design_id)
        design = tables.design
        profile = next((candidate for candidate in design.profiles if candidate.id == profile_id), None)
        if profile is None:
            raise NotInDesign(f"there is no profile '{profile_id}' in this design")
        pool = design.network_by_id.get(profile.pool_id or "")
        own = Split.of(profile, pool.prefix if pool else None)
        chosen = Split(other.mode, other.networks, own.families) if other else own
        routes = route_list(chosen, most or profile.most_routes)
        handed, option, trouble = dhcp_option(routes, pool, router, default_inside)
        after = pool.changed(dhcp_routes=handed) if pool and handed and not trouble else None
        led = [
            network
            for network in led_to(tables, design.gateway_by_id[profile.gateway_id])
            if network.prefix.family in chosen.families
        ]
        gone = set(missing(chosen, (network.prefix for network in led)))
        return SplitPlan(
            routes=routes,
            leaks=tuple(f"IPv{4 if family is Family.V4 else 6} goes beside the tunnel" for family in chosen.leaks),
            forgotten=tuple(network.id for network in led if network.prefix in gone),
            resolvers=tuple(answers(chosen, profile)),
            pool_room=handed_out(pool) if pool else None,
            people=profile.people,
            leases=_leases(pool),
            option=option.hex(),
            option_fits=len(option) <= MOST_OCTETS,
            trouble=trouble,
            course=lease_course(pool, after, profile.dhcp_block)[0] if after and pool else None,
            operations=(put(after),) if after and after != pool else (),
        )


def _leases(pool: Network | None) -> str:
    """Say which leases keep the routes that they were given."""
    if pool is None:
        return "All people connect anew before it holds for them."
    asked = [f"half of it ({pool.lease_time_s // 2} s) is over" if pool.lease_time_s else "it is renewed, which is not known"]
    return f"Each lease of {pool.prefix} keeps its routes until {asked[0]}, or until its device connects anew."


def _rule(design: Design, rule_id: str) -> Rule:
    rule = next((candidate for candidate in design.rules if candidate.id == rule_id), None)
    if rule is None:
        raise NotInDesign(f"there is no rule '{rule_id}' in this design")
    return rule
