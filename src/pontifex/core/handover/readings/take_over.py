"""Taking over into the design what a device has: the other way to mend a drift."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any

from pydantic import Field, ValidationError

from pontifex.core.handover.readings.setting import POLICIES
from pontifex.core.handover.readings.understood import understood
from pontifex.core.kinds import Gateway, ObjectType, Route, Side, Tunnel, TunnelEnd, Uplink
from pontifex.core.model import Design, Operation, Remove, put
from pontifex.core.model.ids import fresh_id


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeOver:
    """A change of the design by which it has what the device has."""

    operations: Annotated[tuple[Operation, ...], Field(title="Operations")]


def take_over(design: Design, path: str, value: Any) -> TakeOver | None:
    """Return the change that takes a value of a field into the design; None for what the design has no such field or list for."""
    kind, id_, *rest = path.split("/")
    if kind == "tunnel" and len(rest) == 2 and rest[0] in {side.value for side in Side} and rest[1] in TunnelEnd.model_fields:
        tunnel = design.tunnel_by_id.get(id_)
        found = understood(TunnelEnd, rest[1], value)
        return _change(put(tunnel.with_field(Side(rest[0]), rest[1], found[0]))) if tunnel and found else None
    if kind == "gateway" and len(rest) == 1 and rest[0] in Gateway.model_fields:
        gateway = design.gateway_by_id.get(id_)
        found = understood(Gateway, rest[0], value)
        return _change(put(gateway.with_valid({rest[0]: found[0]}))) if gateway and found else None
    if kind == "gateway" and rest[0] == "route" and len(rest) in (3, 4):
        return _routes(design, id_, "/".join(rest[1:-2]) or None, "/".join(rest[-2:]), value)
    if kind == "gateway" and len(rest) == 2 and value is None and rest[0] in POLICIES:
        return _change(Remove(type=ObjectType(rest[0]), id=rest[1])) if rest[1] in design.by_type[ObjectType(rest[0])] else None
    return None


def _change(*operations: Operation) -> TakeOver | None:
    return TakeOver(operations=operations) if operations else None


def _routes(design: Design, gateway_id: str, network_id: str | None, prefix: str, value: Any) -> TakeOver | None:
    """Return the change by which a gateway has the ways to a prefix that are written so; None where one isn't understood."""
    held = [
        candidate
        for candidate in design.routes
        if (candidate.gateway_id, candidate.network_id, str(candidate.prefix)) == (gateway_id, network_id, prefix)
    ]
    ways = [_next_hop(design, way) for way in value.split("; ")] if isinstance(value, str) else []
    hops = [hop for hop in ways if hop is not None]
    if len(hops) < len(ways) or (value is not None and not ways):
        return None
    taken = {route.id for route in design.routes}
    operations: list[Operation] = []
    for hop in hops:
        old = next((candidate for candidate in held if _hop_of(candidate) == hop), None)
        if old is not None:
            held.remove(old)
            continue
        id_ = fresh_id(f"{gateway_id} {prefix}", taken)
        taken.add(id_)
        route = _valid_route({"id": id_, "gateway_id": gateway_id, "network_id": network_id, "prefix": prefix, **hop})
        if route is None:
            return None
        operations.append(put(route))
    return _change(*(Remove(type=ObjectType.ROUTE, id=route.id) for route in held), *operations)


def _hop_of(route: Route) -> dict[str, Any]:
    hop = {"tunnel_id": route.tunnel_id, "uplink_id": route.uplink_id, "via": str(route.via) if route.via else None}
    return {**{field: value for field, value in hop.items() if value}, "metric": route.metric}


def _valid_route(fields: dict[str, Any]) -> Route | None:
    try:
        return Route.model_validate(fields)
    except ValidationError:
        return None


def _next_hop(design: Design, way: str) -> dict[str, Any] | None:
    """Return next hop and metric of a way as `Setting` words it."""
    hop, _, metric = way.removeprefix("by ").partition(" metric ")
    if not way.startswith("by ") or (metric and not (metric.isascii() and metric.isdigit())):
        return None
    kind, _, name = hop.partition(" ")
    named: dict[str, tuple[str, Sequence[Tunnel | Uplink]]] = {
        "tunnel": ("tunnel_id", design.tunnels),
        "uplink": ("uplink_id", design.uplinks),
    }
    if kind in named and name:
        field, objects = named[kind]
        found = [candidate.id for candidate in objects if (candidate.name or candidate.id) == name]
        return {field: found[0], "metric": int(metric or 0)} if len(found) == 1 else None
    return {**({} if hop == "the gateway" else {"via": hop}), "metric": int(metric or 0)}
