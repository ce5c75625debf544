"""A person's device, followed: is the tunnel dialled, who resolves the name, where does it go, and what when it drops."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address, AddressError, Prefix, Service, parse_address
from pontifex.core.addressing.dhcp_routes import DhcpRoute
from pontifex.core.kinds import DialWhen, Host, Network, Platform, Profile
from pontifex.core.model import Design
from pontifex.core.people.abilities import lacking
from pontifex.core.people.dialled import DialOutcome, dial_outcome, dialled_in
from pontifex.core.people.inside import InsideAnswer, inside_answers
from pontifex.core.people.place import DevicePlace
from pontifex.core.people.sends import DeviceTunnelState, OutgoingPacket, SendDecision, Sender, Sends, is_nobodys_outside
from pontifex.core.routing import ANY_SERVICE, Conditions, End, Flow, Tables, Trace, trace


@dataclass(frozen=True, slots=True, kw_only=True)
class ResolverAnswer:
    """Which resolver a device asks for a name, and how the question gets there."""

    name: str
    resolver: str
    way: Sends
    why: str
    address: Annotated[str, Field(title="What it answers", description="Empty where it doesn't know the name.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class LeasedTrace:
    """What becomes of the packet while the device goes by the routes of a lease that isn't renewed yet."""

    routes: Annotated[tuple[DhcpRoute, ...], Field(title="Routes of the lease")]
    way: Sends
    why: str
    arrives: bool
    verdict: str
    differs: Annotated[bool, Field(title="It fares otherwise once the lease is renewed")]


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceTrace:
    """What becomes of one packet of a device at a place."""

    place: Annotated[str, Field(title="Where the device is", examples=["at home"])]
    prefix: Annotated[Prefix, Field(title="Network that it is in")]
    inside: Annotated[tuple[InsideAnswer, ...], Field(title="What each test says")]
    is_dialled: Annotated[bool, Field(title="The tunnel is dialled, and comes up")]
    dials: Annotated[str, Field(title="Why it is dialled, or isn't")]
    call: Annotated[DialOutcome, Field(title="How far a call gets from there")]
    resolver: Annotated[ResolverAnswer | None, Field(title="Who is asked for the name", description="Null for an address.")]
    destination: Annotated[str, Field(title="Address that it goes to", description="Empty where the name isn't resolved.")]
    way: Sends
    why: Annotated[str, Field(title="Why it goes that way")]
    arrives: Annotated[bool, Field(title="It arrives, and the answer comes back")]
    verdict: Annotated[str, Field(title="Verdict")]
    beyond: Annotated[Trace | None, Field(title="From the gateway on")]
    dropped_way: Annotated[Sends, Field(title="Where it goes once the tunnel has dropped")]
    dropped: Annotated[str, Field(title="What happens then")]
    leased: Annotated[
        LeasedTrace | None,
        Field(title="Before its lease is renewed", description="Null where its routes don't come by DHCP, or it has no tunnel."),
    ]
    cannot: Annotated[tuple[str, ...], Field(title="What the profile asks and the platform can't do")]


@dataclass(frozen=True, slots=True)
class Destination:
    """What a device is to reach. The name is empty where an address was asked for."""

    address: Address
    name: str = ""
    network: Network | None = None
    service: Service = ANY_SERVICE
    application: str = ""


def read_destination(design: Design, text: str, service: Service, application: str) -> Destination:
    """Read the name of a host of the design, or an address. Raise AddressError where it is neither."""
    wanted = text.strip()
    host = _host(design, wanted)
    if host:
        network = design.network_by_id[host.network_id]
        return Destination(host.address, host.dns_name or "", network, service, application)
    try:
        return Destination(Address(*parse_address(wanted)), service=service, application=application)
    except AddressError:
        raise AddressError(wanted, "to", f"no host of the design is called '{wanted}', and it is no address") from None


def _host(design: Design, name: str) -> Host | None:
    folded = name.lower()
    return next((host for host in design.hosts if folded in (host.id, host.name.lower(), (host.dns_name or "").lower())), None)


_WHEN: Final = {
    DialWhen.BY_HAND: "dialled once its person does it",
    DialWhen.ON_DEMAND: "dialled as soon as something wants to go through",
    DialWhen.APPLICATIONS: "dialled when one of its applications starts",
    DialWhen.ALWAYS: "dialled at once",
}


def device_trace(
    tables: Tables,
    profile: Profile,
    place: DevicePlace,
    platform: Platform,
    destination: Destination,
    today: date,
    lease: Network | None,
) -> DeviceTrace:
    """Follow a packet of a device: from its tests and its call to the way back, and once more with the tunnel gone.

    It goes by the split, as its lease will say once it is renewed. `lease` is the pool as it was when the device was given
    the lease that it holds; None where there was none.
    """
    design = tables.design
    answers = inside_answers(design, profile, place)
    believed = next((answer for answer in answers if answer.says_inside), None)
    call = dial_outcome(dialled_in(design, profile, place), today)
    state = tunnel_state(answers, call)
    sender = Sender(design, profile, place, platform)
    packet = OutgoingPacket(destination.address, destination.service, destination.application, destination.name)
    found = _followed(tables, sender, destination, packet, state)
    dialled = state is DeviceTunnelState.UP
    down = sender.sent(packet, DeviceTunnelState.DOWN if dialled else state)
    return DeviceTrace(
        place=place.title,
        prefix=place.prefix,
        inside=answers,
        is_dialled=dialled,
        dials=_dials(profile, believed, call),
        call=call,
        resolver=found.resolver,
        destination=str(destination.address) if found.resolver is None or found.resolver.address else "",
        way=found.sent.way,
        why=found.sent.why,
        arrives=found.arrives,
        verdict=found.verdict,
        beyond=found.beyond,
        dropped_way=down.way,
        dropped=down.why if dialled else "there is no tunnel that could drop",
        leased=_leased(tables, sender, destination, packet, lease, found) if dialled and lease and lease.dhcp_routes else None,
        cannot=tuple(map(str, lacking(profile, platform))),
    )


