"""The routes, rules and filters of a gateway as commands of a Linux machine: `ip route`, `ip rule`, `sysctl` and `nft`.

Each policy rule of the gateway gets a routing table of its own: its paths as default routes in their order, by metric, and
for one that holds an unreachable route behind them. A path that goes down takes its route along; a table in which nothing
is left lets the next rule be asked (ip-rule(8)). Default routes stand in a table of their own, asked after everything
narrower, so that no default that the machine has already stands in their way. What depends on an interface that is down now
is put in as soon as it is up. What the kernel's rules can't ask for, the class of a packet, is asked in a table of nftables,
which leaves it in the mark. The machine's own packets, those that carry tunnels among them, go by routes alone. Applying a
plan twice changes nothing the second time, and nothing is touched that the plan doesn't name.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import count
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address, Family, Selector
from pontifex.core.addressing.selector import ANY_PORT, ANY_PROTOCOL, WITH_PORTS
from pontifex.core.handover.classes import MARK_MASK, Stages
from pontifex.core.handover.interfaces import Interfaces, Key, NamedInterface, Routers
from pontifex.core.handover.nft import nft_table
from pontifex.core.kinds import AddressKind, OnFailure, Outranking, Side, TranslatedSide, Tunnel
from pontifex.core.routing.tables.tables import GatewayTable, Origin, ResolvedRule, TableEntry, Tables, prefixes_of

FIRST_PREFERENCE: Final = 1000  # of the kernel's rules; one for each combination of source and destination follows
_FIRST_TABLE: Final = 1000  # of the rules' tables
_DEFAULTS: Final = 900  # table of the default routes
_CONNECTED: Final = 901  # table of the site's own networks, where these are asked before rules
# Of routes to one prefix the first gets the lowest metric. The kernel's own connected routes have 0, or 256 for IPv6.
_FIRST_METRIC: Final = 512
_HOLD_METRIC: Final = 4_294_967_294
_LAST_PORT: Final = 65_535
_STATE: Final = 'state="${PONTIFEX_STATE:-/run/pontifex}"'  # where a plan keeps what it needs to go back
_OWNER: Final = 112  # protocol of the plan's routes and rules, by which it knows its own again (ip-route(8), rtproto)
_IP: Final = {Family.V4: "ip -4", Family.V6: "ip -6"}
_NARROWER: Final = "table main suppress_prefixlength 0"  # all that the main table has but its defaults


@dataclass(frozen=True, slots=True, kw_only=True)
class LinuxPlan:
    """Commands for a shell, and those that take them back."""

    interfaces: Annotated[
        tuple[NamedInterface, ...],
        Field(title="Interfaces", description="As long as one that is needed has no name there are no commands."),
    ]
    apply: Annotated[tuple[str, ...], Field(title="Commands")]
    back: Annotated[tuple[str, ...], Field(title="The way back")]
    remarks: Annotated[tuple[str, ...], Field(title="What the plan leaves to others")]


_Step = tuple[list[str], list[str]]  # what applies it, and what takes it back


@dataclass(frozen=True, slots=True)
class _Planning:
    """One gateway, and what its interfaces are called."""

    tables: Tables
    table: GatewayTable
    interfaces: Interfaces
    families: tuple[Family, ...]


def linux_plan(tables: Tables, gateway_id: str, names: dict[Key, str] | None = None, routers: Routers | None = None) -> LinuxPlan:
    """Return the plan of a gateway.

    `names` are interfaces by type and id of their tunnel, uplink or network, beside those that the design has; `routers` are
    the addresses of providers' routers by uplink, one a family, which the design doesn't know.
    """
    table = tables.of(tables.design.gateway_by_id[gateway_id])
    interfaces = Interfaces.of(tables, table, names or {}, routers or {})
    if interfaces.lacking:
        return LinuxPlan(interfaces=interfaces.all, apply=(), back=(), remarks=())
    planning = _Planning(tables, table, interfaces, _families(tables))
    rules = [f"{line} protocol {_OWNER}" for line in _rules(planning)]
    steps = [*_switches(planning), _fresh(planning), _links(planning), (rules, []), *_packets(planning), _watcher()]
    return LinuxPlan(
        interfaces=interfaces.all,
        apply=(_STATE, 'mkdir -p "$state"', *_SWITCHES, *(line for apply, _ in steps for line in apply)),
        back=(_STATE, *_SWITCHES, *(line for _, back in reversed(steps) for line in back)),
        remarks=tuple(_remarks(planning)),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class LinuxParts:
    """What a plan is made of, as files that outlive a restart need it. Each is in the words of its command."""

    switches: dict[str, str]  # of sysctl, by their names
    routes: tuple[LinuxRoute, ...]
    rules: tuple[str, ...]
    packets: tuple[str, ...]  # lines of nft


def linux_parts(tables: Tables, gateway_id: str, names: dict[Key, str], routers: Routers) -> LinuxParts | None:
    """Return the parts of what `linux_plan` returns; None as long as an interface that is needed has no name."""
    table = tables.of(tables.design.gateway_by_id[gateway_id])
    interfaces = Interfaces.of(tables, table, names, routers)
    if interfaces.lacking:
        return None
    planning = _Planning(tables, table, interfaces, _families(tables))
    return LinuxParts(
        switches=_switch_values(planning),
        routes=tuple(_linked(planning)),
        rules=tuple(_rules(planning)),
        packets=tuple(nft_table(table, interfaces)),
    )


def _families(tables: Tables) -> tuple[Family, ...]:
    """Return the families that may pass anywhere: a hub passes on what its own site has no networks of."""
    used = {network.prefix.family for network in tables.design.networks}
    return tuple(family for family in Family if family in used) or (Family.V4,)


def _switch_values(planning: _Planning) -> dict[str, str]:
    """Forwarding as the design has it; and no check of the way back, which may be another one by design (RFC 3704 section 2)."""
    on = "1" if planning.table.gateway.forwarding else "0"
    keys = {"net.ipv4.ip_forward": on, "net.ipv4.conf.all.rp_filter": "0"}
    loose = planning.interfaces.uplinks
    for name in (*planning.interfaces.networks, *planning.interfaces.tunnels, *loose):
        keys[f"net.ipv4.conf.{name.replace('.', '/')}.rp_filter"] = "2" if name in loose else "0"
    if Family.V6 in planning.families:
        keys["net.ipv6.conf.all.forwarding"] = on
    return keys


def _switches(planning: _Planning) -> Iterator[_Step]:
    for key, value in _switch_values(planning).items():
        yield [f"switch {key} {value}"], [f"restore {key}"]


_SWITCHES: Final = (  # what the machine doesn't have is left alone; what it had is kept for the way back
    'kept() { echo "$state/$(echo "$1" | tr / _)"; }',
    'switch() { [ -e "$(kept "$1")" ] || sysctl -n "$1" > "$(kept "$1")" 2>/dev/null || { rm -f "$(kept "$1")"; return 0; }; '
    'sysctl -qw "$1=$2"; }',
    'restore() { [ ! -e "$(kept "$1")" ] || sysctl -qw "$1=$(cat "$(kept "$1")")" || true; rm -f "$(kept "$1")"; }',
)


# What goes by interfaces, which come and go


@dataclass(frozen=True, slots=True)
class LinuxRoute:
    """A route of the kernel: it stands while its device is up, or its next hop is reached."""

    family: Family
    device: str  # empty where the next hop says it
    words: str
    table: str = "main"


def _linked(planning: _Planning) -> Iterator[LinuxRoute]:
    yield from _routes(planning)
    yield from dict.fromkeys(_around(planning))  # several tunnels may have one peer
    if planning.table.gateway.outranking is Outranking.CONNECTED:
        for network in planning.table.networks:
            device = planning.interfaces.network(network.id) or ""
            yield LinuxRoute(network.prefix.family, device, f"{network.prefix} dev {device}", str(_CONNECTED))
        for tunnel, side in planning.table.tunnels:
            device, inner = planning.interfaces.tunnel(tunnel.id), tunnel.end(side).inner_address
            if inner:
                yield LinuxRoute(inner.family, device, f"{inner.prefix} dev {device}", str(_CONNECTED))
    for place, clause in enumerate(planning.table.clauses):
        for family in sorted(
            {family for family, _ in _matches(clause)} & set(planning.families), key=lambda version: version.bits
        ):
            yield from _paths(planning, clause, family, _FIRST_TABLE + place)


def _routes(planning: _Planning) -> Iterator[LinuxRoute]:
    """Static before learnt, the lower metric and the first before others; defaults apart, the uplinks' last."""
    places: Counter[str] = Counter()
    for entry in planning.table.entries:
        known = entry.origin in (Origin.STATIC, Origin.LEARNT, Origin.DEFAULT)
        hop = _hop(planning, entry) if known and entry.to.family in planning.families else None
        if hop is None:
            continue
        prefix = "default" if entry.length <= 0 else str(entry.to)
        where = f"{prefix} {entry.to.family.bits}"
        metric = _FIRST_METRIC + places[where]
        places[where] += 1
        table = str(_DEFAULTS) if entry.length <= 0 else "main"
        yield LinuxRoute(entry.to.family, hop[0], f"{prefix} {hop[1]} metric {metric}", table)


