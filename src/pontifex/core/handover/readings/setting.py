"""Settings of a device, each by its path: what the design intends at a gateway."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from typing import Annotated, Any, Final

from pydantic import Field, TypeAdapter, ValidationError

from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds import SIDES, Filter, Gateway, ObjectType, Route, Rule, Translation, Tunnel, TunnelEnd
from pontifex.core.matching.rows import FIELDS
from pontifex.core.model import Design, DesignObject
from pontifex.core.model.references import ObjectKey
from pontifex.core.model.written import ABSENT, WrittenObject, written

OF_A_GATEWAY: Final = ("service_on", "forwarding", "inside_address", "resolvers")
_NOT_SET: Final = frozenset({"uplink_id", "peering_agreed", "round_trip_ms"})  # of an end: they stand at no device
_OF_EVERY_END: Final = frozenset({"technology", "enabled", "interface"})
_OF_SOME_END: Final = frozenset().union(*FIELDS.values(), _OF_EVERY_END) - _NOT_SET
OF_AN_END: Final = tuple(field for field in TunnelEnd.model_fields if field in _OF_SOME_END)  # by some technology


@dataclass(frozen=True, slots=True, kw_only=True)
class Setting:
    """One setting of a device."""

    path: Annotated[str, Field(title="Path", examples=["tunnel/harbour-ostvik/left/ike_proposals"])]
    title: Annotated[str, Field(title="Setting", examples=["Harbour–Ostvik: IKE proposals"])]
    text: Annotated[str, Field(title="Value")]


def intended(design: Design, gateway_id: str) -> tuple[Setting, ...]:
    """Return what a design intends at a gateway, as far as it is known, in the order of paths."""
    found = [*_of_gateway(design, design.gateway_by_id[gateway_id]), *_of_tunnels(design, gateway_id)]
    found += [*_of_routes(design, gateway_id), *_of_lists(design, gateway_id)]
    return tuple(sorted(found, key=lambda setting: setting.path))


def intended_of(design: Design, gateway_id: str, key: ObjectKey) -> tuple[Setting, ...]:
    """Return the settings of a gateway that an object of the design may decide: cheaper than all of them."""
    gateway = design.gateway_by_id.get(gateway_id)
    if gateway is None:
        return ()
    kind, id_ = key
    if kind is ObjectType.TUNNEL:
        return tuple(_of_tunnels(design, gateway_id, id_))
    if kind is ObjectType.ROUTE:
        return tuple(_of_routes(design, gateway_id))
    return (*_of_gateway(design, gateway), *_of_lists(design, gateway_id))


def end_fields(end: TunnelEnd) -> list[str]:
    """Return the fields of an end that a device holds, by its technology."""
    wanted = (FIELDS[end.technology] | _OF_EVERY_END) - _NOT_SET
    return [field for field in TunnelEnd.model_fields if field in wanted]


def _of_gateway(design: Design, gateway: Gateway) -> Iterator[Setting]:
    for field in OF_A_GATEWAY:
        yield from _setting(design, gateway, f"gateway/{gateway.id}/{field}", field, gateway, field)


def _of_tunnels(design: Design, gateway_id: str, tunnel_id: str = "") -> Iterator[Setting]:
    """Yield the settings of the ends at a gateway, of one tunnel where it is named."""
    only = design.tunnel_by_id.get(tunnel_id)
    ends = [(only, side) for side in SIDES if only.end(side).gateway_id == gateway_id] if only else ()
    for tunnel, side in ends if tunnel_id else design.ends_of_gateway(gateway_id):
        for field in end_fields(tunnel.end(side)):
            path = f"tunnel/{tunnel.id}/{side.value}/{field}"
            yield from _setting(design, tunnel, path, f"{side.value}/{field}", tunnel.end(side), field)


def _setting(design: Design, item: Gateway | Tunnel, path: str, at: str, holder: FrozenModel, field: str) -> Iterator[Setting]:
    text = WrittenObject(item, design).field(at, getattr(holder, field))
    if text != ABSENT:
        title = str(type(holder).model_fields[field].title)
        yield Setting(path=path, title=f"{item.name}: {title}" if isinstance(item, Tunnel) else title, text=text)


def _of_routes(design: Design, gateway_id: str) -> Iterator[Setting]:
    """Yield one setting for each prefix: the ways to it, in the order of their metrics."""
    by_prefix: dict[str, list[Route]] = {}
    for route in design.routes:
        if route.gateway_id == gateway_id:
            table = f"{route.network_id}/" if route.network_id else ""
            by_prefix.setdefault(f"{table}{route.prefix}", []).append(route)
    for prefix, routes in by_prefix.items():
        ways = [_way(design, route) for route in sorted(routes, key=lambda candidate: (candidate.metric, candidate.id))]
        yield Setting(path=f"gateway/{gateway_id}/route/{prefix}", title=f"Route to {prefix}", text="; ".join(ways))


def _way(design: Design, route: Route) -> str:
    written_route = WrittenObject(route, design)
    hop = next((field for field in ("tunnel_id", "uplink_id", "via") if getattr(route, field)), "")
    kind = {"tunnel_id": "tunnel ", "uplink_id": "uplink ", "via": ""}.get(hop, "the gateway")
    name = written_route.field(hop, getattr(route, hop)) if hop else ""
    return f"by {kind}{name}{f' metric {route.metric}' if route.metric else ''}"


def _of_lists(design: Design, gateway_id: str) -> Iterator[Setting]:
    items: tuple[Rule | Filter | Translation, ...] = (*design.rules, *design.filters, *design.translations)
    for item in items:
        if item.gateway_id == gateway_id:
            kind = _KIND_OF[type(item)]
            path = f"gateway/{gateway_id}/{kind.value}/{item.id}"
            yield Setting(path=path, title=f"{kind.label.capitalize()} {item.name}", text=_summary(design, item))


_KIND_OF: Final[dict[type[Rule | Filter | Translation], ObjectType]] = {
    Rule: ObjectType.RULE,
    Filter: ObjectType.FILTER,
    Translation: ObjectType.TRANSLATION,
}


# kinds of which a device holds objects by their ids, each as one worded setting
POLICIES: Final = tuple(kind.value for kind in _KIND_OF.values())


def _summary(design: Design, item: DesignObject) -> str:
    words = WrittenObject(item, design)
    fields = (name for name in type(item).model_fields if name not in ("id", "name", "gateway_id"))
    told = ((type(item).model_fields[name].title or name, words.field(name, getattr(item, name))) for name in fields)
    return ", ".join(f"{title} {text}" for title, text in told if text != ABSENT)


_MODELS: Final[dict[str, type[FrozenModel]]] = {"tunnel": TunnelEnd, "gateway": Gateway}


@cache
def field_adapter(model: type[FrozenModel], field: str) -> TypeAdapter[Any]:
    """Return what reads the value of a field by itself."""
    return TypeAdapter(model.model_fields[field].rebuild_annotation())


def text_of(path: str, value: Any) -> str:
    """Return a value that was read at a path in the words of the design.

    It may come in these words already, or as a design file has it; what is neither is shown as it was read.
    """
    parts = path.split("/")
    model = _MODELS.get(parts[0])
    if model is None or len(parts) not in (3, 4) or parts[-1] not in model.model_fields:
        return _plain(value)
    try:
        return written(field_adapter(model, parts[-1]).validate_python(value))
    except ValidationError:
        return _plain(value)


def _plain(value: Any) -> str:
    if value is None or value in ("", [], {}):
        return ABSENT
    if isinstance(value, bool):
        return "yes" if value else "no"
    return "; ".join(map(_plain, value)) if isinstance(value, list) else str(value)
