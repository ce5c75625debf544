"""A design as commands of Linux machines, made in another way than the product's plan.

Which rule decides is said in nftables, top down, since it is known here which tunnels are up; a mark for each rule then leads
into a routing table with the one path that it takes. The product leaves that to the kernel's own rules and metrics.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from ipaddress import ip_address, ip_network
from itertools import product

from pontifex.core.addressing import Selector
from pontifex.core.kinds import Filter, Gateway, Mode, Route, Rule, TunnelEnd
from pontifex.core.kinds.dscp import parse_dscp
from pontifex.core.model import Design

_FAMILY: dict[int, tuple[str, str]] = {4: ("ip", "-4"), 6: ("ip6", "-6")}
_DEFAULTS, _RULES = 200, 300  # tables
_ABOUT = "0x80000000"  # mark of what a rule is about, until it is done with it


def commands(design: Design, down: frozenset[str]) -> dict[str, tuple[str, ...]]:
    """Return the commands of each gateway."""
    return {gateway.id: tuple(_of(design, gateway, down)) for gateway in design.gateways}


def _of(design: Design, gateway: Gateway, down: frozenset[str]) -> Iterator[str]:
    on = "1" if gateway.forwarding else "0"
    yield f"sysctl -qw net.ipv4.ip_forward={on} net.ipv6.conf.all.forwarding={on}"
    yield 'for one in /proc/sys/net/ipv4/conf/*/rp_filter; do echo 0 > "$one"; done'
    yield from _routes(design, gateway, down)
    rules = sorted(
        (candidate for candidate in design.rules if candidate.gateway_id == gateway.id), key=lambda rule: (rule.position, rule.id)
    )
    yield "nft -f - <<'END'"
    yield "table inet by_hand {"
    yield from _rules(design, gateway, rules, down)
    yield from _filters(design, gateway)
    yield from _translations(design, gateway)
    yield "}"
    yield "END"
    for place, rule in enumerate(rules):
        yield from _path(gateway, design, rule, place, down)
    before = "main suppress_prefixlength 0" if gateway.outranking.value == "specific" else None
    for _, ip in _FAMILY.values():
        if before:
            yield f"ip {ip} rule add pref 100 table {before}"
        yield f"ip {ip} rule add pref 900 table main suppress_prefixlength 0"
        yield f"ip {ip} rule add pref 901 table {_DEFAULTS}"


def _hop(design: Design, gateway: Gateway, route: Route, down: frozenset[str]) -> str:
    """Where a route leads; empty where it can't be used now."""
    tunnels = {tunnel.id: tunnel for tunnel in design.tunnels}
    if route.uplink_id:
        return _uplink(design, gateway, route.prefix.family.bits) if route.uplink_id == gateway.id else ""
    if route.tunnel_id:
        ends = {tunnels[route.tunnel_id].left.gateway_id, tunnels[route.tunnel_id].right.gateway_id}
        return f"dev {route.tunnel_id}" if gateway.id in ends and route.tunnel_id not in down else ""
    via = ip_address(str(route.via))
    for tunnel in tunnels.values():
        for near, far in ((tunnel.left, tunnel.right), (tunnel.right, tunnel.left)):
            if near.gateway_id == gateway.id and far.inner_address and ip_address(str(far.inner_address.address)) == via:
                return f"dev {tunnel.id}" if tunnel.id not in down else ""
    here = [network for network in design.networks if network.site_id == gateway.site_id]
    return f"via {via}" if any(via in ip_network(str(network.prefix)) for network in here) else ""


def _uplink(design: Design, gateway: Gateway, bits: int) -> str:
    place = [gateway.id for gateway in design.gateways].index(gateway.id)
    router = f"198.51.100.{4 * place + 2}" if bits == 32 else f"2001:db8:{place + 1}::2"
    return f"via {router} dev uplink"


