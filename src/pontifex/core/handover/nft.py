"""A gateway's classes, filters and translations as a table of nftables (nft(8))."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from pontifex.core.addressing import Family, Prefix, Selector
from pontifex.core.addressing.selector import ANY_PORT, ANY_PROTOCOL
from pontifex.core.model import Filter, FilterDirection, Side, TranslatedSide, Translation, TranslationKind, Tunnel
from pontifex.core.routing.tables import Clause, GatewayTable, Tables

_WORD = {Family.V4: "ip", Family.V6: "ip6"}
_WITH_PORTS = {"tcp": 6, "udp": 17, "sctp": 132}


def nft_table(tables: Tables, table: GatewayTable, devices: dict[str, str]) -> list[str]:
    """Return the lines of the table; none where there is nothing to do."""
    tunnels = [devices[tunnel.id] for tunnel, _ in table.tunnels]
    uplinks = [devices[one.id] for one in tables.uplinks_of.get(table.gateway.id, ())]
    chains = [*_classes(table.clauses), *_filters(table.filters, tunnels, uplinks), *_translations(table, devices)]
    return ["table inet pontifex {", *chains, "}"] if chains else []


def _chain(name: str, hook: str, priority: str, lines: list[str], type_: str = "filter") -> list[str]:
    if not lines:
        return []
    head = f"    type {type_} hook {hook} priority {priority}; policy accept;"
    return [f"  chain {name} {{", head, *(f"    {line}" for line in lines), "  }"]


def _classes(clauses: Sequence[Clause]) -> list[str]:
    """Leave a bit of the mark for each rule that asks for a class, and mark as rules say, in the order of the rules."""
    lines = []
    bit = 0
    for clause in clauses:
        if clause.classes is not None:
            for family, word in _WORD.items():
                if family in _families(clause):
                    values = ", ".join(map(str, sorted(clause.classes)))
                    lines.append(f"{word} dscp {{ {values} }} meta mark set meta mark | {1 << bit:#x}")
            bit += 1
        if clause.marks is not None:
            classes = f"meta mark & {1 << (bit - 1):#x} != 0 " if clause.classes is not None else ""
            lines += [f"{words}{classes}{word} dscp set {clause.marks}" for word, words in _about(clause)]
    return _chain("classes", "prerouting", "mangle", lines)


def _families(clause: Clause) -> set[Family]:
    named = {one.family for one in clause.sources or ()} | {one.family for one in clause.destinations or ()}
    return named or set(Family)


def _about(clause: Clause) -> Iterator[tuple[str, str]]:
    for family, word in _WORD.items():
        sources = None if clause.sources is None else [one for one in clause.sources if one.family is family]
        boxes = None if clause.destinations is None else [one for one in clause.destinations if one.family is family]
        if sources == [] or boxes == []:
            continue
        for box in boxes if boxes is not None else [Selector(family, 0, family.last)]:
            yield word, _from(word, sources or ()) + _to(word, box)


def _from(word: str, sources: Sequence[Prefix]) -> str:
    return f"{word} saddr {{ {', '.join(map(str, sources))} }} " if sources else ""


def _to(word: str, box: Selector) -> str:
    """Write a destination with protocol and ports as nftables asks for them."""
    whole = (box.first, box.last) == (0, box.family.last)
    addresses = str(Selector(box.family, box.first, box.last))
    words = "" if whole else f"{word} daddr {addresses} "
    low, high = box.protocols
    if box.ports != ANY_PORT:
        some = ", ".join(name for name, number in _WITH_PORTS.items() if low <= number <= high)
        return f"{words}meta l4proto {{ {some} }} th dport {box.ports[0]}-{box.ports[1]} "
    return words if box.protocols == ANY_PROTOCOL else f"{words}meta l4proto {low}-{high} "


def _filters(filters: Sequence[Filter], tunnels: list[str], uplinks: list[str]) -> list[str]:
    """Let through what the filters of a direction name, and the answers to it; nothing else goes that way."""
    if not filters:
        return []
    inside, outside = _set(tunnels), _set([*tunnels, *uplinks])
    ways = {
        FilterDirection.IN: f"iifname {inside} oifname != {outside} ",
        FilterDirection.OUT: f"iifname != {inside} oifname {outside} ",
        FilterDirection.THROUGH: f"iifname {inside} oifname {outside} ",
    }
    lines = ["ct state established,related accept", "ct state invalid drop"]
    for direction, way in ways.items():
        rules = [one for one in filters if one.direction is direction]
        for one in rules:
            lines += [f"{way}{words}accept" for words in _named(one)]
        lines += [f"{way}drop"] if rules else []
    return _chain("filters", "forward", "filter", lines)


def _set(names: list[str]) -> str:
    quoted = ", ".join(f'"{name}"' for name in names or ["none"])
    return f"{{ {quoted} }}"


def _named(one: Filter) -> Iterator[str]:
    for family, word in _WORD.items():
        sources = [prefix for prefix in one.sources if prefix.family is family]
        boxes = [box for box in one.destinations if box.family is family]
        if (one.sources and not sources) or (one.destinations and not boxes):
            continue
        for box in boxes or [Selector(family, 0, family.last)]:
            yield _from(word, sources) + _to(word, box)


def _translations(table: GatewayTable, devices: dict[str, str]) -> list[str]:
    """Show a site's own addresses otherwise beyond a tunnel; those of the far side are left to others."""
    arriving: list[str] = []
    leaving: list[str] = []
    for one in (each for each in table.translations if each.side is TranslatedSide.OWN):
        for tunnel, _ in _through(table, one):
            device, word = devices[tunnel.id], _WORD[one.inside.family]
            if one.kind is TranslationKind.BEHIND_ONE:
                address = str(one.outside).partition("/")[0]
                leaving.append(f'oifname "{device}" {word} saddr {one.inside} snat {word} to {address}')
                continue
            to_real = f"dnat {word} prefix to {word} daddr map {{ {one.outside} : {one.inside} }}"
            to_seen = f"snat {word} prefix to {word} saddr map {{ {one.inside} : {one.outside} }}"
            arriving.append(f'iifname "{device}" {word} daddr {one.outside} {to_real}')
            leaving.append(f'oifname "{device}" {word} saddr {one.inside} {to_seen}')
    return [
        *_chain("arriving", "prerouting", "dstnat", arriving, "nat"),
        *_chain("leaving", "postrouting", "srcnat", leaving, "nat"),
    ]


def _through(table: GatewayTable, one: Translation) -> list[tuple[Tunnel, Side]]:
    return [(tunnel, side) for tunnel, side in table.tunnels if one.tunnel_id in (None, tunnel.id)]
