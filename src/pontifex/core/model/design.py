"""The design: everything that is known at one revision."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Annotated, Any, Final, Self

from pydantic import AfterValidator, Field, StringConstraints, model_validator
from pydantic_core import PydanticCustomError

from pontifex.core.addressing import Address, Prefix
from pontifex.core.addressing.prefix_map import PrefixMap
from pontifex.core.frozen_model import FrozenModel, one_of_alike
from pontifex.core.ipsec.policy import CURRENT_PRACTICE, DEFAULT_POLICIES, AlgorithmPolicy
from pontifex.core.kinds import (
    KINDS,
    Acceptance,
    CloudNetwork,
    CloudRule,
    DesignMember,
    Exit,
    Filter,
    Gateway,
    Host,
    Intent,
    Member,
    MemberType,
    Name,
    Network,
    ObjectId,
    ObjectType,
    Platform,
    PrefixList,
    PrefixReservation,
    Profile,
    Route,
    Rule,
    Side,
    Site,
    Standard,
    Template,
    Translation,
    Tunnel,
    TunnelEnd,
    Uplink,
    peer_address,
)
from pontifex.core.kinds.fields import ALL_BELOW
from pontifex.core.model.supernets import proposed_supernets

SETTINGS_ID: Final = "settings"
MOST_SUPERNETS: Final = 64


class DesignSettings(FrozenModel):
    """What holds for the design as a whole."""

    name: Name
    supernets: tuple[Prefix, ...] = Field(
        default=(),
        title="Supernets",
        description="Address space that the organisation may use inside.",
        max_length=MOST_SUPERNETS,
    )
    policies: Annotated[tuple[AlgorithmPolicy, ...], AfterValidator(one_of_alike)] = Field(
        default=DEFAULT_POLICIES, title="Algorithm policies", min_length=1, max_length=32
    )
    policy_id: ObjectId = Field(default=CURRENT_PRACTICE.id, title="Policy in force")
    planning_horizon_days: int = Field(
        default=60, title="Planning horizon, days", description="What ends within it is told in time.", ge=0, le=3650
    )

    @model_validator(mode="after")
    def _policies_are_known(self) -> Self:
        ids = [policy.id for policy in self.policies]
        if self.policy_id not in ids:
            known = {"id": self.policy_id, "ids": ", ".join(ids)}
            raise PydanticCustomError("policy", "there is no policy '{id}'; one of {ids} may be in force", known)
        if len(set(ids)) < len(ids):
            raise PydanticCustomError("policy", "two policies have one id")
        return self

    @cached_property
    def policy(self) -> AlgorithmPolicy:
        """The policy in force."""
        return next(policy for policy in self.policies if policy.id == self.policy_id)


DesignObject = DesignMember | DesignSettings


class DesignContent(DesignSettings):
    """A design without its place in a history: what a design file holds. Each list is in the order of ids."""

    key_salt: Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{32}$")] = Field(
        title="Key salt", description="Salt of the key fingerprints; keys are comparable within one design only."
    )
    sites: tuple[Site, ...] = Field(default=(), title="Sites", max_length=10_000)
    gateways: tuple[Gateway, ...] = Field(default=(), title="Gateways", max_length=10_000)
    uplinks: tuple[Uplink, ...] = Field(default=(), title="Uplinks", max_length=20_000)
    networks: tuple[Network, ...] = Field(default=(), title="Networks", max_length=200_000)
    standards: tuple[Standard, ...] = Field(default=(), title="Standards", max_length=1000)
    tunnels: tuple[Tunnel, ...] = Field(default=(), title="Tunnels", max_length=10_000)
    hosts: tuple[Host, ...] = Field(default=(), title="Hosts", max_length=200_000)
    prefix_reservations: tuple[PrefixReservation, ...] = Field(default=(), title="Reserved prefixes", max_length=20_000)
    translations: tuple[Translation, ...] = Field(default=(), title="Translations", max_length=20_000)
    routes: tuple[Route, ...] = Field(default=(), title="Routes", max_length=100_000)
    prefix_lists: tuple[PrefixList, ...] = Field(default=(), title="Prefix lists", max_length=1000)
    rules: tuple[Rule, ...] = Field(default=(), title="Rules", max_length=20_000)
    filters: tuple[Filter, ...] = Field(default=(), title="Filters", max_length=20_000)
    exits: tuple[Exit, ...] = Field(default=(), title="Exits", max_length=1000)
    cloud_networks: tuple[CloudNetwork, ...] = Field(default=(), title="Cloud networks", max_length=1000)
    cloud_rules: tuple[CloudRule, ...] = Field(default=(), title="Cloud rules", max_length=2000)
    intents: tuple[Intent, ...] = Field(default=(), title="Intents", max_length=10_000)
    platforms: tuple[Platform, ...] = Field(default=(), title="Platforms", max_length=200)
    profiles: tuple[Profile, ...] = Field(default=(), title="Profiles", max_length=1000)
    acceptances: tuple[Acceptance, ...] = Field(default=(), title="Acceptances", max_length=10_000)
    templates: tuple[Template, ...] = Field(default=(), title="Templates", max_length=200)

    @property
    def settings(self) -> DesignSettings:
        """What holds for the design as a whole."""
        return DesignSettings.from_valid({name: getattr(self, name) for name in DesignSettings.model_fields})


# the fields of which each of what is looked up is made; a test holds each against what is worked out anew
MADE_OF: Final = {
    "policy": ("policies", "policy_id"),
    "address_space": ("supernets", "networks"),
    "site_by_id": ("sites",),
    "gateway_by_id": ("gateways",),
    "uplink_by_id": ("uplinks",),
    "standard_by_id": ("standards",),
    "tunnel_by_id": ("tunnels",),
    "network_by_id": ("networks",),
    "host_by_id": ("hosts",),
    "prefix_list_by_id": ("prefix_lists",),
    "_hosts_by_network": ("hosts",),
    "_hosts_by_name": ("hosts",),
    "network_map": ("networks",),
    "_networks_by_site": ("networks",),
    "_gateways_by_site": ("gateways",),
    "_uplinks_by_site": ("uplinks", "gateways"),
    "_ends_by_site": ("tunnels", "gateways"),
    "_ends_by_gateway": ("tunnels",),
}


class Design(DesignContent):
    """A design at a revision. Analyses are functions of it."""

    id: ObjectId
    incarnation: str = Field(
        default="",
        title="Incarnation",
        description="Which of several histories under one id its revisions are of.",
        max_length=64,
    )
    revision: int = Field(title="Revision", ge=0)

    @cached_property
    def address_space(self) -> tuple[Prefix, ...]:
        """The supernets, or what is proposed as such while none are given."""
        return self.supernets or proposed_supernets(network.prefix for network in self.networks)

    @property
    def settings_with_space(self) -> DesignSettings | None:
        """The settings with the proposed supernets; None where supernets are given."""
        if self.supernets:
            return None
        fields = {name: getattr(self, name) for name in DesignSettings.model_fields}
        return DesignSettings.model_validate({**fields, "supernets": self.address_space})

    @cached_property
    def by_type(self) -> dict[ObjectType, dict[str, DesignObject]]:
        """All objects, by type and id."""
        return self.objects_by_type(None)

    def objects_by_type(self, before: Design | None) -> dict[ObjectType, dict[str, DesignObject]]:
        """Return all objects by type and id, of lists that another state has, too, as they are there."""
        found: dict[ObjectType, dict[str, DesignObject]] = {ObjectType.SETTINGS: {SETTINGS_ID: self.settings}}
        for kind in KINDS:
            items = getattr(self, kind.members)
            is_kept = before is not None and getattr(before, kind.members) is items
            found[kind.name] = before.by_type[kind.name] if before and is_kept else {item.id: item for item in items}
        return found

    @cached_property
    def site_by_id(self) -> Mapping[str, Site]:
        """Sites by id."""
        return {site.id: site for site in self.sites}

    @cached_property
    def gateway_by_id(self) -> Mapping[str, Gateway]:
        """Gateways by id."""
        return {gateway.id: gateway for gateway in self.gateways}

    @cached_property
    def uplink_by_id(self) -> Mapping[str, Uplink]:
        """Uplinks by id."""
        return {uplink.id: uplink for uplink in self.uplinks}

    @cached_property
    def standard_by_id(self) -> Mapping[str, Standard]:
        """Standards by id."""
        return {standard.id: standard for standard in self.standards}

    @cached_property
    def tunnel_by_id(self) -> Mapping[str, Tunnel]:
        """Tunnels by id."""
        return {tunnel.id: tunnel for tunnel in self.tunnels}

    @cached_property
    def network_by_id(self) -> Mapping[str, Network]:
        """Networks by id."""
        return {network.id: network for network in self.networks}

    @cached_property
    def _hosts_by_network(self) -> Mapping[str, tuple[Host, ...]]:
        found: dict[str, list[Host]] = {}
        for host in self.hosts:
            found.setdefault(host.network_id, []).append(host)
        return {network_id: tuple(hosts) for network_id, hosts in found.items()}

    def hosts_of_network(self, network_id: str) -> tuple[Host, ...]:
        """The hosts that stand in a network."""
        return self._hosts_by_network.get(network_id, ())

    @cached_property
    def _hosts_by_name(self) -> Mapping[str, tuple[Host, ...]]:
        found: dict[str, list[Host]] = {}
        for host in self.hosts:
            if host.dns_name:
                found.setdefault(host.dns_name.lower(), []).append(host)
        return {name: tuple(hosts) for name, hosts in found.items()}

    def hosts_named(self, name: str) -> tuple[Host, ...]:
        """The hosts of a DNS name, or of a domain and all below it, which is written with "*." in front."""
        asked = name.lower()
        if not asked.startswith(ALL_BELOW):
            return self._hosts_by_name.get(asked, ())
        domain = asked.removeprefix(ALL_BELOW)
        below = (hosts for known, hosts in self._hosts_by_name.items() if known == domain or known.endswith(f".{domain}"))
        return tuple(host for hosts in below for host in hosts)

    @cached_property
    def network_map(self) -> PrefixMap[Network]:
        """All networks, by address."""
        return PrefixMap.of((network.prefix, network) for network in self.networks)

    @cached_property
    def host_by_id(self) -> Mapping[str, Host]:
        """Hosts by id."""
        return {host.id: host for host in self.hosts}

    @cached_property
    def prefix_list_by_id(self) -> Mapping[str, PrefixList]:
        """Prefix lists by id."""
        return {prefix_list.id: prefix_list for prefix_list in self.prefix_lists}

    def member_networks(self, member: Member) -> tuple[Network, ...]:
        """The networks that a member stands for: of a site all, of a host the one that it stands in, of an exit or list none."""
        if member.type in (MemberType.GATEWAY, MemberType.PREFIX_LIST):
            return ()
        if member.type is MemberType.SITE:
            return self.networks_of_site(member.id)
        network_id = self.host_by_id[member.id].network_id if member.type is MemberType.HOST else member.id
        return (self.network_by_id[network_id],)

    def member_prefixes(self, member: Member) -> tuple[Prefix, ...]:
        """The addresses that a member stands for."""
        if member.type is MemberType.HOST:
            return (Prefix.of_address(self.host_by_id[member.id].address),)
        if member.type is MemberType.PREFIX_LIST:
            return self.prefix_list_by_id[member.id].prefixes
        return tuple(network.prefix for network in self.member_networks(member))

    @cached_property
    def _networks_by_site(self) -> Mapping[str, tuple[Network, ...]]:
        found: dict[str, list[Network]] = {}
        for network in self.networks:
            found.setdefault(network.site_id, []).append(network)
        return {site_id: tuple(networks) for site_id, networks in found.items()}

    def networks_of_site(self, site_id: str) -> tuple[Network, ...]:
        """The networks that stand at a site."""
        return self._networks_by_site.get(site_id, ())

    @cached_property
    def _gateways_by_site(self) -> Mapping[str, tuple[Gateway, ...]]:
        found: dict[str, list[Gateway]] = {}
        for gateway in self.gateways:
            found.setdefault(gateway.site_id, []).append(gateway)
        return {site_id: tuple(gateways) for site_id, gateways in found.items()}

    def gateways_of_site(self, site_id: str) -> tuple[Gateway, ...]:
        """The gateways that stand at a site."""
        return self._gateways_by_site.get(site_id, ())

    @cached_property
    def _uplinks_by_site(self) -> Mapping[str, tuple[Uplink, ...]]:
        found: dict[str, list[Uplink]] = {}
        for uplink in self.uplinks:
            found.setdefault(self.gateway_by_id[uplink.gateway_id].site_id, []).append(uplink)
        return {site_id: tuple(uplinks) for site_id, uplinks in found.items()}

    def uplinks_of_site(self, site_id: str) -> tuple[Uplink, ...]:
        """The uplinks of all gateways of a site."""
        return self._uplinks_by_site.get(site_id, ())

    @cached_property
    def _ends_by_site(self) -> Mapping[str, tuple[TunnelEnd, ...]]:
        found: dict[str, list[TunnelEnd]] = {}
        for tunnel in self.tunnels:
            for end in (tunnel.left, tunnel.right):
                found.setdefault(self.gateway_by_id[end.gateway_id].site_id, []).append(end)
        return {site_id: tuple(ends) for site_id, ends in found.items()}

    def ends_at_site(self, site_id: str) -> tuple[TunnelEnd, ...]:
        """The ends of tunnels that stand at a site."""
        return self._ends_by_site.get(site_id, ())

    @cached_property
    def _ends_by_gateway(self) -> Mapping[str, tuple[tuple[Tunnel, Side], ...]]:
        found: dict[str, list[tuple[Tunnel, Side]]] = {}
        for tunnel in self.tunnels:
            found.setdefault(tunnel.left.gateway_id, []).append((tunnel, Side.LEFT))
            found.setdefault(tunnel.right.gateway_id, []).append((tunnel, Side.RIGHT))
        return {gateway_id: tuple(ends) for gateway_id, ends in found.items()}

    def ends_of_gateway(self, gateway_id: str) -> tuple[tuple[Tunnel, Side], ...]:
        """The tunnels that a gateway ends, each with the side at which it stands."""
        return self._ends_by_gateway.get(gateway_id, ())

    def site_of(self, end: TunnelEnd) -> Site:
        """The site at which a tunnel's end stands."""
        return self.site_by_id[self.gateway_by_id[end.gateway_id].site_id]

    def uplink_of(self, end: TunnelEnd) -> Uplink | None:
        """The uplink of a tunnel's end, None when it isn't known yet."""
        uplink_id = end.uplink_id
        return self.uplink_by_id[uplink_id] if uplink_id else None

    def peer_outside(self, tunnel: Tunnel, side: Side) -> Address | None:
        """Return the outside address at which an end of a tunnel finds the other; None where it isn't known."""
        own, other = tunnel.facing(side)
        named = own.peer_address
        address = peer_address(named) if named else None
        if address is None and (peer := self.uplink_of(other)):
            address = peer.address
        return address

    def with_tunnel(self, tunnel: Tunnel) -> Design:
        """Return the design with a tunnel in the place of the one of its id."""
        old = self.tunnel_by_id[tunnel.id]
        return self.changed(tunnels=tuple(tunnel if held is old else held for held in self.tunnels))

    def with_valid(self, fields: Mapping[str, Any]) -> Self:
        """Return the design with fields replaced, by values that are valid already; what is looked up in others stays."""
        made = super().with_valid(fields)
        made.take_lookups(self)
        if "by_type" in vars(self):
            vars(made)["by_type"] = made.objects_by_type(self)
        return made

    def take_lookups(self, other: Design) -> None:
        """Take over what another state has looked up in lists that are the very same here."""
        own, theirs = vars(self), vars(other)
        for name, lists in MADE_OF.items():
            if name in theirs and name not in own and all(own[members] is theirs[members] for members in lists):
                own[name] = theirs[name]

    def content(self) -> DesignContent:
        """The design without id and revision, for a design file."""
        fields = {name: getattr(self, name) for name in DesignContent.model_fields}
        return DesignContent.from_valid(fields)