def _routes(design: Design, gateway: Gateway, down: frozenset[str]) -> Iterator[str]:
    by_prefix: dict[str, list[Route]] = defaultdict(list)
    for route in design.routes:
        if route.gateway_id == gateway.id:
            by_prefix[str(route.prefix)].append(route)
    for prefix, routes in by_prefix.items():
        ordered = sorted(routes, key=lambda route: (route.origin.value != "static", route.metric))
        hops = [hop for candidate in ordered if (hop := _hop(design, gateway, candidate, down))]
        version: int = ip_network(prefix).version
        default = ip_network(prefix).prefixlen == 0
        connected = any(str(network.prefix) == prefix for network in design.networks if network.site_id == gateway.site_id)
        if hops and not connected:
            table = f" table {_DEFAULTS}" if default else ""
            yield f"ip {_FAMILY[version][1]} route add {prefix} {hops[0]} metric 1{table}"
    for version, (_, ip) in _FAMILY.items():
        yield f"ip {ip} route add default {_uplink(design, gateway, 32 if version == 4 else 128)} metric 9 table {_DEFAULTS}"


def _usable(design: Design, gateway: Gateway, rule: Rule, down: frozenset[str]) -> str | None:
    for path in rule.paths:
        if path.type.value == "uplink":
            return "uplink"
        tunnel = next(candidate for candidate in design.tunnels if candidate.id == path.id)
        if path.id not in down and gateway.id in (tunnel.left.gateway_id, tunnel.right.gateway_id):
            return path.id
    return None


def _path(gateway: Gateway, design: Design, rule: Rule, place: int, down: frozenset[str]) -> Iterator[str]:
    taken = _usable(design, gateway, rule, down)
    if not taken:
        return
    for version, (_, ip) in _FAMILY.items():
        hop = _uplink(design, gateway, 32 if version == 4 else 128) if taken == "uplink" else f"dev {taken}"
        yield f"ip {ip} route add default {hop} table {_RULES + place}"
        yield f"ip {ip} rule add pref {_RULES + place} fwmark {place + 1} table {_RULES + place}"


def _rules(design: Design, gateway: Gateway, rules: list[Rule], down: frozenset[str]) -> Iterator[str]:
    yield "chain rules { type filter hook prerouting priority -90; fib daddr type local accept"
    for tunnel in design.tunnels:  # what goes by a tunnel's networks is asked before any rule
        for end in (tunnel.left, tunnel.right):
            if end.gateway_id == gateway.id and end.mode is Mode.POLICY:
                yield from _by_networks(end)
    if gateway.outranking.value == "connected":
        for network in (candidate for candidate in design.networks if candidate.site_id == gateway.site_id):
            yield f"{_word(network.prefix.family.bits)} daddr {network.prefix} accept"
        for tunnel in design.tunnels:
            for end in (tunnel.left, tunnel.right):
                if end.gateway_id == gateway.id and end.inner_address and tunnel.id not in down:
                    yield f"ip daddr {end.inner_address.prefix} accept"
    if gateway.outranking.value == "specific":
        yield from _specific(design, gateway, down)
    for place, rule in enumerate(rules):
        for matches, word in _matches(rule):  # a bit says that the rule is about it: marking changes what could be asked
            marks = f" {word} dscp set {parse_dscp(rule.marks)}" if rule.marks else ""
            yield f"meta mark 0 {matches} meta mark set {_ABOUT}{marks}"
        if _usable(design, gateway, rule, down):
            yield f"meta mark {_ABOUT} meta mark set {place + 1} accept"
        elif rule.on_failure.value == "hold":
            yield f"meta mark {_ABOUT} drop"
        yield f"meta mark {_ABOUT} meta mark set 0"
    yield "}"


def _word(bits: int) -> str:
    return "ip" if bits == 32 else "ip6"


def _by_networks(end: TunnelEnd) -> Iterator[str]:
    for local, remote in product(end.local_networks, end.remote_networks):
        if local.family is remote.family:
            word = _word(local.family.bits)
            yield f"{word} saddr {local.prefix} {word} daddr {remote.prefix} accept"


def _specific(design: Design, gateway: Gateway, down: frozenset[str]) -> Iterator[str]:
    prefixes = [str(network.prefix) for network in design.networks if network.site_id == gateway.site_id]
    prefixes += [
        str(route.prefix)
        for route in design.routes
        if route.gateway_id == gateway.id and route.prefix.length and _hop(design, gateway, route, down)
    ]
    for prefix in dict.fromkeys(prefixes):
        yield f"{_FAMILY[ip_network(prefix).version][0]} daddr {prefix} accept"