def _hop(planning: _Planning, entry: TableEntry) -> tuple[str, str] | None:
    """Return the device and the words of a next hop; None for a route that no device takes up."""
    if entry.tunnel:
        device = planning.interfaces.tunnel(entry.tunnel.id) if entry.side else ""
        return (device, f"dev {device}") if device else None
    if entry.uplink:
        if entry.uplink.gateway_id != planning.table.gateway.id:
            return None
        return planning.interfaces.by_uplink(entry.uplink.id, entry.to.family)
    networks = planning.tables.design.networks_of_site(planning.table.gateway.site_id)
    held = entry.via and any(network.prefix.holds(entry.via) for network in networks)
    return ("", f"via {entry.via}") if held else None


def _around(planning: _Planning) -> Iterator[LinuxRoute]:
    """What carries a tunnel must not go into one: where a way into a tunnel holds a peer's address, a route goes around it."""
    for tunnel, side, peer in _peers_within(planning):
        uplink = planning.tables.design.uplink_of(tunnel.end(side))
        if uplink:
            device, words = planning.interfaces.by_uplink(uplink.id, peer.family)
            yield LinuxRoute(peer.family, device, f"{peer} {words} metric {_FIRST_METRIC}")


def _peers_within(planning: _Planning) -> Iterator[tuple[Tunnel, Side, Address]]:
    """Yield the tunnels whose peer's outside address is in what goes into some tunnel."""
    into = [entry for entry in planning.table.entries if entry.tunnel and entry.side]
    for tunnel, side in planning.table.tunnels:
        peer = planning.tables.design.peer_outside(tunnel, side)
        if peer and any(entry.to.holds(peer) for entry in into):
            yield tunnel, side, peer


