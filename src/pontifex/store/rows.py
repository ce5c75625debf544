"""Between rows and objects: the only place that knows both."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from ipaddress import IPv4Address, IPv4Interface, IPv4Network, IPv6Address, IPv6Interface, IPv6Network
from typing import Any, Final

from sqlalchemy import Connection, Table, Text, any_, cast, delete, insert, select
from sqlalchemy.dialects.postgresql import ARRAY

from pontifex.core.kinds import (
    KIND_BY_TYPE,
    SIDES,
    DesignMember,
    ObjectType,
    Tunnel,
    TunnelEnd,
)
from pontifex.core.model import Design, DesignSettings, Put, Remove
from pontifex.core.model.operations import target
from pontifex.store import tables

Row = dict[str, Any]

_SETTINGS_FIELDS: Final = ("policies", "policy_id", "planning_horizon_days")


def load_design(connection: Connection, design_id: str) -> Design | None:
    """Read a design as it stands, or None. The caller's transaction decides which state that is."""
    is_it = (tables.design.c.id == design_id) & tables.design.c.deleted_at.is_(None)
    head = connection.execute(select(tables.design).where(is_it)).mappings().first()
    if head is None:
        return None
    supernets = _select(connection, tables.supernet, design_id, "position")
    lists = {
        KIND_BY_TYPE[type_].members: [
            _plain_of(row, KIND_BY_TYPE[type_].model) for row in _select(connection, table, design_id, "id")
        ]
        for type_, table in tables.plain.items()
    }
    return Design.model_validate(
        {
            "id": design_id,
            "incarnation": head["incarnation"],
            "revision": head["revision"],
            "name": head["name"],
            "key_salt": head["key_salt"],
            **{field: head[field] for field in _SETTINGS_FIELDS},
            "supernets": [str(row["prefix"]) for row in supernets],
            "tunnels": _load_tunnels(connection, design_id),
            **{name: sorted(items, key=lambda item: item.id) for name, items in lists.items()},
        }
    )


def write_operations(connection: Connection, design_id: str, operations: Iterable[Put | Remove]) -> None:
    """Carry out operations that the core has applied already. Objects that are put are written anew."""
    puts: dict[ObjectType, list[Any]] = defaultdict(list)
    gone: dict[ObjectType, list[str]] = defaultdict(list)
    for operation in operations:
        type_, id_ = target(operation)
        gone[type_].append(id_)
        if not isinstance(operation, Remove):
            puts[type_].append(operation.object)
    for type_, ids in gone.items():
        if type_ is not ObjectType.SETTINGS:
            table = tables.tunnel if type_ is ObjectType.TUNNEL else tables.plain[type_]
            is_gone = table.c.id == any_(cast(ids, ARRAY(Text)))  # one parameter, however many they are
            connection.execute(delete(table).where(table.c.design_id == design_id, is_gone))
    for settings in puts.pop(ObjectType.SETTINGS, []):
        _write_settings(connection, design_id, settings)
    _write_tunnels(connection, design_id, puts.pop(ObjectType.TUNNEL, []))
    for type_, items in puts.items():
        rows = [{"design_id": design_id, **item.model_dump(mode="json")} for item in items]
        connection.execute(insert(tables.plain[type_]), rows)


def _select(connection: Connection, table: Table, design_id: str, *order: str) -> Sequence[Any]:
    query = select(table).where(table.c.design_id == design_id).order_by(*(table.c[column] for column in order))
    return connection.execute(query).mappings().all()


def _plain_of(row: Any, model: type[DesignMember]) -> DesignMember:
    return model.model_validate({field: _as_text(row[field]) for field in model.model_fields})


def _as_text(value: Any) -> Any:
    """Return an address or prefix of the database's own type as the text that the model reads."""
    if isinstance(value, IPv4Address | IPv6Address | IPv4Network | IPv6Network):
        return str(value)
    return str(value.ip) if isinstance(value, IPv4Interface | IPv6Interface) else value


def settings_row(settings: DesignSettings) -> Row:
    """Return the columns of the design's own row that its settings fill."""
    dumped = settings.model_dump(mode="json")
    return {field: dumped[field] for field in ("name", *_SETTINGS_FIELDS)}


def _write_settings(connection: Connection, design_id: str, settings: DesignSettings) -> None:
    connection.execute(tables.design.update().where(tables.design.c.id == design_id).values(settings_row(settings)))
    connection.execute(delete(tables.supernet).where(tables.supernet.c.design_id == design_id))
    rows = [{"design_id": design_id, "position": k, "prefix": str(prefix)} for k, prefix in enumerate(settings.supernets)]
    if rows:
        connection.execute(insert(tables.supernet), rows)


