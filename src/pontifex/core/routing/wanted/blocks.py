"""What is wanted: in blocks of sources and destinations at two sites, and pair by pair."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from pontifex.core.addressing import Address, Family, Prefix, Service
from pontifex.core.kinds import Host, Intent, MemberType, Network
from pontifex.core.kinds.dscp import parse_dscp
from pontifex.core.kinds.intent import IntentSide
from pontifex.core.model import Design
from pontifex.core.routing.trace.flow import ANY_SERVICE, Flow, answer_service


@dataclass(frozen=True, slots=True)
class WantedFlow:
    """One thing that an intent asks for: some addresses of a network are to reach some of another."""

    intent: Intent
    source: Network
    begin: Prefix  # within the source
    destination: Network
    end: Prefix  # within the destination
    service: Service
    dscp: int

    @property
    def flow(self) -> Flow:
        """The first of its flows."""
        begin, end = (Address(prefix.family, prefix.network) for prefix in (self.begin, self.end))
        return Flow(begin, end, self.service, self.dscp)

    @property
    def block(self) -> WantedBlock:
        """It as a block of its own."""
        sources, destinations = (WantedPart(self.source, self.begin),), (WantedPart(self.destination, self.end),)
        return WantedBlock(self.intent, sources, destinations, self.service, self.dscp)


@dataclass(frozen=True, slots=True)
class WantedPart:
    """Addresses of a network that something is wanted of."""

    network: Network
    prefix: Prefix

    @property
    def whole(self) -> bool:
        """Whether these are all addresses of the network."""
        return self.prefix == self.network.prefix


@dataclass(frozen=True, slots=True)
class WantedBlock:
    """What an intent asks for from one site to another in one family: each source is to reach each destination."""

    intent: Intent
    sources: tuple[WantedPart, ...]  # one at least, all of one site
    destinations: tuple[WantedPart, ...]  # one at least, all of one site
    service: Service
    dscp: int

    @property
    def sites(self) -> tuple[str, str]:
        """Ids of the site where it begins, and of that where it ends."""
        return self.sources[0].network.site_id, self.destinations[0].network.site_id

    @property
    def asked(self) -> NDArray[np.bool_]:
        """Which source, by row, is to reach which destination, by column: each but its own network."""
        source_site, target_site = self.sites
        if source_site != target_site:
            return np.ones((len(self.sources), len(self.destinations)), dtype=np.bool_)
        return np.array([[source.network.id != other.network.id for other in self.destinations] for source in self.sources])

    @property
    def answer(self) -> WantedBlock:
        """What answers to it, whose port is anybody's guess."""
        return replace(self, sources=self.destinations, destinations=self.sources, service=answer_service(self.service))

    def at(self, row: int, column: int) -> WantedFlow:
        """Return what is wanted of a source and a destination by their places."""
        source, destination = self.sources[row], self.destinations[column]
        return WantedFlow(
            self.intent, source.network, source.prefix, destination.network, destination.prefix, self.service, self.dscp
        )

    def flows(self) -> Iterator[WantedFlow]:
        """Yield what it asks for, pair by pair."""
        for row, column in np.argwhere(self.asked).tolist():
            yield self.at(row, column)

    def as_in(self, design: Design) -> WantedBlock:
        """Return it with its networks as another state of the design has them."""
        sources, destinations = (
            tuple(WantedPart(design.network_by_id[part.network.id], part.prefix) for part in parts)
            for parts in (self.sources, self.destinations)
        )
        return replace(self, sources=sources, destinations=destinations)


def wants(design: Design) -> Iterator[WantedFlow]:
    """Yield all that the intents of a design ask for; networks of one site and family, and of the common zone, aside."""
    for block in wanted_blocks(design):
        yield from block.flows()


def wanted_blocks(design: Design) -> Iterator[WantedBlock]:
    """Yield all that the intents of a design ask for, by sites, families and services."""
    for intent in design.intents:
        dscp = parse_dscp(intent.dscp or "DF")
        there = _by_site(design, intent.source_side), _by_site(design, intent.destination_side)
        for sources_of, targets_of in (there, there[::-1]) if intent.both_ways else (there,):
            for (_, family), begins in sources_of.items():
                for ends in (some for (_, other), some in targets_of.items() if other is family):
                    for service in intent.services or (ANY_SERVICE,):
                        yield WantedBlock(intent, tuple(begins), tuple(ends), service, dscp)


def _by_site(design: Design, side: IntentSide) -> dict[tuple[str, Family], list[WantedPart]]:
    """Return what one side of an intent stands for, by site and family; networks of isolated zones aside."""
    found: dict[tuple[str, Family], list[WantedPart]] = defaultdict(list)
    for part in dict.fromkeys(parts_of(design, side)):
        if part.whole and part.network.zone:
            continue
        found[part.network.site_id, part.prefix.family].append(part)
    return found


def parts_of(design: Design, side: IntentSide) -> Iterator[WantedPart]:
    """Yield what one side of an intent stands for in the design."""
    for member in side.members:
        if member.type is MemberType.HOST:
            yield _part_of_host(design, design.host_by_id[member.id])
        else:
            yield from (WantedPart(network, network.prefix) for network in design.member_networks(member))
    for prefix in side.prefixes:
        yield from parts_within(design, prefix)
    for name in side.names:
        yield from (_part_of_host(design, host) for host in design.hosts_named(name))


def _part_of_host(design: Design, host: Host) -> WantedPart:
    return WantedPart(design.network_by_id[host.network_id], Prefix.of_address(host.address))


def parts_within(design: Design, prefix: Prefix) -> Iterator[WantedPart]:
    """Yield the networks that lie within a prefix, and for each site what the prefix is of the narrowest one around it.

    A prefix is of the common address space: networks of isolated zones have their addresses for themselves.
    """
    yield from (WantedPart(candidate, candidate.prefix) for candidate in design.network_map.within(prefix) if not candidate.zone)
    told: set[str] = set()
    for network in design.network_map.holding(Address(prefix.family, prefix.network)):  # the narrowest first
        if network.site_id not in told and not network.zone and network.prefix.contains(prefix):
            told.add(network.site_id)
            if network.prefix != prefix:
                yield WantedPart(network, prefix)
