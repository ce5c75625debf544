"""What is wanted: in blocks of sources and destinations at two sites, and pair by pair."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from pontifex.core.addressing import Address, Family, Prefix, Service
from pontifex.core.kinds import Intent, Member, MemberType, Network
from pontifex.core.kinds.dscp import parse_dscp
from pontifex.core.model import Design
from pontifex.core.routing.trace.flow import ANY_SERVICE, Flow, answer_service


@dataclass(frozen=True, slots=True)
class WantedFlow:
    """One thing that an intent asks for: some addresses of a network are to reach some of another."""

    intent: Intent
    source: Network
    begin: Prefix  # within the source
    target: Network
    end: Prefix  # within the target
    service: Service
    dscp: int

    @property
    def flow(self) -> Flow:
        """The first of its flows."""
        begin, end = (Address(one.family, one.network) for one in (self.begin, self.end))
        return Flow(begin, end, self.service, self.dscp)

    @property
    def block(self) -> WantedBlock:
        """It as a block of its own."""
        sources, targets = (WantedPart(self.source, self.begin),), (WantedPart(self.target, self.end),)
        return WantedBlock(self.intent, sources, targets, self.service, self.dscp)


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
    targets: tuple[WantedPart, ...]  # one at least, all of one site
    service: Service
    dscp: int

    @property
    def sites(self) -> tuple[str, str]:
        """Ids of the site where it begins, and of that where it ends."""
        return self.sources[0].network.site_id, self.targets[0].network.site_id

    @property
    def asked(self) -> NDArray[np.bool_]:
        """Which source, by row, is to reach which destination, by column: each but its own network."""
        source_site, target_site = self.sites
        if source_site != target_site:
            return np.ones((len(self.sources), len(self.targets)), dtype=np.bool_)
        return np.array([[one.network.id != other.network.id for other in self.targets] for one in self.sources])

    @property
    def answer(self) -> WantedBlock:
        """What answers to it, whose port is anybody's guess."""
        return replace(self, sources=self.targets, targets=self.sources, service=answer_service(self.service))

    def at(self, row: int, column: int) -> WantedFlow:
        """Return what is wanted of a source and a destination by their places."""
        source, target = self.sources[row], self.targets[column]
        return WantedFlow(self.intent, source.network, source.prefix, target.network, target.prefix, self.service, self.dscp)

    def flows(self) -> Iterator[WantedFlow]:
        """Yield what it asks for, pair by pair."""
        for row, column in np.argwhere(self.asked).tolist():
            yield self.at(row, column)

    def as_in(self, design: Design) -> WantedBlock:
        """Return it with its networks as another state of the design has them."""
        sources, targets = (
            tuple(WantedPart(design.network_by_id[one.network.id], one.prefix) for one in parts)
            for parts in (self.sources, self.targets)
        )
        return replace(self, sources=sources, targets=targets)


def wants(design: Design) -> Iterator[WantedFlow]:
    """Yield all that the intents of a design ask for; networks of one site and family, and of the common zone, aside."""
    for block in wanted_blocks(design):
        yield from block.flows()


def wanted_blocks(design: Design) -> Iterator[WantedBlock]:
    """Yield all that the intents of a design ask for, by sites, families and services."""
    for intent in design.intents:
        dscp = parse_dscp(intent.dscp or "DF")
        directions = [(intent.sources, intent.destinations)]
        if intent.both_ways:
            directions.append((intent.destinations, intent.sources))
        for sources, destinations in directions:
            targets_of = _members(design, destinations)
            for (_, family), begins in _members(design, sources).items():
                for ends in (some for (_, other), some in targets_of.items() if other is family):
                    for service in intent.services or (ANY_SERVICE,):
                        yield WantedBlock(intent, tuple(begins), tuple(ends), service, dscp)


def _members(design: Design, members: tuple[Member, ...]) -> dict[tuple[str, Family], list[WantedPart]]:
    """Return what members stand for, by site and family."""
    found: dict[tuple[str, Family], list[WantedPart]] = defaultdict(list)
    for member in members:
        networks = design.member_networks(member)
        if member.type is MemberType.HOST:
            parts = [WantedPart(networks[0], design.member_prefixes(member)[0])]
        else:
            parts = [WantedPart(network, network.prefix) for network in networks if not network.zone]
        for part in parts:
            found[part.network.site_id, part.prefix.family].append(part)
    return found