_KEY_FIELDS: Final = ("reference", "fingerprint", "trimmed", "folded", "length", "start", "end", "strength_bits", "weakness")
_TUNNEL_FIELDS: Final = ("id", "name", "standard_id", "exceptions")
_END_FIELDS: Final = ("gateway_id", "uplink_id", "role", "peer_address", "ike_lifetime_s", "child_lifetime_s")
_DIRECTIONS: Final = ("local", "remote")
_IN_OTHER_COLUMNS: Final = {"local_identity", "remote_identity", "key", "local_networks", "remote_networks"}
_LISTS: Final = {"ike": "ike_proposals", "esp": "child_proposals"}
_DETAILS: Final = TunnelEnd.model_fields.keys() - {*_END_FIELDS, *_IN_OTHER_COLUMNS, *_LISTS.values()}


def _write_tunnels(connection: Connection, design_id: str, tunnels: Sequence[Tunnel]) -> None:
    rows: dict[Table, list[Row]] = {tables.tunnel: [], tables.tunnel_end: [], tables.selector: [], tables.proposal_transform: []}
    for tunnel in tunnels:
        dumped = tunnel.model_dump(mode="json")
        rows[tables.tunnel].append({"design_id": design_id, **{f: dumped[f] for f in _TUNNEL_FIELDS}})
        for side in SIDES:
            key = {"design_id": design_id, "tunnel_id": tunnel.id, "side": side.value}
            end = dumped[side.value]
            rows[tables.tunnel_end].append({**key, **_end_row(end)})
            rows[tables.selector] += [
                {**key, "direction": direction, "position": k, "selector": selector}
                for direction in _DIRECTIONS
                for k, selector in enumerate(end[f"{direction}_networks"])
            ]
            rows[tables.proposal_transform] += [{**key, **row} for row in _transform_rows(end)]
    for table, found in rows.items():
        if found:
            connection.execute(insert(table), found)


def _end_row(end: Row) -> Row:
    row = {field: end[field] for field in _END_FIELDS}
    for field in ("local_identity", "remote_identity"):
        identity = end[field] or {}
        row |= {f"{field}_type": identity.get("type"), f"{field}_value": identity.get("value")}
    row["details"] = {field: end[field] for field in _DETAILS}
    return row | {f"key_{field}": (end["key"] or {}).get(field) for field in _KEY_FIELDS}


def _transform_rows(end: Row) -> list[Row]:
    empty = {"position": -1, "type": None, "transform_id": None, "key_length": None}
    rows = []
    for protocol, field in _LISTS.items():
        for number, proposal in enumerate(end[field]):
            transforms = [
                {"position": k, "type": t["type"], "transform_id": t["id"], "key_length": t["key_length"]}
                for k, t in enumerate(proposal["transforms"])
            ]
            rows += [{"protocol": protocol, "proposal": number, **transform} for transform in transforms or [empty]]
    return rows


def _load_tunnels(connection: Connection, design_id: str) -> list[Row]:
    ends: dict[tuple[str, str], Row] = {}
    for row in _select(connection, tables.tunnel_end, design_id, "tunnel_id", "side"):
        ends[row["tunnel_id"], row["side"]] = _end_of(row)
    for row in _select(connection, tables.selector, design_id, "tunnel_id", "side", "direction", "position"):
        ends[row["tunnel_id"], row["side"]][f"{row['direction']}_networks"].append(row["selector"])
    order = ("tunnel_id", "side", "protocol", "proposal", "position")
    for row in _select(connection, tables.proposal_transform, design_id, *order):
        proposals = ends[row["tunnel_id"], row["side"]][_LISTS[row["protocol"]]]
        while len(proposals) <= row["proposal"]:
            proposals.append({"transforms": []})
        if row["type"] is not None:
            transform = {"type": row["type"], "id": row["transform_id"], "key_length": row["key_length"]}
            proposals[-1]["transforms"].append(transform)
    return sorted(
        (
            {field: row[field] for field in _TUNNEL_FIELDS} | {side.value: ends[row["id"], side.value] for side in SIDES}
            for row in _select(connection, tables.tunnel, design_id, "id")
        ),
        key=lambda row: str(row["id"]),
    )


def _end_of(row: Any) -> Row:
    end: Row = {field: row[field] for field in _END_FIELDS} | row["details"]
    for field in ("local_identity", "remote_identity"):
        if row[f"{field}_type"] is not None:
            end[field] = {"type": row[f"{field}_type"], "value": row[f"{field}_value"]}
    if row["key_reference"] is not None:
        end["key"] = {field: value for field in _KEY_FIELDS if (value := row[f"key_{field}"]) is not None}
    return end | {"local_networks": [], "remote_networks": [], "ike_proposals": [], "child_proposals": []}
