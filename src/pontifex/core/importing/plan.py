"""What importing would change: each record becomes a new object, a change of one, or nothing."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import Enum
from typing import Annotated, Any, Final

from pydantic import Field, ValidationError

from pontifex.core.addressing import AddressRange, Prefix
from pontifex.core.addressing.special import PRIVATE_SPACE, SHARED_SPACE, UNIQUE_LOCAL
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.importing.draft import DesignDraft
from pontifex.core.importing.record import (
    HostRecord,
    InterfaceRecord,
    NetworkRecord,
    Passed,
    RangeRecord,
    Read,
    Record,
    RouteRecord,
    RuleRecord,
    SourceLine,
    Unread,
)
from pontifex.core.importing.words import folded
from pontifex.core.kinds import AddressKind, Assignment, Host, Network, NetworkRole, Path, PathType, Route, Rule, Site, Uplink
from pontifex.core.model import Design, Operation, put
from pontifex.core.space.room import around
from pontifex.core.validation_reasons import reason_of


class LineOutcome(Enum):
    """What a line leads to."""

    NEW = "new"
    CHANGES = "changes"
    SAME = "same"  # it is there already
    PASSED = "passed"  # it says nothing for a design
    UNREAD = "unread"


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportLine:
    """One line, or one of several things in it."""

    line: Annotated[int, Field(title="Line", description="From 1; in JSON the element's number.")]
    text: Annotated[str, Field(title="What stands there")]
    outcome: LineOutcome
    became: Annotated[str, Field(title="What it became", examples=["network kiosks 10.65.8.0/24 at Ostvik Terminal"])]
    detail: Annotated[str, Field(title="What would change, or why not")] = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportPlan:
    """A text, line by line, and the change that it comes down to."""

    taken_for: Annotated[str, Field(title="What the text was taken for", examples=["free text"])]
    lines: tuple[ImportLine, ...]
    operations: Annotated[tuple[Operation, ...], Field(title="The change", description="Empty when everything is there already.")]


@dataclass(frozen=True, slots=True)
class _Became:
    outcome: LineOutcome
    became: str = ""
    detail: str = ""


def plan_import(design: Design, taken_for: str, records: Read, site_id: str = "", gateway_id: str = "") -> ImportPlan:
    """Return what importing would change. Networks without a site go to the one given; routes and rules need a gateway."""
    planner = _ImportPlanner(design, site_id, gateway_id)
    lines = []
    planner.meet([record for _, record in records if isinstance(record, NetworkRecord)])
    order = sorted(range(len(records)), key=lambda k: _turn(records[k][1]))
    found: dict[int, list[_Became]] = {k: planner.take(records[k][1]) for k in order}
    for k, (place, _) in enumerate(records):
        lines += [_shown(place, line) for line in found[k]]
    return ImportPlan(taken_for=taken_for, lines=tuple(lines), operations=tuple(map(put, planner.draft.changed())))


def _turn(record: Record) -> tuple[int, int]:
    """Order records: networks first, then ranges, which may become some, the widest before those in it; hosts at last."""
    if isinstance(record, RangeRecord):
        return 1, -record.range.size
    return (0, 0) if isinstance(record, NetworkRecord | InterfaceRecord) else (2, 0)


def _shown(place: SourceLine, line: _Became) -> ImportLine:
    return ImportLine(line=place.line, text=place.text, outcome=line.outcome, became=line.became, detail=line.detail)


class _ImportPlanner:
    """The design as it becomes, record by record."""

    def __init__(self, design: Design, site_id: str, gateway_id: str) -> None:
        self._design, self._site_id, self._gateway_id = design, site_id, gateway_id
        self.draft = DesignDraft(design)
        self._network_at = {(n.site_id, n.prefix, n.zone): n.id for n in design.networks}
        self._met: set[str] = set()  # networks that some line is about

    def meet(self, records: list[NetworkRecord]) -> None:
        """Note the networks whose very prefix some line names: no other line means them by their name."""
        for record in records:
            site_id = (self.draft.site_id(record.site) or record.site) if record.site else self._site_id
            known = self._network_at.get((site_id or "", record.prefix, str(record.fields.get("zone", ""))))
            if known:
                self._met.add(known)

    def take(self, record: Record) -> list[_Became]:
        if isinstance(record, Unread):
            return [_Became(LineOutcome.UNREAD, detail=record.reason)]
        if isinstance(record, Passed):
            return [_Became(LineOutcome.PASSED, detail=record.reason)]
        try:
            return self._readers()[type(record)](record)
        except ValidationError as error:
            first = error.errors()[0]
            return [_Became(LineOutcome.UNREAD, detail=f"{' '.join(map(str, first['loc']))}: {reason_of(first)}".lstrip(": "))]

    def _readers(self) -> dict[type, Callable[[Any], list[_Became]]]:
        return {
            NetworkRecord: self._network,
            RangeRecord: self._range,
            HostRecord: self._host,
            InterfaceRecord: self._interface,
            RouteRecord: self._route,
            RuleRecord: self._rule,
        }

    # networks, ranges, hosts

    def _network(self, record: NetworkRecord) -> list[_Became]:
        site = self._site(record.site)
        if site is None:
            return [_Became(LineOutcome.UNREAD, detail="it is not said at which site; choose one, or name it in the line")]
        fields = dict(record.fields)
        zone = str(fields.get("zone", ""))
        known = self._network_at.get((site.id, record.prefix, zone))
        if known is None and record.name:
            known = self._by_name(site, record.name)
            fields["prefix"] = str(record.prefix)
        if known is None:
            return [self._add_network(site, record.name or str(record.prefix), record.prefix, fields, record.note)]
        self._met.add(known)
        return [
            self._change(
                Network, known, fields, f"network {self.draft.lists[Network][known].name} {record.prefix} at {site.name}"
            )
        ]

    def _name_of(self, network_id: str) -> str:
        network: Network = self.draft.lists[Network][network_id]
        return network.name

    def _by_name(self, site: Site, name: str) -> str | None:
        """Return the network of a name that the design has at a site, unless another line is about it already."""
        known = self.draft.named(Network, site.id, name)
        return known if known in self.draft.before[Network] and known not in self._met else None

    def _add_network(self, site: Site, name: str, prefix: Prefix, fields: dict[str, object], note: str) -> _Became:
        wanted = {"role": NetworkRole.USER.value, **fields, "prefix": str(prefix)}
        unique = self.draft.free_name(Network, site.id, name)
        made = Network.model_validate(
            {"id": self.draft.free_id(Network, f"{site.id} {unique}"), "site_id": site.id, "name": unique, **wanted}
        )
        self.draft.keep(made)
        self._network_at[site.id, made.prefix, made.zone] = made.id
        return _Became(LineOutcome.NEW, f"network {unique} {prefix} at {site.name}", note)

    def _range(self, record: RangeRecord) -> list[_Became]:
        site = self._site(record.site)
        if site is None:
            return [_Became(LineOutcome.UNREAD, detail="it is not said at which site; choose one, or name it in the line")]
        holding = self.draft.holding(site, around(_edges(record.range)))
        if holding and AddressRange.of(holding.prefix) == record.range:  # the network itself, written as a range
            return [_Became(LineOutcome.SAME, f"network {holding.name} {holding.prefix} at {site.name}")]
        if holding:
            what = f"DHCP range {record.range} of {holding.name} at {site.name}"
            return [self._with_range(holding, record.range, what)]
        block = around(_edges(record.range))
        exact = AddressRange.of(block) == record.range
        ranges: dict[str, object] = {} if exact else {"dhcp_ranges": [str(record.range)]}
        note = "" if exact else f"the smallest block around {record.range}, which becomes a DHCP range of it"
        return [self._add_network(site, record.name or str(record.range), block, ranges, note)]

    def _with_range(self, network: Network, address_range: AddressRange, what: str) -> _Became:
        if address_range in network.dhcp_ranges:
            return _Became(LineOutcome.SAME, what)
        ranges = sorted((*network.dhcp_ranges, address_range), key=lambda r: r.first)
        return self._change(Network, network.id, {"dhcp_ranges": [str(r) for r in ranges]}, what)

    def _host(self, record: HostRecord) -> list[_Became]:
        named = self._site(record.site) if record.site or self._site_id else None
        bits = record.address.family.bits
        holding = self.draft.holding(named, Prefix(record.address.family, record.address.value, bits))
        if holding is None:
            where = f" at {named.name}" if named else ""
            detail = f"no network{where} holds {record.address}; bring the network in first, or write {record.address}/{bits}"
            return [_Became(LineOutcome.UNREAD, detail=detail)]
        return [self._put_host(holding, record)]

    def _put_host(self, network: Network, record: HostRecord) -> _Became:
        what = f"host {record.name or record.address} {record.address} in {network.name}"
        known = self.draft.host_at.get((network.id, record.address))
        fields: dict[str, object] = {**record.fields, "address": str(record.address)}
        if record.fields.get("hardware_address"):
            fields["assignment"] = Assignment.RESERVED.value
        if known:
            return self._change(Host, known, fields, what)
        name = self.draft.free_name(Host, network.id, record.name or str(record.address))
        made = Host.model_validate(
            {"id": self.draft.free_id(Host, f"{network.id} {name}"), "network_id": network.id, "name": name, **fields}
        )
        self.draft.keep(made)
        return _Became(LineOutcome.NEW, what)

    # what a Linux gateway says of itself

    def _interface(self, record: InterfaceRecord) -> list[_Became]:
        gateway = self._design.gateway_by_id.get(self._gateway_id)
        if gateway is None:
            return [_no_gateway()]
        prefix = record.interface.prefix
        inside = (*PRIVATE_SPACE, SHARED_SPACE, UNIQUE_LOCAL, *self._design.supernets)
        if not any(block.contains(prefix) for block in inside):
            return [self._uplink(record)]
        site = self.draft.lists[Site][gateway.site_id]
        fields: dict[str, object] = {"gateway_address": str(record.interface.address)}
        if record.vlan:
            fields["vlan"] = record.vlan
        known = self._network_at.get((site.id, prefix, ""))
        if known:
            return [self._change(Network, known, fields, f"network {self._name_of(known)} {prefix} at {site.name}")]
        return [self._add_network(site, record.device, prefix, fields, f"{gateway.name} has {record.interface} there")]

    def _uplink(self, record: InterfaceRecord) -> _Became:
        address = record.interface.address
        what = f"uplink {record.device} with {address}"
        mine = [candidate for candidate in self.draft.lists[Uplink].values() if candidate.gateway_id == self._gateway_id]
        if any(uplink.address == address for uplink in mine):
            return _Became(LineOutcome.SAME, what)
        known = next((candidate for candidate in mine if folded(candidate.name) == folded(record.device)), None)
        if known:
            return self._change(Uplink, known.id, {"address": str(address)}, what)
        made = Uplink(
            id=self.draft.free_id(Uplink, f"{self._gateway_id.removesuffix('-gateway')} {record.device}"),
            gateway_id=self._gateway_id,
            name=record.device,
            address_kind=AddressKind.FIXED_PUBLIC,
            address=address,
        )
        self.draft.keep(made)
        return _Became(LineOutcome.NEW, what, "a fixed public address, taken for granted")

    def _route(self, record: RouteRecord) -> list[_Became]:
        if self._gateway_id not in self._design.gateway_by_id:
            return [_no_gateway()]
        hop: dict[str, Any] = {"via": record.via} if record.via else self._device(record.device)
        if not hop:
            return [
                _Became(
                    LineOutcome.UNREAD,
                    detail=f"'{record.device}' is neither a tunnel nor an uplink here, and there is no next hop",
                )
            ]
        what = f"route {record.prefix} by {record.via or record.device}"
        mine = [
            candidate
            for candidate in self.draft.lists[Route].values()
            if candidate.gateway_id == self._gateway_id and candidate.prefix == record.prefix
        ]
        same = [candidate for candidate in mine if all(getattr(candidate, field) == value for field, value in hop.items())]
        if same:
            return [self._change(Route, same[0].id, {"metric": record.metric}, what)]
        id_ = self.draft.free_id(Route, f"{self._gateway_id.removesuffix('-gateway')} to {record.prefix}")
        self.draft.keep(Route(id=id_, gateway_id=self._gateway_id, prefix=record.prefix, metric=record.metric, **hop))
        return [_Became(LineOutcome.NEW, what)]

    def _rule(self, record: RuleRecord) -> list[_Became]:
        if self._gateway_id not in self._design.gateway_by_id:
            return [_no_gateway()]
        device = self._device(record.table)
        paths = tuple(Path(type=PathType(field.removesuffix("_id")), id=id_) for field, id_ in device.items())
        note = "" if paths else f"table '{record.table}' names no tunnel or uplink here; say which paths it stands for"
        what = f"rule {record.position}"
        name = f"rule {record.position}, table {record.table}"[:80]
        known = self.draft.named(Rule, self._gateway_id, name)
        fields = {"position": max(record.position, 1), "sources": record.sources, "destinations": record.destinations}
        if known:
            dumped = Rule(id="x", gateway_id="x", name="x", **fields).model_dump(mode="json")
            return [self._change(Rule, known, {field: dumped[field] for field in fields}, what)]
        id_ = self.draft.free_id(Rule, f"{self._gateway_id.removesuffix('-gateway')} rule {record.position}")
        self.draft.keep(Rule(id=id_, gateway_id=self._gateway_id, name=name, paths=paths, **fields))
        return [_Became(LineOutcome.NEW, what, note)]

    def _device(self, name: str) -> dict[str, str]:
        """Return the tunnel or uplink of the gateway that a device or table is called after."""
        wanted = folded(name)
        for tunnel in self._design.tunnels:
            if wanted in (tunnel.id, folded(tunnel.name)) and self._gateway_id in (
                tunnel.left.gateway_id,
                tunnel.right.gateway_id,
            ):
                return {"tunnel_id": tunnel.id}
        for uplink in self.draft.lists[Uplink].values():
            if uplink.gateway_id == self._gateway_id and wanted in (uplink.id, folded(uplink.name)):
                return {"uplink_id": uplink.id}
        return {}

    # what all of them need

    def _site(self, name: str | None) -> Site | None:
        """Return the site of a name, made when it isn't there; the one given where the line says none."""
        return self.draft.site(name) if name else self.draft.lists[Site].get(self._site_id)

    def _change(self, type_: type[FrozenModel], id_: str, fields: dict[str, Any], what: str) -> _Became:
        changed = self.draft.change(type_, id_, fields)
        return _Became(LineOutcome.CHANGES, what, changed) if changed else _Became(LineOutcome.SAME, what)


_NO_GATEWAY: Final = "choose the gateway that printed it"


def _edges(some: AddressRange) -> tuple[Prefix, Prefix]:
    """Return the first and the last address of a range as prefixes."""
    first, last = (Prefix(some.family, end, some.family.bits) for end in (some.first, some.last))
    return first, last


def _no_gateway() -> _Became:
    return _Became(LineOutcome.UNREAD, detail=_NO_GATEWAY)
