"""A gateway's classes, filters and translations as a table of nftables (nft(8))."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from pontifex.core.addressing import Family, Prefix, Selector
from pontifex.core.addressing.selector import ANY_PORT, ANY_PROTOCOL
from pontifex.core.handover.classes import MARK_MASK, Stages, mark
from pontifex.core.handover.interfaces import Interfaces
from pontifex.core.kinds import Filter, FilterDirection, Outranking, Side, TranslatedSide, Translation, TranslationKind, Tunnel
from pontifex.core.routing.tables.tables import GatewayTable, Origin, ResolvedRule, TableEntry

_WORD = {Family.V4: "ip", Family.V6: "ip6"}
_PROTOCOL_FAMILY = {Family.V4: "ipv4", Family.V6: "ipv6"}
_WITH_PORTS = {"tcp": 6, "udp": 17, "sctp": 132}


def nft_table(table: GatewayTable, interfaces: Interfaces) -> list[str]:
    """Return the lines of the table; none where there is nothing to do."""
    chains = [
        *_classes(table.clauses),
        *_marking(table, interfaces),
        *_filters(table, interfaces),
        *_translations(table, interfaces),
    ]
    return ["table inet pontifex {", *chains, "}"] if chains else []


def _chain(name: str, hook: str, priority: str, lines: list[str], type_: str = "filter") -> list[str]:
    if not lines:
        return []
    head = f"    type {type_} hook {hook} priority {priority}; policy accept;"
    return [f"  chain {name} {{", head, *(f"    {line}" for line in lines), "  }"]


def _classes(clauses: Sequence[ResolvedRule]) -> list[str]:
    """Leave the class in the mark, after translation, for the rules that ask for it: as it comes, or as rules above mark it."""
    stages = Stages(clauses)
    lines: list[str] = []
    for shift, classes, before in stages.used():
        clear = 0xFFFF_FFFF & ~(MARK_MASK << shift)
        for class_ in sorted(classes):
            lines += [f"{word} dscp {class_} {_set_mark(clear, mark(class_, shift))}" for word in _WORD.values()]
        for place in before:
            marked = clauses[place].marks
            assert marked is not None  # that is why it stands there
            for _, words in _about(clauses[place]):
                asked = _asked(stages, place)
                lines += [f"{words}{class_}{_set_mark(clear, mark(marked, shift))}" for class_ in asked]
    return _chain("classes", "prerouting", "dstnat + 1", lines)


def _set_mark(clear: int, value: int) -> str:
    return f"meta mark set meta mark & {clear:#010x} | {value:#x}"


def _asked(stages: Stages, place: int) -> list[str]:
    """Return how a rule asks for its classes, one way each; a single empty one where it asks for none."""
    marks = stages.marks(place)
    field = MARK_MASK << stages.field(place)
    return [""] if marks is None else [f"meta mark & {field:#x} == {value:#x} " for value in marks]


def _marking(table: GatewayTable, interfaces: Interfaces) -> list[str]:
    """Mark as the rules say that are asked: not what something above them has decided."""
    clauses, stages = table.clauses, Stages(table.clauses)
    lines: list[str] = []
    if table.gateway.outranking is not Outranking.NOTHING:
        lines += [f"{_WORD[network.prefix.family]} daddr {network.prefix} return" for network in table.networks]
    for entry in table.entries:
        if entry.origin is Origin.POLICY:
            lines += [f"{words}return" for words in _by_policy(entry)]
    for place, clause in enumerate(clauses):
        devices = [hop[0] for path in clause.rule.paths if (hop := interfaces.by_path(path, Family.V4))]
        for word, words in _about(clause):
            for class_ in _asked(stages, place):
                if clause.marks is not None:
                    lines.append(f"{words}{class_}{word} dscp set {clause.marks}")
                if devices:
                    lines.append(f"{words}{class_}oifname {_set(devices)} return")
    return _chain("marking", "forward", "mangle", lines) if any(written.marks is not None for written in clauses) else []


def _by_policy(entry: TableEntry) -> Iterator[str]:
    """Yield what a tunnel's policy takes before any rule."""
    word = _WORD[entry.to.family]
    for source in entry.sources or (None,):
        if source is None or source.family is entry.to.family:
            from_ = f"{word} saddr {Selector(source.family, source.first, source.last)} " if source else ""
            yield from_ + _to(word, entry.to)