@dataclass(frozen=True, slots=True)
class _Followed:
    """What becomes of a packet that a sender sends."""

    resolver: ResolverAnswer | None
    sent: SendDecision
    beyond: Trace | None
    arrives: bool
    verdict: str


def _followed(
    tables: Tables, sender: Sender, destination: Destination, packet: OutgoingPacket, state: DeviceTunnelState
) -> _Followed:
    """Follow a packet: who resolves its name, where it is sent, and what becomes of it beyond the gateway."""
    resolver = _resolver(sender, destination, state) if destination.name else None
    sent = sender.sent(packet, state)
    beyond = _beyond(tables, sender, destination, sent.way)
    arrives = _arrives(beyond) and (resolver is None or bool(resolver.address))
    return _Followed(resolver, sent, beyond, arrives, _verdict(sent.way, beyond, resolver, destination))


def _leased(
    tables: Tables, sender: Sender, destination: Destination, packet: OutgoingPacket, lease: Network, renewed: _Followed
) -> LeasedTrace:
    """Follow the packet by the routes that DHCP handed out to the device (RFC 3442); its resolver is asked by them as well."""
    holder = replace(sender, leased=tuple(route.prefix for route in lease.dhcp_routes))
    found = _followed(tables, holder, destination, packet, DeviceTunnelState.UP)
    return LeasedTrace(
        routes=lease.dhcp_routes,
        way=found.sent.way,
        why=found.sent.why,
        arrives=found.arrives,
        verdict=found.verdict,
        differs=(found.sent.way, found.arrives) != (renewed.sent.way, renewed.arrives),
    )


def tunnel_state(answers: Iterable[InsideAnswer], call: DialOutcome) -> DeviceTunnelState:
    """Return how it stands with the tunnel of a device that is on."""
    if any(answer.says_inside for answer in answers):
        return DeviceTunnelState.INSIDE
    return DeviceTunnelState.UP if call.comes_up else DeviceTunnelState.DOWN


def _dials(profile: Profile, believed: InsideAnswer | None, call: DialOutcome) -> str:
    if believed:
        return f"not dialled: it takes itself for inside, since {believed.why} ({believed.test})"
    if not call.comes_up:
        return f"{_WHEN[profile.dial]}, and doesn't come up. {call.sentence}"
    return _WHEN[profile.dial]


def _resolver(sender: Sender, destination: Destination, state: DeviceTunnelState) -> ResolverAnswer:
    """Say whom the device asks for a name: the longest suffix decides (RFC 8598 section 3.1), else whoever it asks there."""
    asked = _asked(sender.profile, destination.name) if state is DeviceTunnelState.UP else None
    resolver = asked or sender.place.resolver
    sent = sender.sent(OutgoingPacket(resolver, Service((17, 17), (53, 53))), state)
    known = asked is not None and sent.way is not Sends.HELD and sent.way is not Sends.LOCAL
    knows = (known and sent.way is Sends.THROUGH) or (asked is None and sender.place.is_inside)
    why = f"{sent.why}; it knows the inside names" if knows else f"{sent.why}; nobody there knows inside names"
    return ResolverAnswer(
        name=destination.name, resolver=str(resolver), way=sent.way, why=why, address=str(destination.address) if knows else ""
    )


def _asked(profile: Profile, name: str) -> Address | None:
    suffixes = {resolver.suffix: resolver.resolver for resolver in profile.own_resolvers}
    if profile.resolvers:
        suffixes |= {suffix: profile.resolvers[0] for suffix in profile.suffixes if suffix not in suffixes}
    below = [suffix for suffix in suffixes if name.lower() == suffix.lower() or name.lower().endswith(f".{suffix.lower()}")]
    if below:
        return suffixes[max(below, key=len)]
    return profile.resolvers[0] if profile.resolvers and not profile.suffixes else None


def _beyond(tables: Tables, sender: Sender, destination: Destination, way: Sends) -> Trace | None:
    """Follow it on: from the pool where it goes through, from the office's network where the device is inside."""
    design = tables.design
    home = None
    if way is Sends.THROUGH:
        home = design.network_by_id.get(sender.profile.pool_id or "")
    elif way is Sends.BESIDE and sender.place.is_inside:
        home = sender.place.network
    if home is None or home.prefix.family is not destination.address.family:
        return None
    source = replace(sender.place, prefix=home.prefix).address
    return trace(tables, Flow(source, destination.address, destination.service), Conditions(), home, destination.network)


def _arrives(beyond: Trace | None) -> bool:
    return beyond is not None and beyond.back is not None and beyond.back.end is End.ARRIVES


def _verdict(way: Sends, beyond: Trace | None, resolver: ResolverAnswer | None, destination: Destination) -> str:
    if resolver and not resolver.address:
        return f"{destination.name} isn't resolved: {resolver.resolver} doesn't know it"
    if way is Sends.HELD:
        return "Held on the device"
    if beyond:
        return f"Through the tunnel. {beyond.verdict}" if way is Sends.THROUGH else str(beyond.verdict)
    if way is Sends.THROUGH:
        return "Through the tunnel to the gateway; the pool isn't known, and so not what comes back"
    if way is Sends.LOCAL:
        return "It stays in the network that the device is in, and finds whoever has the address there"
    if is_nobodys_outside(destination.address):
        return "Lost: out by the network that the device is in, where nobody has that address"
    return "Out in clear, beside the tunnel"
