"""What findings say of people who dial in: their pool, what their split forgets or leaks, and their own router at home."""

from __future__ import annotations

from pontifex.core.addressing import Address, Family, Prefix
from pontifex.core.kinds import Gateway, Network, Profile
from pontifex.core.reasons.addresses import NetworkOf
from pontifex.core.reasons.reason import More, Named, Reason


class PoolOfPeople(Reason, text="people get their addresses from it"):
    pass


class ProfileLeadsThere(Reason, text="{profile} leads there"):
    profile: Named[Profile]


class UsualAtHome(Reason, text="{network} is {prefix}, {why}, and {home} is usual at home: {reasoning}"):
    network: NetworkOf
    prefix: Prefix
    why: PoolOfPeople | ProfileLeadsThere
    home: Prefix
    reasoning: str


class RangesHandOut(Reason, text="the DHCP ranges of the pool {pool} hand out"):
    pool: Prefix


class PoolHas(Reason, text="the pool {pool} has"):
    pool: Prefix


class PoolTooSmall(Reason, text="{profile} is for {people} people, and {has} {room} {room:address|addresses}"):
    profile: Named[Profile]
    people: int
    has: RangesHandOut | PoolHas
    room: int


class NetworkWithPrefix(Reason, text="{network} {prefix}"):
    network: NetworkOf
    prefix: Prefix


class Forgets(Reason, text="{profile} sends {networks}{more} beside the tunnel, though the gateway leads there"):
    profile: Named[Profile]
    networks: tuple[NetworkWithPrefix, ...]  # the first ones
    more: More | None


class LeaksFamily(Reason, text="{profile} is to take everything, and its pool {pool} has no {family}"):
    profile: Named[Profile]
    pool: Prefix | None
    family: Family


class DefaultInside(
    Reason, text="{profile} is to take only these networks, and {pool} hands out a default route by DHCP beside them"
):
    profile: Named[Profile]
    pool: Named[Network]


class PlatformCannot(Reason, text="{profile} asks {ability}, which {platforms} can't do"):
    profile: Named[Profile]
    ability: str
    platforms: tuple[str, ...]


class PlatformOnlyWith(Reason, text="{profile} asks {ability}, which {platforms} can do only with {needed}"):
    profile: Named[Profile]
    ability: str
    platforms: tuple[str, ...]
    needed: str


class SeemsInside(Reason, text="{profile} knows the inside by {test}, and {home} is usual at home: {reasoning}"):
    profile: Named[Profile]
    test: str
    home: Prefix
    reasoning: str


class SeemsOutside(Reason, text="none of the tests of {profile} holds in {network}"):
    profile: Named[Profile]
    network: NetworkOf


class ProbeThrough(Reason, text="{profile} knows the inside by {test}, and {address} answers through its tunnel, too"):
    profile: Named[Profile]
    test: str
    address: Address


class ServerElsewhere(Reason, text="{profile} dials {server}, which is none of {gateway}'s uplinks"):
    profile: Named[Profile]
    server: str
    gateway: Named[Gateway]


class NoWayBack(Reason, text="{profile} leads to {network}, and no answer comes back to {pool}: {why}"):
    profile: Named[Profile]
    network: NetworkOf
    pool: Prefix
    why: str


class OpenWhenDown(Reason, text="{profile} sends {what} through the tunnel, and isn't locked down while that is down"):
    profile: Named[Profile]
    what: str


class NamesWithoutResolver(Reason, text="{profile} names {suffixes}, and no resolver of its own"):
    profile: Named[Profile]
    suffixes: tuple[str, ...]


class ResolverBeside(Reason, text="{profile} asks {resolvers}, and sends that beside the tunnel"):
    profile: Named[Profile]
    resolvers: tuple[Address, ...]
