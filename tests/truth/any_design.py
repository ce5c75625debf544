"""Designs with every field of every kind drawn at random from what the model allows, and every analysis asked about them."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from datetime import UTC, date, datetime, timedelta
from enum import Enum
from random import Random
from types import NoneType, UnionType
from typing import Annotated, Any, Final, Union, get_args, get_origin
from uuid import UUID

from annotated_types import Ge, Gt, Le, Len, MaxLen, MinLen
from pydantic import BaseModel, ValidationError
from pydantic.fields import FieldInfo

from pontifex.core.addressing import Address, AddressRange, Family, Interface, Prefix, Selector, Service, parse_address
from pontifex.core.addressing.address import format_address
from pontifex.core.addressing.dhcp_routes import DhcpRoute
from pontifex.core.certificates import Certificate
from pontifex.core.clouds.intended import intended_networks, intended_peerings
from pontifex.core.clouds.reachability import CloudStates, cloud_reach
from pontifex.core.clouds.resources import AccountState
from pontifex.core.clouds.steps import cloud_steps
from pontifex.core.clouds.take_over import take_over
from pontifex.core.failures import FailedCheck
from pontifex.core.find import find
from pontifex.core.findings import AnalysisCache, analyse
from pontifex.core.handover import linux_plan
from pontifex.core.handover.sheets.profile_page import profile_page
from pontifex.core.ipsec import REGISTRY
from pontifex.core.ipsec.proposal import Transform
from pontifex.core.kinds import KINDS, ObjectType, PlatformFamily, Profile
from pontifex.core.matching import match
from pontifex.core.model import ChangeRefused, Design, apply_operations, put
from pontifex.core.people import all_flows, device_trace, places
from pontifex.core.people.abilities import usual_platform
from pontifex.core.people.device_trace import read_destination
from pontifex.core.people.foreseen import foreseen
from pontifex.core.people.profile_file import profile_file
from pontifex.core.rehearsal.leases import lease_course
from pontifex.core.routing import ANY_SERVICE, Conditions, Flow, Tables, failing_tunnels, matrix, sweep, trace
from pontifex.core.routing.links.capacity import IntentLoads
from pontifex.core.routing.links.choice import choices
from pontifex.core.routing.rules.rules import RuleList
from pontifex.core.routing.split.split import Split, route_list
from pontifex.core.routing.wanted.blocks import wanted_blocks
from pontifex.core.routing.wanted.generate import missing_routes, needed_routes
from pontifex.core.space import Room, plan, usage
from pontifex.core.space.renumbering import renumber_plan
from pontifex.core.space.ways_out import ways_out
from pontifex.standins.cloud import USUAL_QUOTAS

MODELS: Final[dict[ObjectType, type[Any]]] = {kind.name: kind.model for kind in KINDS}
_STARTS: Final = (("10.64.0.0", Family.V4), ("172.22.16.0", Family.V4), ("192.168.1.0", Family.V4), ("0.0.0.0", Family.V4),
                  ("fd5c:9a1e:40::", Family.V6), ("::", Family.V6), ("198.51.100.0", Family.V4))  # fmt: skip
_WORDS: Final = (
    "north", "South Pier", "gate.ostvik.example", "CN=gate,O=Skerry Line", "any", "198.51.100.10", "", "EF", "tcp 443", "ü",
)  # fmt: skip
_HEX: Final = "0123456789abcdef"
_LEAVE_OUT: Final = 0.45  # how often a field keeps its default


class Drawer:
    """Draws values of a design's fields as JSON. What can't be represented is refused by the model, and drawn anew."""

    def __init__(self, random: Random, design: Design) -> None:
        self._random, self._design = random, design

    def fields(self, model: type[BaseModel], **given: Any) -> dict[str, Any]:
        """Draw the fields of a model, each by what it is declared as."""
        found = dict(given)
        for name, info in model.model_fields.items():
            if name not in found and info.is_required():
                found[name] = self._field(name, info)
        for group in next((kind.one_of for kind in KINDS if kind.model is model), ()):
            name = self._random.choice(group)
            found.setdefault(name, self._field(name, model.model_fields[name]))
        for name, info in model.model_fields.items():
            if name in found or self._random.random() < _LEAVE_OUT:
                continue
            with suppress(ValidationError):  # a value that doesn't fit is left out, and the others stand
                fuller = {**found, name: self._field(name, info)}
                model.model_validate(fuller)
                found = fuller
        return found

    def _field(self, name: str, info: FieldInfo) -> Any:
        if name.endswith("_id") or name == "id":
            wanted = {"pool": "network", "policy": "policy"}.get(name.removesuffix("_id"), name.removesuffix("_id"))
            return self._reference(wanted) if info.is_required() or self._random.random() < 0.8 else None
        return self._value(info.annotation, tuple(info.metadata))

    def _reference(self, kind: str) -> Any:
        try:
            ids = list(self._design.by_type[ObjectType(kind)])
        except ValueError:
            ids = []
        return self._random.choice(ids) if ids else "nothing"

    def _value(self, annotation: Any, metadata: tuple[Any, ...] = ()) -> Any:
        origin = get_origin(annotation)
        if origin is Annotated:
            inner, *more = get_args(annotation)
            return self._value(inner, (*metadata, *(constraint for extra in more for constraint in _flat(extra))))
        if origin in (Union, UnionType):
            return self._value(self._random.choice(get_args(annotation)), metadata)
        if origin is tuple:
            least = next((candidate.min_length for candidate in metadata if isinstance(candidate, MinLen | Len)), 0)
            return [self._value(get_args(annotation)[0]) for _ in range(self._random.randint(least, least + 3))]
        if annotation in _LEAVES:
            return _LEAVES[annotation](self)
        if isinstance(annotation, type) and issubclass(annotation, Enum):
            return self._random.choice(list(annotation)).value
        if isinstance(annotation, type) and issubclass(annotation, BaseModel):
            return self._model(annotation)
        if annotation in (int, float):
            return self._number(annotation, metadata)
        return self._text(metadata)

    def _model(self, model: type[BaseModel]) -> dict[str, Any]:
        if model is Transform:
            row = self._random.choice(REGISTRY)
            return {"type": row.type.value, "id": row.id, "key_length": self._random.choice(row.key_lengths or (None,))}
        found = self.fields(model)
        if set(model.model_fields) >= {"type", "id"}:  # a member, or a path of a rule
            found["id"] = self._reference(str(found["type"]))
        return found

    def _number(self, kind: type[Any], metadata: tuple[Any, ...]) -> Any:
        bounds: list[Any] = [
            candidate.ge if isinstance(candidate, Ge) else candidate.gt
            for candidate in metadata
            if isinstance(candidate, Ge | Gt)
        ]
        limits: list[Any] = [candidate.le for candidate in metadata if isinstance(candidate, Le)]
        least, most = float([*bounds, 0][0]), float([*limits, 10_000][0])
        return kind(self._random.choice([least, most, self._random.uniform(least, min(most, least + 5000))]))

    def _text(self, metadata: tuple[Any, ...]) -> str:
        patterns = " ".join(str(getattr(constraint, "pattern", "") or "") for constraint in metadata)
        if "0-9a-f]{2}:" in patterns:
            return ":".join(f"{self._random.randrange(256):02x}" for _ in range(6))
        if "[0-9a-f]" in patterns:
            return "".join(self._random.choices(_HEX, k=32))
        if "[a-z0-9]" in patterns:
            return f"o{self._random.randrange(10_000)}"
        if "A-Za-z0-9._-" in patterns:
            return f"eth{self._random.randrange(4)}"
        if "A-Za-z0-9_" in patterns:
            return self._random.choice(["ostvik.dyn.example", "quay.skerry.example", "*.skerry.example"])
        if any(isinstance(constraint, MaxLen) and constraint.max_length == 64 for constraint in metadata):
            return "hSDwCYkwp1R0i33ctD73Wg2/Og0mOBr066SpjqqbTmo="
        return self._random.choice(_WORDS)

    # Addresses

    def start(self) -> tuple[Family, int]:
        """Draw an address near something that the demo has."""
        text, family = self._random.choice(_STARTS)
        return family, min(parse_address(text)[1] + self._random.randrange(4096), family.last)

    def prefix(self) -> str:
        """Draw a prefix of any size."""
        family, value = self.start()
        length = self._random.choice(
            [0, family.bits, self._random.randint(0, family.bits), self._random.randint(16, family.bits)]
        )
        return str(Prefix(family, value & ~family.host_mask(length) & family.last, length))

    def address(self) -> str:
        """Draw an address."""
        return format_address(*self.start())

    def span(self) -> str:
        """Draw a range of addresses."""
        family, value = self.start()
        last = min(value + self._random.randrange(300), family.last)
        return f"{format_address(family, value)}-{format_address(family, last)}"

    def service(self) -> str:
        """Draw a service."""
        return self._random.choice(["any", "tcp", "tcp 443", "udp 53-99", "port 1024-65535", "icmp", "protocol 47-50"])

    def selector(self) -> str:
        """Draw a selector."""
        service = self.service()
        return f"{self._random.choice([self.prefix, self.span])()}{'' if service == 'any' else f' {service}'}"

    def day(self) -> str:
        """Draw a day near today."""
        return (date(2026, 11, 23) + timedelta(self._random.randint(-400, 400))).isoformat()


_LEAVES: Final[dict[Any, Callable[[Drawer], Any]]] = {
    NoneType: lambda _: None,
    bool: lambda drawer: drawer._random.random() < 0.5,
    Prefix: Drawer.prefix,
    Address: Drawer.address,
    AddressRange: Drawer.span,
    Interface: lambda drawer: f"{drawer.address()}/{drawer._random.choice([24, 30, 31])}",
    Selector: Drawer.selector,
    Service: Drawer.service,
    DhcpRoute: lambda drawer: f"{drawer.prefix()} via {drawer.address()}",
    date: Drawer.day,
    UUID: lambda drawer: str(UUID(int=drawer._random.getrandbits(128), version=4)),
    Certificate: lambda drawer: drawer._random.choice(_certificates(drawer._design)),
}


def _certificates(design: Design) -> list[dict[str, str]]:
    known = [
        {"pem": certificate.pem}
        for tunnel in design.tunnels
        for end in (tunnel.left, tunnel.right)
        for certificate in end.certificates
    ]
    return known or [{"pem": "none"}]


def _flat(extra: Any) -> tuple[Any, ...]:
    return tuple(extra.metadata) if isinstance(extra, FieldInfo) else (extra,)


def draw_design(random: Random, base: Design) -> Design:
    """Draw objects over a design, in place of its own or beside them; those that the repository refuses are left out."""
    design = base
    for k in range(random.randint(1, 14)):
        type_ = random.choice(list(MODELS))
        model = MODELS[type_]
        known = design.by_type[type_]
        id_ = random.choice(list(known)) if known and random.random() < 0.5 else f"o{k}"
        for _ in range(6):
            try:
                made = model.model_validate(Drawer(random, design).fields(model, id=id_, name=f"{type_.value} {k}"))
                design = apply_operations(design, [put(made)])
            except (ValidationError, ChangeRefused):
                continue
            break
    return design


def ask_everything(design: Design, today: date, random: Random) -> None:
    """Ask every analysis about a design. Raise whatever one raises, also what an analysis of the whole would only report."""
    failed: list[FailedCheck] = []
    memory = AnalysisCache()
    found = analyse(design, today, memory, failed.append)
    for check in failed:
        raise check.error
    some = random.sample(found.findings, min(len(found.findings), 6))
    for told in memory.remedies(some):
        for remedy in told[:2]:
            apply_operations(design, remedy.operations)
    for tunnel in design.tunnels:
        match(design, tunnel, today)
    _ask_space(design, random)
    _ask_paths(design, today, random)
    _ask_about_clouds(design, today)


def _ask_space(design: Design, random: Random) -> None:
    usage(design)
    out = ways_out(design).operations
    apply_operations(design, out) if out else None
    for translation in design.translations:
        plan(design, translation)
    if design.networks:
        network = random.choice(design.networks)
        for offer in Room(design).offers(network.site_id, network.prefix.family, network.prefix.length, most=1):
            renumber_plan(design, network, offer.prefix, network.id)
    for text in ("10.64.0.1", "10.64.0.0/16", "fd5c:9a1e:40::1", "o1"):
        find(design, text)


def _ask_paths(design: Design, today: date, random: Random) -> None:
    tables, conditions = Tables(design), Conditions.of(design, failing=failing_tunnels(design, today))
    missing = [put(route) for route in missing_routes(design, needed_routes(tables, wanted_blocks(design)))]
    apply_operations(design, missing) if missing else None
    for gateway in design.gateways:
        names = {(ObjectType.TUNNEL, tunnel.id): "t0" for tunnel in design.tunnels}
        names |= {(ObjectType.UPLINK, uplink.id): "u0" for uplink in design.uplinks}
        names |= {(ObjectType.NETWORK, network.id): "n0" for network in design.networks}
        linux_plan(tables, gateway.id, names)
        list(RuleList.of(tables, gateway).shadows())
    list(choices(tables, conditions))
    IntentLoads(tables, conditions).loads()
    matrix(tables, conditions)
    sweep(tables, failing_tunnels(design, today))
    for profile in design.profiles:
        route_list(Split.of(profile, None), profile.most_routes)
        _ask_about_people(tables, profile, today)
    ends = [network for network in design.networks if not network.zone]
    for _ in range(6):
        source, destination = random.choice(ends), random.choice(ends)
        if source.prefix.family is destination.prefix.family:
            begin, end = (Address(part.prefix.family, part.prefix.last) for part in (source, destination))
            trace(tables, Flow(begin, end), conditions, source, destination)


def _ask_about_clouds(design: Design, today: date) -> None:
    """The steps at clouds that hold all, nothing, or haven't been read; what reaches what; and what is taken over."""
    peerings = tuple(intended_peerings(design))
    networks = intended_networks(design)
    full = {
        account: AccountState(
            account=account, networks=tuple(network for network in networks if network.account == account), quotas=USUAL_QUOTAS
        )
        for account in {network.account for network in networks}
    }
    for readings in ({}, full):
        cloud_steps(design, readings)
        states = CloudStates.of(design, readings, today)
        for peering in peerings:
            list(cloud_reach(states, peering))
        for remedy in take_over(design, readings):
            apply_operations(design, remedy.operations)


def _ask_about_people(tables: Tables, profile: Profile, today: date) -> None:
    """All that is asked of a profile: every flow, one packet at every place, its file, and its leases."""
    design = tables.design
    all_flows(tables, profile, today)
    profile_page(profile_file(design, profile, 1, datetime(2026, 11, 27, tzinfo=UTC)), "")
    foreseen(design, profile, None)
    pool = design.network_by_id.get(profile.pool_id or "")
    for place in places(design, profile):
        destination = read_destination(design, "10.64.8.10", ANY_SERVICE, "Rota")
        device_trace(tables, profile, place, usual_platform(PlatformFamily.TABLET), destination, today, pool)
    if pool and pool.prefix.family is Family.V4:
        lease_course(pool, pool, profile.dhcp_block)
