"""A Linux machine's part of a design as files that outlive a restart: sysctl.d(5), systemd.network(5) and nft(8)."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Final

from pontifex.core.addressing import Family
from pontifex.core.addressing.address import parse_address_value
from pontifex.core.handover.interfaces import Key, Routers
from pontifex.core.handover.linux import LinuxRoute, linux_parts
from pontifex.core.handover.readings.linux import FILE_HEAD, NETWORK_FOLDER, SYSCTL_FILE, LinuxNames
from pontifex.core.routing import Tables

NFT_FILE: Final = "/etc/nftables.d/60-pontifex.nft"
_KEYS: Final = {  # of a [Route] and of a [RoutingPolicyRule], by the words of ip-route(8) and ip-rule(8)
    "via": "Gateway",
    "metric": "Metric",
    "pref": "Priority",
    "from": "From",
    "to": "To",
    "ipproto": "IPProtocol",
    "dport": "DestinationPort",
    "iif": "IncomingInterface",
    "fwmark": "FirewallMark",
    "table": "Table",
    "suppress_prefixlength": "SuppressPrefixLength",
}
_EVERYTHING: Final = {Family.V4: "0.0.0.0/0", Family.V6: "::/0"}
_FAMILY: Final = {"ip -4": "ipv4", "ip -6": "ipv6"}


class CantBeKept(ValueError):
    """Something that such files can't say; the message says what."""


def linux_files(
    tables: Tables, gateway_id: str, names: dict[Key, str] | None = None, routers: Routers | None = None
) -> dict[str, str]:
    """Return the text of each file by its name; `names` and `routers` as `linux_plan` takes them. Raise CantBeKept."""
    design = tables.design
    parts = linux_parts(tables, gateway_id, names or {}, routers or {})
    if parts is None:
        raise CantBeKept("an interface that is needed has no name in the design")
    head = f"# {design.gateway_by_id[gateway_id].name}, revision {design.revision}\n"
    found = {SYSCTL_FILE: head + "".join(f"{key} = {value}\n" for key, value in parts.switches.items())}
    sections: dict[str, list[str]] = {}
    for device, end in LinuxNames.of(design, gateway_id).ends.items():
        sections.setdefault(device, []).extend(_end_sections(tables, end))
    for route in parts.routes:
        sections.setdefault(_device(tables, gateway_id, route), []).append(_section("Route", _route_lines(route)))
    rules = [_section("RoutingPolicyRule", _rule_lines(rule)) for rule in parts.rules]
    if rules:  # they belong to no device, and stand in the file of one that is always there
        sections.setdefault("lo", []).extend(rules)
    for device, lines in sorted(sections.items()):
        if lines:
            found[f"{NETWORK_FOLDER}/{FILE_HEAD}{device}.network"] = "\n".join([head + f"[Match]\nName={device}\n", *lines])
    if parts.packets:
        whole = ["table inet pontifex", "delete table inet pontifex", *parts.packets, ""]
        found[NFT_FILE] = f'{head}# in /etc/nftables.conf: include "/etc/nftables.d/*.nft"\n' + "\n".join(whole)
    return found


def files_text(files: Mapping[str, str]) -> str:
    """Return files one after the other, each under its name."""
    return "\n".join(f"==> {name} <==\n{text}" for name, text in files.items())


def _section(name: str, lines: Iterator[str]) -> str:
    return "\n".join([f"[{name}]", *lines, ""])


def _end_sections(tables: Tables, path: str) -> Iterator[str]:
    _, tunnel_id, side = path.split("/")
    tunnel = tables.design.tunnel_by_id[tunnel_id]
    end = tunnel.left if side == "left" else tunnel.right
    if end.inner_mtu:
        yield _section("Link", iter([f"MTUBytes={end.inner_mtu}"]))
    if end.inner_address:
        yield _section("Network", iter([f"Address={end.inner_address}"]))


def _device(tables: Tables, gateway_id: str, route: LinuxRoute) -> str:
    """Return the device of a route; where an address alone says it, the one of the network that holds it."""
    if route.device:
        return route.device
    words = route.words.split()
    if "via" not in words:
        return "lo"
    via = parse_address_value(words[words.index("via") + 1])
    networks = tables.design.networks_of_site(tables.design.gateway_by_id[gateway_id].site_id)
    device = next((network.interface for network in networks if network.interface and network.prefix.holds(via)), None)
    if device is None:
        raise CantBeKept(f"the interface towards {via} has no name in the design")
    return device


def _route_lines(route: LinuxRoute) -> Iterator[str]:
    words = route.words.split()
    if words[0] == "unreachable":
        yield "Type=unreachable"
        words = words[1:]
    yield f"Destination={_EVERYTHING[route.family] if words[0] == 'default' else words[0]}"
    if route.table != "main":
        yield f"Table={route.table}"
    yield from _pairs(words[1:])


def _rule_lines(rule: str) -> Iterator[str]:
    command, _, asked = rule.partition(" rule add ")
    if " goto " in rule:
        raise CantBeKept(f"rules of a port and all above it can't be asked for in files; use the commands: {asked}")
    yield f"Family={_FAMILY[command]}"
    yield from _pairs(asked.split())


def _pairs(words: list[str]) -> Iterator[str]:
    for word, value in zip(words[::2], words[1::2], strict=True):
        if word != "dev":
            yield f"{_KEYS[word]}={value}"
