"""The routes, rules and filters of a gateway as commands of a Linux machine: `ip route`, `ip rule`, `sysctl` and `nft`.

Each policy rule of the gateway gets a routing table of its own: its paths as default routes in their order, by metric, and
for one that holds an unreachable route behind them. A path that goes down takes its route along; a table in which nothing
is left lets the next rule be asked (ip-rule(8)). What the kernel's rules can't ask for, the class of a packet, is asked in a
table of nftables, which leaves a bit of the mark for it. Applying a plan twice changes nothing the second time.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import count
from typing import Final

from pydantic import Field

from pontifex.core.addressing import Family, Selector
from pontifex.core.addressing.selector import ANY_PORT, ANY_PROTOCOL
from pontifex.core.handover.nft import nft_table
from pontifex.core.model import Mode, OnFailure, Outranking, PathType, Route, Technology, TranslatedSide
from pontifex.core.routing.tables import Clause, GatewayTable, Tables, prefixes_of
from pontifex.core.value import Value

FIRST_PREFERENCE: Final = 1000  # of the kernel's rules; one for each combination of source and destination follows
_FIRST_TABLE: Final = 1000
_WITH_PORTS: Final = (6, 17, 132)  # TCP, UDP, SCTP
_DEFAULT_METRIC: Final = 1000  # added to the order of an uplink
_HOLD_METRIC: Final = 4_294_967_294
_LONGEST_DEVICE: Final = 15  # characters, IFNAMSIZ less the closing zero
_STATE: Final = "${PONTIFEX_STATE:-/run/pontifex}"
_IP: Final = {Family.V4: "ip", Family.V6: "ip -6"}


class LinuxPlan(Value):
    """Commands for a shell, and those that take them back."""

    devices: dict[str, str] = Field(title="Devices", description="Name of the interface of each tunnel and uplink, by id.")
    apply: tuple[str, ...] = Field(title="Commands")
    back: tuple[str, ...] = Field(title="The way back")
    remarks: tuple[str, ...] = Field(title="What the plan leaves to others")


@dataclass(frozen=True, slots=True)
class NextHops:
    """What the design doesn't know: interfaces by the id of their tunnel or uplink, and providers' routers by uplink."""

    devices: dict[str, str]
    routers: dict[str, str]


def linux_plan(
    tables: Tables, gateway_id: str, devices: dict[str, str] | None = None, routers: dict[str, str] | None = None
) -> LinuxPlan:
    """Return the plan of a gateway. `devices` and `routers` stand in for names and addresses that the design doesn't know."""
    table = tables.of(tables.design.gateway_by_id[gateway_id])
    named = _devices(tables, table) | (devices or {})
    hops = NextHops(named, routers or {})
    steps = [*_switches(table), *_routes(tables, table, hops), *_rules(table, hops), *_packets(tables, table, hops)]
    return LinuxPlan.of(
        devices=named,
        apply=(f'mkdir -p "{_STATE}"', *(line for apply, _ in steps for line in apply)),
        back=tuple(line for _, back in reversed(steps) for line in back),
        remarks=tuple(_remarks(table)),
    )


_Step = tuple[list[str], list[str]]  # what applies it, and what takes it back


def _devices(tables: Tables, table: GatewayTable) -> dict[str, str]:
    ids = [tunnel.id for tunnel, _ in table.tunnels] + [one.id for one in tables.uplinks_of.get(table.gateway.id, ())]
    found: dict[str, str] = {}
    for id_ in ids:
        names = (f"{id_[: _LONGEST_DEVICE - len(end)].rstrip('-')}{end}" for end in ("", *map(str, range(2, 100))))
        found[id_] = next(name for name in names if name not in found.values())
    return found


def _families(table: GatewayTable) -> list[Family]:
    """Return the families that the site's networks are of; IPv4 where it has none yet."""
    return [family for family in Family if any(one.prefix.family is family for one in table.networks)] or [Family.V4]


def _switches(table: GatewayTable) -> Iterator[_Step]:
    """Forwarding as the design has it; and answers may come by another way than a rule sends requests (RFC 3704 section 2.4)."""
    on = "1" if table.gateway.forwarding else "0"
    keys = {"net.ipv4.ip_forward": on, "net.ipv4.conf.all.rp_filter": "2"}
    if Family.V6 in _families(table):
        keys["net.ipv6.conf.all.forwarding"] = on
    for key, value in keys.items():
        kept = f'"{_STATE}/{key}"'
        yield (
            [f"[ -e {kept} ] || sysctl -n {key} > {kept}", f"sysctl -qw {key}={value}"],
            [f'[ ! -e {kept} ] || sysctl -qw {key}="$(cat {kept})"', f"rm -f {kept}"],
        )


def _routes(tables: Tables, table: GatewayTable, hops: NextHops) -> Iterator[_Step]:
    for route in tables.routes_of.get(table.gateway.id, ()):
        if route.network_id is None:
            yield _put(_IP[route.prefix.family], f"{route.prefix}", _hop(route, hops), f"metric {route.metric}")
    for uplink in tables.uplinks_of.get(table.gateway.id, ()):
        metric = f"metric {_DEFAULT_METRIC + uplink.preference}"
        for family in _families(table):
            yield _put(_IP[family], "default", _by_uplink(uplink.id, hops), metric)