def _about(clause: ResolvedRule) -> Iterator[tuple[str, str]]:
    for family, word in _WORD.items():
        sources = None if clause.sources is None else [source for source in clause.sources if source.family is family]
        boxes = (
            None
            if clause.destinations is None
            else [destination for destination in clause.destinations if destination.family is family]
        )
        if sources == [] or boxes == []:
            continue
        for box in boxes if boxes is not None else [Selector(family, 0, family.last)]:
            yield word, _from(word, sources or ()) + _to(word, box)


def _from(word: str, sources: Sequence[Prefix]) -> str:
    return f"{word} saddr {{ {', '.join(map(str, sources))} }} " if sources else ""


def _to(word: str, box: Selector) -> str:
    """Write a destination with protocol and ports as nftables asks for them; all of a family is that family alone."""
    whole = (box.first, box.last) == (0, box.family.last)
    addresses = str(Selector(box.family, box.first, box.last))
    words = f"meta nfproto {_PROTOCOL_FAMILY[box.family]} " if whole else f"{word} daddr {addresses} "
    low, high = box.protocols
    if box.ports != ANY_PORT:
        some = ", ".join(name for name, number in _WITH_PORTS.items() if low <= number <= high)
        return f"{words}meta l4proto {{ {some} }} th dport {box.ports[0]}-{box.ports[1]} "
    return words if box.protocols == ANY_PROTOCOL else f"{words}meta l4proto {low}-{high} "


def _filters(table: GatewayTable, interfaces: Interfaces) -> list[str]:
    """Let through what the filters of a direction name, and the answers to it; nothing else goes that way."""
    inside, outside = _set(interfaces.tunnels), _set((*interfaces.tunnels, *interfaces.uplinks))
    ways = {
        FilterDirection.IN: f"iifname {inside} oifname != {outside} ",
        FilterDirection.OUT: f"iifname != {inside} oifname {outside} ",
        FilterDirection.THROUGH: f"iifname {inside} oifname {outside} ",
    }
    lines: list[str] = []
    for direction, way in ways.items():
        rules = [candidate for candidate in table.filters if candidate.direction is direction]
        if not rules:
            continue
        if table.gateway.keeps_state:
            lines += [f"{way}ct state established,related accept", f"{way}ct state invalid drop"]
        lines += [f"{way}{words}accept" for rule in rules for words in _named(rule)]
        lines.append(f"{way}drop")
    return _chain("filters", "forward", "filter", lines)


def _set(names: Sequence[str]) -> str:
    quoted = ", ".join(f'"{name}"' for name in names or ["none"])
    return f"{{ {quoted} }}"


def _named(filter_: Filter) -> Iterator[str]:
    for family, word in _WORD.items():
        sources = [prefix for prefix in filter_.sources if prefix.family is family]
        boxes = [box for box in filter_.destinations if box.family is family]
        if (filter_.sources and not sources) or (filter_.destinations and not boxes):
            continue
        for box in boxes or [Selector(family, 0, family.last)]:
            yield _from(word, sources) + _to(word, box)


def _translations(table: GatewayTable, interfaces: Interfaces) -> list[str]:
    """Show a site's own addresses otherwise beyond a tunnel; those of the far side are left to others."""
    arriving: list[str] = []
    leaving: list[str] = []
    for translation in (each for each in table.translations if each.side is TranslatedSide.OWN):
        for tunnel, _ in _through(table, translation):
            device, word = interfaces.tunnel(tunnel.id), _WORD[translation.inside.family]
            if translation.kind is TranslationKind.BEHIND_ONE:
                address = str(translation.outside).partition("/")[0]
                leaving.append(f'oifname "{device}" {word} saddr {translation.inside} snat {word} to {address}')
                continue
            to_real = f"dnat {word} prefix to {word} daddr map {{ {translation.outside} : {translation.inside} }}"
            to_seen = f"snat {word} prefix to {word} saddr map {{ {translation.inside} : {translation.outside} }}"
            arriving.append(f'iifname "{device}" {word} daddr {translation.outside} {to_real}')
            leaving.append(f'oifname "{device}" {word} saddr {translation.inside} {to_seen}')
    return [
        *_chain("arriving", "prerouting", "dstnat", arriving, "nat"),
        *_chain("leaving", "postrouting", "srcnat", leaving, "nat"),
    ]


def _through(table: GatewayTable, translation: Translation) -> list[tuple[Tunnel, Side]]:
    return [(tunnel, side) for tunnel, side in table.tunnels if translation.tunnel_id in (None, tunnel.id)]