def _paths(planning: _Planning, clause: ResolvedRule, family: Family, number: int) -> Iterator[LinuxRoute]:
    for order, path in enumerate(clause.rule.paths, start=1):
        hop = planning.interfaces.by_path(path, family)
        if hop:
            yield LinuxRoute(family, hop[0], f"default {hop[1]} metric {order}", str(number))
    if clause.rule.on_failure is OnFailure.HOLD:
        yield LinuxRoute(family, "", f"unreachable default metric {_HOLD_METRIC}", str(number))


_LINKS: Final = (
    # a route whose device is down, or whose next hop isn't there yet, waits until it is
    'up() { [ -z "$1" ] || [ -n "$(ip -o link show dev "$1" up 2>/dev/null)" ]; }',
    'route() { device=$1; shift; ! up "$device" || "$@" || echo "for later: $*" >&2; }',
)


def _fresh(planning: _Planning) -> _Step:
    """Take out what an earlier plan has put in, and nothing else."""
    lines = [
        line
        for family in planning.families
        for line in (f"{_IP[family]} rule flush protocol {_OWNER}", f"{_IP[family]} route flush table all proto {_OWNER}")
    ]
    return lines, lines


def _links(planning: _Planning) -> _Step:
    """Keep what goes by interfaces as a script of its own, which runs now and whenever one comes up."""
    lines = [
        f'route "{route.device}" {_IP[route.family]} route replace {route.words}'
        f"{'' if route.table == 'main' else f' table {route.table}'} proto {_OWNER}"
        for route in _linked(planning)
    ]
    script = '"$state/links"'
    return [f"cat > {script} <<'END'", *_LINKS, *lines, "END", f"sh {script}"], [f"rm -f {script}"]


