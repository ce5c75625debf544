"""What the lines of a start become: sites, each with a gateway, its uplink, and its networks."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address, Prefix
from pontifex.core.choice import Choice
from pontifex.core.errors import FieldRefused
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.importing.draft import DesignDraft
from pontifex.core.kinds import AddressKind, Gateway, Network, Site, SiteKind, Uplink
from pontifex.core.model import Design, DesignSettings, Operation, put
from pontifex.core.model.design import MOST_SUPERNETS
from pontifex.core.starting.lines import (
    LineFault,
    SaidNetwork,
    SiteLine,
    family_of,
    headings_of,
    read_cells,
    read_line,
    split_line,
)

MOST_CHARACTERS: Final = 2_000_000


class StartText(FrozenModel):
    """Sites as somebody writes or pastes them, a line each."""

    text: str = Field(title="Sites, a line each", max_length=MOST_CHARACTERS)
    supernets: tuple[Prefix, ...] = Field(default=(), title="Supernets", max_length=MOST_SUPERNETS)
    otherwise: AddressKind = Field(
        default=AddressKind.BEHIND_NAT, title="Where a line doesn't say how", description="The site reaches the outside so."
    )


class SiteLineState(Choice):
    """What a line leads to."""

    NEW = "new"
    ADDS = "adds"  # to a site that is there, or stands above
    PASSED = "passed"  # a heading, or a remark
    FAULT = "fault"


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedLine:
    """One line, and what it becomes."""

    line: Annotated[int, Field(title="Line", description="From 1.")]
    text: Annotated[str, Field(title="What stands there")]
    state: SiteLineState
    became: Annotated[str, Field(title="What it becomes, or why not")] = ""
    left_out: Annotated[str, Field(title="Words that were left out")] = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class SitesPlan:
    """A text, line by line, and how much it comes to."""

    lines: tuple[PlannedLine, ...]
    sites: Annotated[int, Field(title="New sites")]
    networks: Annotated[int, Field(title="New networks")]
    faults: Annotated[int, Field(title="Lines that can't be taken")]


_SHOWN: Final = 200  # characters of a line
_MOST_OF_A_LINE: Final = 4000


class _SitesPlanner:
    """A design, and what the lines add to it."""

    def __init__(self, design: Design, otherwise: AddressKind) -> None:
        self.draft, self._otherwise = DesignDraft(design), otherwise
        self._reached = {gateway.site_id for gateway in design.gateways}
        self._prefixes: dict[str, set[Prefix]] = {}
        for network in design.networks:
            self._prefixes.setdefault(network.site_id, set()).add(network.prefix)

    def take(self, said: SiteLine) -> tuple[SiteLineState, str]:
        """Add what a line says. Raise LineFault where a network stands there already, before anything is added."""
        known = self.draft.site_id(said.name)
        prefixes = [network.prefix for network in said.networks]
        there = self._prefixes.get(known, set()) if known else set()
        twice = next((prefix for k, prefix in enumerate(prefixes) if prefix in there or prefix in prefixes[:k]), None)
        if twice:
            raise LineFault(f"{said.name} has {twice} already")
        if known in self._reached and not said.networks:
            raise LineFault(f"{said.name} is there already, and the line adds nothing to it")
        site = self.draft.site(said.name, said.kind or SiteKind.OFFICE, said.region)
        for network in said.networks:
            self._add_network(site, network)
        outside = "" if site.id in self._reached else self._add_way_out(site, said)
        named = ", ".join(f"{network.name} {network.prefix}".strip() for network in said.networks) or "no network yet"
        return SiteLineState.ADDS if known else SiteLineState.NEW, f"{site.name}: {named}{outside and f'; {outside}'}"

    def _add_network(self, site: Site, said: SaidNetwork) -> None:
        name = self.draft.free_name(Network, site.id, said.name or family_of(said.prefix))
        self._prefixes.setdefault(site.id, set()).add(said.prefix)
        id_ = self.draft.free_id(Network, f"{site.id} {name}")
        self.draft.keep(Network(id=id_, name=name, site_id=site.id, prefix=said.prefix, role=said.role))

    def _add_way_out(self, site: Site, said: SiteLine) -> str:
        """Add a gateway with an uplink; return how the site reaches the outside, in words."""
        kind, called = self._kind(said)
        gateway = Gateway(id=self.draft.free_id(Gateway, f"{site.id} gateway"), name="gateway", site_id=site.id)
        uplink = Uplink(
            id=self.draft.free_id(Uplink, f"{site.id} uplink"),
            name="uplink",
            gateway_id=gateway.id,
            address_kind=kind,
            address=said.address,
            dns_name=said.dns_name or None,
            inbound_ike=called,
            inbound_tcp=called,
        )
        self.draft.keep(gateway)
        self.draft.keep(uplink)
        self._reached.add(site.id)
        return _in_words(kind, called, said.address, said.dns_name)

    def _kind(self, said: SiteLine) -> tuple[AddressKind, bool]:
        if said.outside:
            return said.outside.kind, said.outside.called
        if said.address:
            return AddressKind.FIXED_PUBLIC, True
        if said.dns_name:
            return AddressKind.CHANGING_PUBLIC, True
        return self._otherwise, self._otherwise in (AddressKind.FIXED_PUBLIC, AddressKind.CHANGING_PUBLIC)


_IN_WORDS: Final = {
    AddressKind.FIXED_PUBLIC: "a fixed public address",
    AddressKind.CHANGING_PUBLIC: "a changing public address",
    AddressKind.BEHIND_NAT: "behind NAT",
    AddressKind.CARRIER_NAT: "behind a carrier's NAT",
}


def _in_words(kind: AddressKind, called: bool, address: Address | None, dns_name: str) -> str:
    found = " ".join(str(candidate) for candidate in (_IN_WORDS[kind], address, dns_name) if candidate)
    return found if called else f"{found}, not to be called"


def plan_sites(design: Design, start: StartText) -> tuple[SitesPlan, tuple[Operation, ...]]:
    """Return what a text becomes, line by line, with the one change that adds it; lines with a fault add nothing."""
    planner = _SitesPlanner(design, start.otherwise)
    lines = tuple(_lines(planner, start.text))
    made = planner.draft.changed()
    settings: tuple[DesignSettings, ...] = ()
    supernets = tuple(dict.fromkeys((*design.supernets, *start.supernets)))
    if len(supernets) > MOST_SUPERNETS:
        raise FieldRefused("supernets", f"with those of the design there are {len(supernets)}; {MOST_SUPERNETS} at most")
    if made and supernets != design.supernets:
        settings = (design.settings.changed(supernets=supernets),)
    plan = SitesPlan(
        lines=lines,
        sites=sum(isinstance(item, Site) for item in made),
        networks=sum(isinstance(item, Network) for item in made),
        faults=sum(line.state is SiteLineState.FAULT for line in lines),
    )
    return plan, tuple(put(item) for item in (*settings, *made))


def _lines(planner: _SitesPlanner, text: str) -> Iterator[PlannedLine]:
    table: tuple[str, tuple[str, ...]] | None = None
    for number, written in enumerate(text.splitlines(), 1):
        line, shown = written.strip(), written.strip()[:_SHOWN]
        if not line or line.startswith("#"):
            continue
        head = headings_of(line) if len(line) <= _MOST_OF_A_LINE else None
        if head:
            table = head
            yield PlannedLine(line=number, text=shown, state=SiteLineState.PASSED, became="the head of a table")
            continue
        try:
            if len(line) > _MOST_OF_A_LINE:
                raise LineFault(f"the line has {len(line):,} characters; {_MOST_OF_A_LINE:,} at most")
            said = read_cells(split_line(line, table[0]), table[1]) if table else read_line(line)
            state, became = planner.take(said)
        except LineFault as fault:
            yield PlannedLine(line=number, text=shown, state=SiteLineState.FAULT, became=str(fault))
            continue
        yield PlannedLine(line=number, text=shown, state=state, became=became, left_out=", ".join(said.left_out))
