"""The one change that connects sites: tunnels by a standard, inner addresses, routes, and what is wanted."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Annotated

from pydantic import Field

from pontifex.core.addressing import AddressSet, Family, Interface, Prefix, free_blocks
from pontifex.core.connecting.ends import end_of, reached
from pontifex.core.connecting.outcomes import joint_outcomes
from pontifex.core.connecting.request import Connect, NotConnectable, Pattern
from pontifex.core.connecting.sides import JoinedSide, joined_networks
from pontifex.core.ipsec.preshared_key import KeyFacts
from pontifex.core.kinds import (
    SIDES,
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
from pontifex.core.model.ids import fresh_id
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


@dataclass
class _Planner:
    """A design, and what is added to it."""

    design: Design
    request: Connect
    tunnels: list[Tunnel] = field(default_factory=list)
    routes: list[Route] = field(default_factory=list)
    intents: list[Intent] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.tunnel_ids = set(self.design.tunnel_by_id)
        self.tunnel_names = {tunnel.name for tunnel in self.design.tunnels}
        self.route_ids = set(self.design.by_type[ObjectType.ROUTE])
        self.intent_ids = set(self.design.by_type[ObjectType.INTENT])
        self.intent_names = {intent.name for intent in self.design.intents}

    def tunnel_name(self, left: Site, right: Site) -> str:
        """Take a name that no tunnel has yet."""
        stem = f"{left.name[:37]}–{right.name[:37]}"
        name = next(name for k in range(1, 100) if (name := stem if k == 1 else f"{stem} {k}") not in self.tunnel_names)
        self.tunnel_names.add(name)
        return name

    def add_tunnel(self, name: str, sides: Sequence[JoinedSide], inner: Prefix | None, key: KeyFacts | None) -> None:
        """Add a tunnel whose ends are set by the standard, with its routes where routes decide."""
        id_ = fresh_id(name, self.tunnel_ids)
        self.tunnel_ids.add(id_)
        left, right = sides
        ends = {
            side.value: end_of(self.design, self.request, own, far, inner_address(inner, number), key)
            for number, (side, own, far) in enumerate(zip(SIDES, (left, right), (right, left), strict=True))
        }
        standard_id = self.request.standard.id
        self.tunnels.append(Tunnel(id=id_, name=name, standard_id=standard_id, left=ends["left"], right=ends["right"]))
        if self.request.standard.mode is Mode.ROUTE:
            self._add_routes(id_, left, right)
            self._add_routes(id_, right, left)

    def _add_routes(self, tunnel_id: str, own: JoinedSide, far: JoinedSide) -> None:
        for prefix in reached(self.design, self.request, own, far):
            self.routes.append(new_route(self.design, self.route_ids, own.gateway.id, prefix, tunnel_id, None))

    def add_intent(self, name: str, sources: Sequence[str], destinations: Sequence[str]) -> None:
        """Say that sites are to reach each other, in as many intents as their members take."""
        for from_members in _chunks(list(self._members(sources))):
            for to_members in _chunks(list(self._members(destinations))):
                self.intents.append(self._intent(name, from_members, to_members))

    def _intent(self, stem: str, sources: tuple[Member, ...], destinations: tuple[Member, ...]) -> Intent:
        name = next(name for k in range(1, 10_000) if (name := stem if k == 1 else f"{stem} {k}") not in self.intent_names)
        id_ = fresh_id(name, self.intent_ids)
        self.intent_names.add(name)
        self.intent_ids.add(id_)
        return Intent(id=id_, name=name, sources=sources, destinations=destinations, both_ways=sources != destinations)

    def _members(self, site_ids: Sequence[str]) -> Iterator[Member]:
        """Yield sites, or their networks where not all of a site's are to be reached."""
        for site_id in site_ids:
            reached = joined_networks(self.design, site_id)
            if len(reached) == len(self.design.networks_of_site(site_id)):
                yield Member(type=MemberType.SITE, id=site_id)
            else:
                yield from (Member(type=MemberType.NETWORK, id=network.id) for network in reached)

    def operations(self) -> tuple[Operation, ...]:
        """Return the change."""
        known = self.design.standard_by_id.get(self.request.standard.id)
        standard = () if known else (self.request.standard,)
        return tuple(put(item) for item in (*standard, *self.tunnels, *self.routes, *self.intents))


def plan_connections(
    design: Design, request: Connect, keys: Sequence[KeyFacts] | None = None
) -> tuple[ConnectPlan, tuple[Operation, ...]]:
    """Return what connecting sites comes down to, with the one change that does it.

    `keys` are as many as the plan asks for; without them, a plan is made to be looked at, and its ends have none.
    Raise NotConnectable where nothing can be made of the request.
    """
    planner = _Planner(design, request)
    outcomes = joint_outcomes(design, request)
    wanted = sum(not isinstance(outcome, Reason) for _, outcome in outcomes)
    inner = iter(_inner_networks(design, request, wanted))
    key = iter(keys or ())
    joined = []
    for (left, right), outcome in outcomes:
        if isinstance(outcome, Reason):
            joined.append(Joined(name="", left=left.name, right=right.name, refused=Sentence(outcome)))
            continue
        name, network = planner.tunnel_name(left, right), next(inner, None)
        planner.add_tunnel(name, outcome, network, next(key, None))
        joined.append(_joined(name, outcome, network))
    if request.intents:
        _add_intents(planner, request, [pair for pair, outcome in outcomes if not isinstance(outcome, Reason)])
    by_key = request.standard.auth is AuthMethod.PRE_SHARED_KEY
    plan = ConnectPlan(
        joined=tuple(joined),
        made=wanted,
        keys=wanted if by_key else 0,
        routes=len(planner.routes),
        intents=len(planner.intents),
    )
    return plan, planner.operations() if wanted else ()


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


def _add_intents(planner: _Planner, request: Connect, pairs: Sequence[tuple[Site, Site]]) -> None:
    """Say that the sites that are joined reach each other, and all of them where the pattern carries that."""
    sites = [site_id for site_id in request.site_ids if any(site_id in (left.id, right.id) for left, right in pairs)]
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