def _matches(rule: Rule) -> Iterator[tuple[str, str]]:
    classes = [parse_dscp(text) for text in rule.dscp]
    for word, from_, to in _named(rule):
        asked = f" {word} dscp {{ {', '.join(map(str, classes))} }}" if classes else ""
        yield f"{from_} {to}{asked}", word


def _named(one: Rule | Filter) -> Iterator[tuple[str, str, str]]:
    """Yield what is named, in each family: the family's word, from where, to what."""
    for word, bits in (("ip", 32), ("ip6", 128)):
        sources = [prefix for prefix in one.sources if prefix.family.bits == bits]
        boxes = [box for box in one.destinations if box.family.bits == bits]
        if (one.sources and not sources) or (one.destinations and not boxes):
            continue
        from_ = f"{word} saddr {{ {', '.join(map(str, sources))} }}" if sources else f"meta nfproto ipv{4 if bits == 32 else 6}"
        for to in [_service(word, box) for box in boxes] or [""]:
            yield word, from_, to


def _service(word: str, box: Selector) -> str:
    text = str(box).split()
    found = f"{word} daddr {text[0]}" if not text[0].endswith("/0") else ""
    rest = text[1:]
    if rest and rest[0] == "port":
        return f"{found} meta l4proto {{ 6, 17 }} th dport {rest[1]}"
    if rest:
        found += f" meta l4proto {rest[0]}"
    return found + (f" th dport {rest[1]}" if len(rest) > 1 else "")


def _filters(design: Design, gateway: Gateway) -> Iterator[str]:
    tunnels = _tunnels(design, gateway)
    inside = "{ " + ", ".join(f'"{tunnel}"' for tunnel in tunnels) + " }"
    outside = "{ " + ", ".join(f'"{link}"' for link in (*tunnels, "uplink")) + " }"
    ways = {
        "in": f"iifname {inside} oifname != {outside}",
        "out": f"iifname != {inside} oifname {outside}",
        "through": f"iifname {inside} oifname {outside}",
    }
    yield "chain filters { type filter hook forward priority 0;"
    for direction, way in ways.items():
        listed = [
            candidate
            for candidate in design.filters
            if candidate.gateway_id == gateway.id and candidate.direction.value == direction
        ]
        if listed:
            yield f"{way} ct state vmap {{ established : accept, related : accept, invalid : drop }}"
            for entry in listed:
                yield from (f"{way} {from_} {to} accept" for _, from_, to in _named(entry))
            yield f"{way} drop"
    yield "}"


def _tunnels(design: Design, gateway: Gateway) -> list[str]:
    return [tunnel.id for tunnel in design.tunnels if gateway.id in (tunnel.left.gateway_id, tunnel.right.gateway_id)]


def _translations(design: Design, gateway: Gateway) -> Iterator[str]:
    listed = [translation for translation in design.translations if translation.gateway_id == gateway.id]
    yield "chain arriving { type nat hook prerouting priority -100;"
    for entry in listed:
        for tunnel in [entry.tunnel_id] if entry.tunnel_id else _tunnels(design, gateway):
            if entry.kind.value == "one-to-one":
                real = f"dnat ip prefix to ip daddr map {{ {entry.outside} : {entry.inside} }}"
                yield f'iifname "{tunnel}" ip daddr {entry.outside} {real}'
    yield "}"
    yield "chain leaving { type nat hook postrouting priority 100;"
    for entry in listed:
        for tunnel in [entry.tunnel_id] if entry.tunnel_id else _tunnels(design, gateway):
            seen = str(entry.outside).partition("/")[0]
            behind = f"snat ip to {seen}"
            alike = f"snat ip prefix to ip saddr map {{ {entry.inside} : {entry.outside} }}"
            yield f'oifname "{tunnel}" ip saddr {entry.inside} {behind if entry.kind.value == "behind-one" else alike}'
    yield "}"
