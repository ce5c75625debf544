"""What the lines of a start become: sites, each with a gateway, its uplink, and its networks."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address, Prefix
from pontifex.core.frozen_model import Choice, FrozenModel
from pontifex.core.importing.words import folded
from pontifex.core.kinds import AddressKind, Gateway, Network, ObjectType, Site, SiteKind, Uplink
from pontifex.core.model import Design, DesignSettings, Operation, put
from pontifex.core.model.ids import fresh_id
from pontifex.core.starting.lines import LineFault, SiteLine, family_of, headings_of, read_cells, read_line, split_line

MOST_CHARACTERS: Final = 2_000_000


class StartText(FrozenModel):
    """Sites as somebody writes or pastes them, a line each."""

    text: str = Field(title="Sites, a line each", max_length=MOST_CHARACTERS)
    supernets: tuple[Prefix, ...] = Field(default=(), title="Supernets", max_length=64)
    otherwise: AddressKind = Field(
        default=AddressKind.BEHIND_NAT, title="Where a line doesn't say how", description="The site reaches the outside so."
    )


class LineState(Choice):
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
    state: LineState
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


@dataclass
class _Planner:
    """A design, and what the lines add to it."""

    design: Design
    otherwise: AddressKind
    made: list[Site | Gateway | Uplink | Network] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.sites = {folded(site.name): site for site in self.design.sites}
        self.ids = {type_: set(self.design.by_type[type_]) for type_ in ObjectType if type_ in self.design.by_type}
        self.prefixes: dict[str, set[Prefix]] = {}
        self.names: dict[str, set[str]] = {}
        self.reached = {gateway.site_id for gateway in self.design.gateways}
        for network in self.design.networks:
            self.prefixes.setdefault(network.site_id, set()).add(network.prefix)
            self.names.setdefault(network.site_id, set()).add(folded(network.name))

    def take(self, said: SiteLine) -> tuple[LineState, str]:
        """Add what a line says. Raise LineFault where a network stands there already, before anything is added."""
        known = self.sites.get(folded(said.name))
        prefixes = [network.prefix for network in said.networks]
        there = self.prefixes.get(known.id, set()) if known else set()
        twice = next((one for k, one in enumerate(prefixes) if one in there or one in prefixes[:k]), None)
        if twice:
            raise LineFault(f"{said.name} has {twice} already")
        if known and not said.networks and known.id in self.reached:
            raise LineFault(f"{known.name} is there already, and the line adds nothing to it")
        site = known or self._new_site(said)
        for network in said.networks:
            self._add_network(site, network.prefix, network.name, network.role)
        outside = "" if site.id in self.reached else self._add_way_out(site, said)
        named = ", ".join(f"{network.name} {network.prefix}".strip() for network in said.networks) or "no network yet"
        return LineState.ADDS if known else LineState.NEW, f"{site.name}: {named}{outside and f'; {outside}'}"

    def _id(self, type_: ObjectType, name: str) -> str:
        id_ = fresh_id(name, self.ids[type_])
        self.ids[type_].add(id_)
        return id_

    def _new_site(self, said: SiteLine) -> Site:
        kind = said.kind or SiteKind.OFFICE
        site = Site(id=self._id(ObjectType.SITE, said.name), name=said.name, kind=kind, region=said.region[:200])
        self.sites[folded(site.name)] = site
        self.made.append(site)
        return site

    def _add_network(self, site: Site, prefix: Prefix, name: str, role: object) -> None:
        taken = self.names.setdefault(site.id, set())
        stem = (name or family_of(prefix))[:70]
        free = next(one for k in range(1, 100_000) if folded(one := stem if k == 1 else f"{stem} {k}") not in taken)
        taken.add(folded(free))
        self.prefixes.setdefault(site.id, set()).add(prefix)
        id_ = self._id(ObjectType.NETWORK, f"{site.id} {free}")
        self.made.append(Network.model_validate({"id": id_, "name": free, "site_id": site.id, "prefix": prefix, "role": role}))

    def _add_way_out(self, site: Site, said: SiteLine) -> str:
        """Add a gateway with an uplink; return how the site reaches the outside, in words."""
        kind, called = self._kind(said)
        gateway = Gateway(id=self._id(ObjectType.GATEWAY, f"{site.id} gateway"), name="gateway", site_id=site.id)
        uplink = Uplink(
            id=self._id(ObjectType.UPLINK, f"{site.id} uplink"),
            name="uplink",
            gateway_id=gateway.id,
            address_kind=kind,
            address=said.address,
            dns_name=said.dns_name or None,
            inbound_ike=called,
            inbound_tcp=called,
        )
        self.made += [gateway, uplink]
        self.reached.add(site.id)
        return _in_words(kind, called, said.address, said.dns_name)

    def _kind(self, said: SiteLine) -> tuple[AddressKind, bool]:
        if said.outside:
            return said.outside.kind, said.outside.called
        if said.address:
            return AddressKind.FIXED_PUBLIC, True
        if said.dns_name:
            return AddressKind.CHANGING_PUBLIC, True
        return self.otherwise, self.otherwise in (AddressKind.FIXED_PUBLIC, AddressKind.CHANGING_PUBLIC)


_IN_WORDS: Final = {
    AddressKind.FIXED_PUBLIC: "a fixed public address",
    AddressKind.CHANGING_PUBLIC: "a changing public address",
    AddressKind.BEHIND_NAT: "behind NAT",
    AddressKind.CARRIER_NAT: "behind a carrier's NAT",
}


def _in_words(kind: AddressKind, called: bool, address: Address | None, dns_name: str) -> str:
    found = " ".join(str(one) for one in (_IN_WORDS[kind], address, dns_name) if one)
    return found if called else f"{found}, not to be called"


def plan_sites(design: Design, start: StartText) -> tuple[SitesPlan, tuple[Operation, ...]]:
    """Return what a text becomes, line by line, with the one change that adds it; lines with a fault add nothing."""
    planner = _Planner(design, start.otherwise)
    lines = tuple(_lines(planner, start.text))
    settings: tuple[DesignSettings, ...] = ()
    if start.supernets and planner.made:
        known = design.settings
        merged = tuple(dict.fromkeys((*known.supernets, *start.supernets)))
        settings = () if merged == known.supernets else (known.changed(supernets=merged),)
    plan = SitesPlan(
        lines=lines,
        sites=sum(isinstance(item, Site) for item in planner.made),
        networks=sum(isinstance(item, Network) for item in planner.made),
        faults=sum(line.state is LineState.FAULT for line in lines),
    )
    return plan, tuple(put(item) for item in (*settings, *planner.made))


def _lines(planner: _Planner, text: str) -> Iterator[PlannedLine]:
    table: tuple[str, tuple[str, ...]] | None = None
    for number, written in enumerate(text.splitlines(), 1):
        line, shown = written.strip(), written.strip()[:_SHOWN]
        if not line or line.startswith("#"):
            continue
        head = headings_of(line)
        if head:
            table = head
            yield PlannedLine(line=number, text=shown, state=LineState.PASSED, became="the head of a table")
            continue
        try:
            said = read_cells(split_line(line, table[0]), table[1]) if table else read_line(line)
            state, became = planner.take(said)
        except LineFault as fault:
            yield PlannedLine(line=number, text=shown, state=LineState.FAULT, became=str(fault))
            continue
        yield PlannedLine(line=number, text=shown, state=state, became=became, left_out=", ".join(said.left_out))
