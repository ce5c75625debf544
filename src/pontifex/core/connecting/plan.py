"""The one change that connects sites: tunnels by a standard, inner addresses, routes, and what is wanted."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from pontifex.core.addressing import AddressSet, Family, Interface, Prefix, free_blocks
from pontifex.core.connecting.ends import SideReach, end_of
from pontifex.core.connecting.keys import stand_in
from pontifex.core.connecting.outcomes import joint_outcomes
from pontifex.core.connecting.request import Connect, NotConnectable, Pattern
from pontifex.core.connecting.sides import JoinedSide, joined_networks
from pontifex.core.importing.draft import DesignDraft
from pontifex.core.kinds import (
    AuthMethod,
    Intent,
    Member,
    MemberType,
    Mode,
    ObjectType,
    Role,
    Route,
    Site,
    Tunnel,
)
from pontifex.core.model import Design, Operation, new_route, put
from pontifex.core.reasons import Reason, Sentence
from pontifex.core.space.room import taken

_POINT_TO_POINT = {Family.V4: 31, Family.V6: 127}  # RFC 3021, RFC 6164
_MOST_MEMBERS = 256  # of one side of an intent


@dataclass(frozen=True, slots=True, kw_only=True)
class Joined:
    """Two sites, and the tunnel that is to join them, or why there can be none."""

    name: Annotated[str, Field(title="Tunnel")]
    left: Annotated[str, Field(title="Left site")]
    right: Annotated[str, Field(title="Right site")]
    calls: Annotated[str, Field(title="Who calls", description="The name of a site; empty where nothing is made.")] = ""
    identities: Annotated[tuple[str, ...], Field(title="Identities", description="Left and right.")] = ()
    inner: Annotated[str, Field(title="Inner network")] = ""
    networks: Annotated[int, Field(title="Networks of both sides")] = 0
    refused: Annotated[Sentence | None, Field(title="Why it isn't made")] = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ConnectPlan:
    """What connecting comes down to, before anything of it is written."""

    joined: tuple[Joined, ...]
    made: Annotated[int, Field(title="How many tunnels are made")]
    keys: Annotated[int, Field(title="How many keys are generated")]
    routes: Annotated[int, Field(title="How many routes are made")]
    intents: Annotated[int, Field(title="How many intents are made")]


class _ConnectPlanner:
    """A design, and what is added to it."""

    def __init__(self, design: Design, request: Connect) -> None:
        self.design, self.request, self.draft = design, request, DesignDraft(design)
        self.reach = SideReach(design, request)
        self.tunnels = 0
        if request.standard.id not in design.standard_by_id:
            self.draft.keep(request.standard)
        self._route_ids = set(design.by_type[ObjectType.ROUTE])

    def add_tunnel(self, sides: tuple[JoinedSide, JoinedSide], inner: Prefix | None) -> str:
        """Add a tunnel whose ends are set by the standard, with its routes where routes decide; return its name."""
        left, right = sides
        name = self.draft.free_name(Tunnel, "", f"{left.site.name[:37]}–{right.site.name[:37]}")
        standard, key = self.request.standard, stand_in(self.design, self.tunnels)
        ends = [
            end_of(standard, own, far, self.reach, inner_address(inner, number), key)
            for number, (own, far) in enumerate(((left, right), (right, left)))
        ]
        id_ = self.draft.free_id(Tunnel, name)
        self.draft.keep(Tunnel(id=id_, name=name, standard_id=standard.id, left=ends[0], right=ends[1]))
        self.tunnels += 1
        if standard.mode is Mode.ROUTE:
            self._add_routes(id_, left, right)
            self._add_routes(id_, right, left)
        return name

    def _add_routes(self, tunnel_id: str, own: JoinedSide, far: JoinedSide) -> None:
        for prefix in self.reach.behind(far, own):
            self.draft.keep(new_route(self.design, self._route_ids, own.gateway.id, prefix, tunnel_id, None))

    def add_intent(self, stem: str, sources: Sequence[str], destinations: Sequence[str]) -> None:
        """Say that sites are to reach each other, in as many intents as their members take."""
        for from_members in _chunks(list(self._members(sources))):
            for to_members in _chunks(list(self._members(destinations))):
                name = self.draft.free_name(Intent, "", stem)
                id_, both_ways = self.draft.free_id(Intent, name), from_members != to_members
                self.draft.keep(Intent(id=id_, name=name, sources=from_members, destinations=to_members, both_ways=both_ways))

    def _members(self, site_ids: Sequence[str]) -> Iterator[Member]:
        """Yield sites, or their networks where not all of a site's are to be reached."""
        for site_id in site_ids:
            networks = joined_networks(self.design, site_id)
            if len(networks) == len(self.design.networks_of_site(site_id)):
                yield Member(type=MemberType.SITE, id=site_id)
            else:
                yield from (Member(type=MemberType.NETWORK, id=network.id) for network in networks)