def _put(ip: str, prefix: str, hop: str, rest: str) -> _Step:
    what = f"{prefix} {hop} {rest}"
    return [f"{ip} route replace {what}"], [f"{ip} route del {what} 2>/dev/null || true"]


def _hop(route: Route, hops: NextHops) -> str:
    if route.via:
        return f"via {route.via}"
    if route.tunnel_id:
        return f"dev {hops.devices.get(route.tunnel_id, route.tunnel_id)}"
    return _by_uplink(route.uplink_id or "", hops)


def _by_uplink(uplink_id: str, hops: NextHops) -> str:
    router = hops.routers.get(uplink_id)
    return f"{f'via {router} ' if router else ''}dev {hops.devices.get(uplink_id, uplink_id)}"


def _rules(table: GatewayTable, hops: NextHops) -> Iterator[_Step]:
    """One table for each rule, and kernel rules that lead there; before them whatever outranks the rules."""
    preference = count(FIRST_PREFERENCE)
    if table.gateway.outranking is Outranking.SPECIFIC:
        for family in _families(table):
            yield _rule(_IP[family], next(preference), "table main suppress_prefixlength 0")
    elif table.gateway.outranking is Outranking.CONNECTED:
        for network in table.networks:
            yield _rule(_IP[network.prefix.family], next(preference), f"to {network.prefix} table main")
    classes = 0
    for place, clause in enumerate(table.clauses):
        number = _FIRST_TABLE + place
        mark = ""
        if clause.classes is not None:
            mark = f"fwmark {1 << classes:#x}/{1 << classes:#x} "
            classes += 1
        if clause.rule.paths or clause.rule.on_failure is OnFailure.HOLD:
            matches = [one for one in _matches(clause) if one[0] in _families(table)]
            yield from _table(clause, number, hops, {family for family, _ in matches})
            for family, words in matches:
                yield _rule(_IP[family], next(preference), f"{words}{mark}table {number}")


def _rule(ip: str, preference: int, words: str) -> _Step:
    gone = f"{ip} rule del pref {preference} 2>/dev/null || true"
    return [gone, f"{ip} rule add pref {preference} {words}"], [gone]


def _table(clause: Clause, number: int, hops: NextHops, families: set[Family]) -> Iterator[_Step]:
    for family in sorted(families, key=lambda one: one.bits):
        ip = _IP[family]
        lines = [f"{ip} route flush table {number} 2>/dev/null || true"]
        for order, path in enumerate(clause.rule.paths, start=1):
            hop = _by_uplink(path.id, hops) if path.type is PathType.UPLINK else f"dev {hops.devices.get(path.id, path.id)}"
            # a path that is down is left out; applying the plan again when it is up puts it in
            lines.append(f"{ip} route replace default {hop} metric {order} table {number} 2>/dev/null || true")
        if clause.rule.on_failure is OnFailure.HOLD:
            lines.append(f"{ip} route replace unreachable default metric {_HOLD_METRIC} table {number}")
        yield lines, [f"{ip} route flush table {number} 2>/dev/null || true"]


def _matches(clause: Clause) -> Iterator[tuple[Family, str]]:
    """Yield what the kernel's rules are to ask for, a line for each combination of source and destination."""
    for family in Family:
        everything = Selector(family, 0, family.last)
        sources = [None] if clause.sources is None else [one for one in clause.sources if one.family is family]
        boxes = [everything] if clause.destinations is None else [one for one in clause.destinations if one.family is family]
        for source in sources:
            for box in boxes:
                for target in prefixes_of(box):
                    for words in _services(box):
                        to = "" if target.length == 0 else f"to {target} "
                        yield family, f"{f'from {source} ' if source else ''}{to}{words}"


def _services(box: Selector) -> list[str]:
    """Return how protocol and ports are asked for: one protocol a line, and ports only of those that have them."""
    if box.protocols == ANY_PROTOCOL and box.ports == ANY_PORT:
        return [""]
    low, high = box.protocols
    if box.ports == ANY_PORT:
        return [f"ipproto {protocol} " for protocol in range(low, high + 1)]
    return [f"ipproto {one} dport {box.ports[0]}-{box.ports[1]} " for one in _WITH_PORTS if low <= one <= high]


def _packets(tables: Tables, table: GatewayTable, hops: NextHops) -> Iterator[_Step]:
    """What is done to packets themselves: classes, filters, translations; in one table that is put as a whole."""
    lines = nft_table(tables, table, hops.devices)
    gone = "nft delete table inet pontifex 2>/dev/null || true"
    if lines:
        yield ["nft -f - <<'END'", "table inet pontifex", "delete table inet pontifex", *lines, "END"], [gone]


def _remarks(table: GatewayTable) -> Iterator[str]:
    for tunnel, side in table.tunnels:
        end = tunnel.end(side)
        if end.mode is not Mode.ROUTE and end.technology is not Technology.CLOUD_PEERING and end.remote_networks:
            yield f"{tunnel.name} goes by its networks: whatever ends the tunnel sends them there, and no route here does"
    for one in table.translations:
        if one.side is TranslatedSide.FAR:  # netfilter translates a destination before it is routed, and not after
            yield f"the translation {one.name} shows far addresses otherwise here, which is left to whatever ends the tunnel"
    for clause in table.clauses:
        if any(path.most_delay_ms or path.most_jitter_ms or path.most_loss_percent for path in clause.rule.paths):
            yield f"the limits of rule {clause.rule.name} need something that measures its paths, and takes routes out of table"
            break