def _watcher() -> _Step:
    """Put in what has waited for an interface as soon as one comes up."""
    kept, script = '"$state/watcher"', '"$state/links"'
    alive = f'[ -e {kept} ] && kill -0 "$(cat {kept})" 2>/dev/null'
    watch = f"""setsid sh -c 'ip -o monitor link | while read -r line; do sh "$1"; done' watcher {script} >/dev/null 2>&1 &"""
    return (
        [f"{alive} || {{ {watch} echo $! > {kept}; }}"],
        [f'! {{ {alive}; }} || kill -- "-$(cat {kept})" 2>/dev/null || true', f"rm -f {kept}"],
    )


# Rules


def _rules(planning: _Planning) -> Iterator[str]:
    """The machine's own packets go by routes alone; then what is asked before rules, the rules, and the routes."""
    preference = count(FIRST_PREFERENCE)
    for words in (f"iif lo {_NARROWER}", f"iif lo table {_DEFAULTS}"):
        yield from _rule(planning, next(preference), words)
    if planning.table.gateway.outranking is Outranking.SPECIFIC:
        yield from _rule(planning, next(preference), _NARROWER)
    elif planning.table.gateway.outranking is Outranking.CONNECTED:
        yield from _rule(planning, next(preference), f"table {_CONNECTED}")
    stages = Stages(planning.table.clauses)
    for place, clause in enumerate(planning.table.clauses):
        if clause.rule.paths or clause.rule.on_failure is OnFailure.HOLD:
            yield from _clause(planning, clause, _FIRST_TABLE + place, stages.marks(place), preference)
    for words in (_NARROWER, f"table {_DEFAULTS}"):
        yield from _rule(planning, next(preference), words)


def _rule(planning: _Planning, preference: int, words: str) -> Iterator[str]:
    yield from (f"{_IP[family]} rule add pref {preference} {words}" for family in planning.families)


def _clause(
    planning: _Planning, clause: ResolvedRule, table: int, marks: tuple[int, ...] | None, preference: Iterator[int]
) -> Iterator[str]:
    """One kernel rule for each source, destination, protocol and class."""
    asked = [""] if marks is None else [f"fwmark {mark:#x}/{MARK_MASK << _shift(mark):#x} " for mark in marks]
    for family, match in _matches(clause):
        if family not in planning.families:
            continue
        add = f"{_IP[family]} rule add pref"
        for mark in asked:
            if match.below:  # the kernel's rules can't ask for the last port: what is below the first is led past
                number = next(preference)
                yield f"{add} {number} {match.words}{mark}dport 1-{match.below} goto {number + 2}"
            yield f"{add} {next(preference)} {match.words}{mark}{match.ports}table {table}"


def _shift(mark: int) -> int:
    """Return the place of the field of a mark that is set, in bits."""
    return next(shift for shift in Stages.SHIFTS if mark >> shift & MARK_MASK and not mark & ~(MARK_MASK << shift))


