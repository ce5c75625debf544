"""All that a profile's devices may send, at every place and from every family: who goes through, beside, or nowhere."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address, Service, parse_address
from pontifex.core.kinds import PlatformFamily, Profile
from pontifex.core.people.abilities import families_of, usual_platform
from pontifex.core.people.device_trace import tunnel_state
from pontifex.core.people.dialled import dial_outcome, dialled_in
from pontifex.core.people.inside import inside_answers
from pontifex.core.people.place import PlaceKind, places
from pontifex.core.people.sends import DeviceTunnelState, OutgoingPacket, Sender, Sends
from pontifex.core.routing import Tables
from pontifex.core.routing.split.split import led_to

INTERNET: Final = Address(*parse_address("203.0.113.200"))  # anybody outside


@dataclass(frozen=True, slots=True, kw_only=True)
class FlowDestination:
    """Something that devices may want to reach."""

    name: Annotated[str, Field(title="What it is", examples=["Harbour House: servers 10.64.8.0/23"])]
    address: Annotated[str, Field(title="An address of it")]
    is_inside: Annotated[bool, Field(title="It is a network of the design")]


@dataclass(frozen=True, slots=True, kw_only=True)
class FlowColumn:
    """Devices of one family at one place."""

    place: PlaceKind
    title: str
    family: PlatformFamily
    is_dialled: bool
    dials: Annotated[str, Field(title="Why it isn't dialled", description="Empty where it is.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class FlowCell:
    """Where devices send what is for a destination, while the tunnel is up and once it has dropped."""

    way: Sends
    why: str
    dropped_way: Sends


@dataclass(frozen=True, slots=True, kw_only=True)
class FlowTable:
    """Every destination by every place and family."""

    destinations: tuple[FlowDestination, ...]
    columns: tuple[FlowColumn, ...]
    rows: Annotated[tuple[tuple[FlowCell, ...], ...], Field(title="A row for each destination, a cell for each column")]


def all_flows(tables: Tables, profile: Profile, today: date) -> FlowTable:
    """Return where devices of a profile send what is for each network, each rule's destination, and the Internet."""
    destinations = tuple(_destinations(tables, profile))
    columns: list[FlowColumn] = []
    cells: list[list[FlowCell]] = [[] for _ in destinations]
    for place in places(tables.design, profile):
        answers = inside_answers(tables.design, profile, place)
        call = dial_outcome(dialled_in(tables.design, profile, place), today)
        state = tunnel_state(answers, call)
        why = (
            "" if state is DeviceTunnelState.UP else next((answer.why for answer in answers if answer.says_inside), call.sentence)
        )
        for family in families_of(profile):
            sender = Sender(tables.design, profile, place, usual_platform(family))
            title = f"{place.title}, {family.value}"
            columns.append(
                FlowColumn(place=place.kind, title=title, family=family, is_dialled=state is DeviceTunnelState.UP, dials=why)
            )
            for row, (_, packet) in zip(cells, destinations, strict=True):
                row.append(_cell(sender, packet, state))
    return FlowTable(
        destinations=tuple(destination for destination, _ in destinations), columns=tuple(columns), rows=tuple(map(tuple, cells))
    )


def _cell(sender: Sender, packet: OutgoingPacket, state: DeviceTunnelState) -> FlowCell:
    sent = sender.sent(packet, state)
    dropped = sender.sent(packet, DeviceTunnelState.DOWN) if state is DeviceTunnelState.UP else sent
    return FlowCell(way=sent.way, why=sent.why, dropped_way=dropped.way)


def _destinations(tables: Tables, profile: Profile) -> Iterator[tuple[FlowDestination, OutgoingPacket]]:
    """Yield the networks that the gateway leads to, what the rules name beside them, and the Internet."""
    design = tables.design
    for network in led_to(tables, design.gateway_by_id[profile.gateway_id]):
        name = f"{design.site_by_id[network.site_id].name}: {network.name} {network.prefix}"
        yield _destination(name, network.prefix.first_host, inside=True)
    for rule in profile.rules:
        if rule.prefix or rule.application or rule.domain:
            host = next(
                (
                    candidate
                    for candidate in design.hosts
                    if candidate.dns_name and rule.domain and rule.names(candidate.dns_name)
                ),
                None,
            )
            address = rule.prefix.first_host if rule.prefix else host.address if host else INTERNET
            named = host.dns_name if host and host.dns_name else rule.domain or ""
            packet = OutgoingPacket(address, rule.service or Service(), rule.application or "", named)
            yield FlowDestination(name=f"rule: {rule}", address=str(address), is_inside=host is not None), packet
    yield _destination("the Internet", INTERNET, inside=False)


def _destination(name: str, address: Address, *, inside: bool) -> tuple[FlowDestination, OutgoingPacket]:
    return FlowDestination(name=name, address=str(address), is_inside=inside), OutgoingPacket(address)
