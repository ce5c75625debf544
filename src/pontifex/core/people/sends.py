"""Where a device sends a packet: its profile's rules, its own network, the split; and what while the tunnel is down."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Final

from pontifex.core.addressing import Address, Family, Prefix, Service
from pontifex.core.addressing.special import is_private
from pontifex.core.choice import Choice
from pontifex.core.kinds import Ability, Platform, Profile, TrafficRule, TrafficWay
from pontifex.core.model import Design
from pontifex.core.people.abilities import lacking
from pontifex.core.people.place import DevicePlace
from pontifex.core.routing import ANY_SERVICE
from pontifex.core.routing.split.split import Split, route_list


class Sends(Choice):
    """Where a device sends a packet."""

    THROUGH = "through"  # into the tunnel
    BESIDE = "beside"  # out by the network that it is in
    LOCAL = "local"  # to its neighbours in that network
    HELD = "held"  # nowhere


class DeviceTunnelState(Choice):
    """How it stands with a device's tunnel."""

    UP = "up"
    INSIDE = "inside"  # not dialled: the device takes itself for inside
    DOWN = "down"  # it doesn't come up, or has dropped and isn't back


@dataclass(frozen=True, slots=True)
class OutgoingPacket:
    """What a device is to send. The name is what was asked for, where it was one."""

    destination: Address
    service: Service = ANY_SERVICE
    application: str = ""
    name: str = ""


@dataclass(frozen=True, slots=True)
class SendDecision:
    """Where it goes, why, and by which rule of the profile."""

    way: Sends
    why: str
    rule: int | None = None  # its place, from 0


_BY_RULE: Final = {TrafficWay.THROUGH: Sends.THROUGH, TrafficWay.BESIDE: Sends.BESIDE, TrafficWay.BLOCKED: Sends.HELD}


@dataclass(frozen=True)
class Sender:
    """A device with a profile, at a place. Rules that its platform can't do are not there."""

    design: Design
    profile: Profile
    place: DevicePlace
    platform: Platform
    leased: tuple[Prefix, ...] | None = None  # the routes of a lease that it goes by, in the place of the split's

    @cached_property
    def _cannot(self) -> frozenset[Ability]:
        return frozenset(lack.asked.ability for lack in lacking(self.profile, self.platform))

    @cached_property
    def split(self) -> Split:
        """The split as it is handed to the device."""
        pool = self.design.network_by_id.get(self.profile.pool_id or "")
        return Split.of(self.profile, pool.prefix if pool else None)

    @cached_property
    def _routes(self) -> dict[Family, tuple[Prefix, ...]]:
        listed = route_list(self.split, self.profile.most_routes)
        routes = (listed.prefixes if listed.fits else listed.summary) if self.leased is None else self.leased
        return {family: tuple(route for route in routes if route.family is family) for family in Family}

    def sent(self, packet: OutgoingPacket, state: DeviceTunnelState) -> SendDecision:
        """Say where a packet goes."""
        if state is DeviceTunnelState.INSIDE:
            return self._without_tunnel(packet)
        if state is DeviceTunnelState.DOWN:
            return self._while_down(packet)
        for place, rule in enumerate(self.profile.rules):
            if self._is_followed(rule) and _names(rule, packet):
                return SendDecision(_BY_RULE[rule.way], f"rule {place + 1} of the profile: {rule}", place)
        return self._by_routes(packet.destination)

    def _while_down(self, packet: OutgoingPacket) -> SendDecision:
        if self.profile.lock_down and Ability.LOCK_DOWN not in self._cannot:
            return SendDecision(Sends.HELD, "lock-down: nothing leaves the device until the tunnel is up")
        up = self.sent(packet, DeviceTunnelState.UP)
        if up.way is not Sends.THROUGH:
            return up
        without = self._without_tunnel(packet)
        if self.profile.lock_down:
            return SendDecision(without.way, f"{without.why}; this platform can't do the lock-down that the profile asks")
        return without

    def _is_followed(self, rule: TrafficRule) -> bool:
        needs = {
            Ability.RULES_BY_APPLICATION: rule.application,
            Ability.RULES_BY_DOMAIN: rule.domain,
            Ability.RULES_BY_ADDRESS: rule.prefix or rule.service,
        }
        return not any(said and ability in self._cannot for ability, said in needs.items())

    def _by_routes(self, destination: Address) -> SendDecision:
        """The narrower prefix decides between the tunnel's routes and the network that the device is in."""
        routes = [prefix for prefix in self._routes[destination.family] if prefix.holds(destination)]
        best = max(routes, key=lambda route: route.length, default=None)
        here = self.place.prefix
        if here.holds(destination) and (best is None or best.length <= here.length):
            return SendDecision(Sends.LOCAL, f"{destination} lies in {here}, the network that the device is in")
        names, takes = ("split", "the split takes") if self.leased is None else ("lease", "the routes of its lease take")
        if best:
            return SendDecision(Sends.THROUGH, f"the {names} names {best}" if best.length else f"{takes} everything")
        if destination.family not in self.split.families:
            return SendDecision(Sends.BESIDE, f"the pool has no {destination.family.label}, so the tunnel doesn't carry it")
        return SendDecision(Sends.BESIDE, f"the {names} doesn't name {destination}")

    def _without_tunnel(self, packet: OutgoingPacket) -> SendDecision:
        destination = packet.destination
        if self.place.prefix.holds(destination):
            return SendDecision(Sends.LOCAL, f"{destination} lies in {self.place.prefix}, the network that the device is in")
        if self.place.is_inside:
            return SendDecision(Sends.BESIDE, "the office's own network leads there")
        if is_nobodys_outside(destination):
            return SendDecision(Sends.BESIDE, "it goes out by the network that the device is in, where nobody has that address")
        return SendDecision(Sends.BESIDE, "it goes out in clear, by the network that the device is in")


def is_nobodys_outside(address: Address) -> bool:
    """Whether an address is one that nobody outside has."""
    return is_private(Prefix.of_address(address))


def _names(rule: TrafficRule, packet: OutgoingPacket) -> bool:
    if rule.application and rule.application.lower() != packet.application.lower():
        return False
    if rule.service and not rule.service.contains(packet.service):
        return False
    if rule.prefix and not rule.prefix.holds(packet.destination):
        return False
    return rule.domain is None or bool(packet.name and rule.names(packet.name))