@dataclass(frozen=True, slots=True)
class _Match:
    """What one kernel rule asks for."""

    words: str = ""
    ports: str = ""
    below: int = 0  # the highest port that it is not about, where it is about all above


def _matches(clause: ResolvedRule) -> Iterator[tuple[Family, _Match]]:
    """Yield what the kernel's rules are to ask for, one for each combination of source and destination."""
    for family in Family:
        everything = Selector(family, 0, family.last)
        sources = [None] if clause.sources is None else [prefix for prefix in clause.sources if prefix.family is family]
        boxes = (
            [everything]
            if clause.destinations is None
            else [destination for destination in clause.destinations if destination.family is family]
        )
        for source in sources:
            for box in boxes:
                for target in prefixes_of(box):
                    to = "" if target.length == 0 else f"to {target} "
                    words = f"{f'from {source} ' if source else ''}{to}"
                    for match in _services(box, words):
                        yield family, match


def _services(box: Selector, words: str) -> Iterator[_Match]:
    """Yield how protocol and ports are asked for: one protocol a rule, and ports only of those that have them."""
    low, high = box.protocols
    if box.ports == ANY_PORT:
        protocols = [""] if box.protocols == ANY_PROTOCOL else [f"ipproto {number} " for number in range(low, high + 1)]
        yield from (_Match(words + protocol) for protocol in protocols)
        return
    first, last = max(box.ports[0], 1), box.ports[1]
    for protocol in (number for number in sorted(WITH_PORTS) if low <= number <= high):
        about = f"{words}ipproto {protocol} "
        if last == _LAST_PORT:
            yield _Match(about, "", first - 1)
        elif last:
            yield _Match(about, f"dport {first}-{last} ")


def _packets(planning: _Planning) -> Iterator[_Step]:
    """What is done to packets themselves: classes, filters, translations; in one table that is put as a whole."""
    lines = nft_table(planning.table, planning.interfaces)
    gone = "nft delete table inet pontifex 2>/dev/null || true"
    if lines:
        yield ["nft -f - <<'END'", "table inet pontifex", "delete table inet pontifex", *lines, "END"], [gone]


def _remarks(planning: _Planning) -> Iterator[str]:
    table = planning.table
    for tunnel, side in table.tunnels:
        end = tunnel.end(side)
        if not end.goes_by_routes and end.remote_networks:
            yield f"{tunnel.name} goes by its networks: whatever ends the tunnel sends them there, and no route here does"
    for tunnel, side, _ in _peers_within(planning):
        far = planning.tables.design.uplink_of(tunnel.end(side.other))
        if far and far.address_kind is AddressKind.CHANGING_PUBLIC:
            yield f"a route around {tunnel.name} to its peer has to be renewed when that address changes"
    for translation in table.translations:
        if translation.side is TranslatedSide.FAR:  # netfilter translates a destination before it is routed, and not after
            shows = f"the translation {translation.name} shows far addresses otherwise here"
            yield f"{shows}, which is left to whatever ends the tunnel"
    if table.translations and not table.gateway.keeps_state:
        yield f"{table.gateway.name} is said to keep no state; netfilter's translations keep one"
    for clause in table.clauses:
        if any(path.most_delay_ms or path.most_jitter_ms or path.most_loss_percent for path in clause.rule.paths):
            yield f"the limits of rule {clause.rule.name} need something that measures its paths, and takes routes out of table"
            break
    if Stages(table.clauses).too_many:
        yield "more classes are marked and asked for in turn than a mark has room for: the last ones are asked for together"
    unnamed = [network.name for network in table.networks if not planning.interfaces.network(network.id)]
    if unnamed:
        yield f"reverse-path filtering is left as it is on the interfaces of {', '.join(unnamed)}, whose names aren't known"
    yield "translation to an outside address at the uplinks, and what the machine itself lets in, are left as they are"