def plan_connections(design: Design, request: Connect) -> tuple[ConnectPlan, tuple[Operation, ...]]:
    """Return what connecting sites comes down to, with the one change that does it; its keys are stand-ins.

    Raise NotConnectable where nothing can be made of the request.
    """
    outcomes = joint_outcomes(design, request)
    pairs = [pair for pair, outcome in outcomes if not isinstance(outcome, Reason)]
    planner = _ConnectPlanner(design, request)
    inner = iter(_inner_networks(design, request, len(pairs)))
    joined = []
    for (left, right), outcome in outcomes:
        if isinstance(outcome, Reason):
            joined.append(Joined(name="", left=left.name, right=right.name, refused=Sentence(outcome)))
        else:
            network = next(inner, None)
            joined.append(_joined(planner.add_tunnel(outcome, network), outcome, network))
    if request.intents:
        _add_intents(planner, request, pairs)
    made = planner.draft.changed() if pairs else []
    plan = ConnectPlan(
        joined=tuple(joined),
        made=len(pairs),
        keys=len(pairs) if request.standard.auth is AuthMethod.PRE_SHARED_KEY else 0,
        routes=sum(isinstance(item, Route) for item in made),
        intents=sum(isinstance(item, Intent) for item in made),
    )
    return plan, tuple(put(item) for item in made)


def _joined(name: str, sides: tuple[JoinedSide, JoinedSide], inner: Prefix | None) -> Joined:
    left, right = sides
    return Joined(
        name=name,
        left=left.site.name,
        right=right.site.name,
        calls=(left if left.role is Role.CALL else right).site.name,
        identities=(left.identity.value, right.identity.value),
        inner=str(inner) if inner else "",
        networks=len(left.networks) + len(right.networks),
    )


def inner_address(network: Prefix | None, number: int) -> Interface | None:
    """Return one of the two addresses of a tunnel's inner network."""
    return Interface(network.family, network.network + number, network.length) if network else None


def _inner_networks(design: Design, request: Connect, wanted: int) -> tuple[Prefix, ...]:
    """Return an inner network for each tunnel out of the chosen prefix. Raise NotConnectable where it has no room."""
    prefix = request.inner_prefix
    if prefix is None:
        return ()
    length = _POINT_TO_POINT[prefix.family]
    space = AddressSet.of([prefix], prefix.family) - taken(design, prefix.family)
    found = free_blocks(space, length, wanted)
    if len(found) < wanted:
        room = f"{prefix} has room for {len(found)} inner networks of two addresses"
        raise NotConnectable("inner_prefix", f"{room}; {wanted} tunnels are to be made")
    return tuple(sorted(found))


def _add_intents(planner: _ConnectPlanner, request: Connect, pairs: Sequence[tuple[Site, Site]]) -> None:
    """Say that the sites that are joined reach each other, and all of them where the pattern carries that."""
    joined = {site.id for pair in pairs for site in pair}
    sites = [site_id for site_id in dict.fromkeys(request.site_ids) if site_id in joined]
    if not pairs:
        return
    all_reach_all = request.through_hub or len(pairs) == len(sites) * (len(sites) - 1) // 2
    if all_reach_all and len(sites) > 2:
        planner.add_intent("Sites reach each other", sites, sites)
    elif request.pattern is Pattern.HUB:
        for hub_id in dict.fromkeys(left.id for left, _ in pairs):
            hub = planner.design.site_by_id[hub_id]
            planner.add_intent(
                f"{hub.name[:50]} and its branches", [hub_id], [right.id for left, right in pairs if left.id == hub_id]
            )
    else:
        for left, right in pairs:
            planner.add_intent(f"{left.name[:30]} and {right.name[:30]}", [left.id], [right.id])


def _chunks(members: Sequence[Member]) -> Iterator[tuple[Member, ...]]:
    for start in range(0, len(members), _MOST_MEMBERS):
        yield tuple(members[start : start + _MOST_MEMBERS])
