"""What findings say of people who dial in: their pool, what their split forgets or leaks, and their own router at home."""

from __future__ import annotations

from pontifex.core.addressing import Address, Family, Prefix
from pontifex.core.kinds import Network, Profile
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


class NamesWithoutResolver(Reason, text="{profile} names {suffixes}, and no resolver of its own"):
    profile: Named[Profile]
    suffixes: tuple[str, ...]


class ResolverBeside(Reason, text="{profile} asks {resolvers}, and sends that beside the tunnel"):
    profile: Named[Profile]
    resolvers: tuple[Address, ...]
