"""Settings of a gateway that is a Linux machine: read from `ip -j` and `sysctl`, and what enters them, one by one.

What the machine keeps over a restart stands in files of sysctl.d(5) and systemd.network(5) that are ours alone.
"""

from __future__ import annotations

import re
import shlex
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final

from pontifex.core.addressing import Address, Family, Prefix, parse_address, parse_interface, parse_prefix
from pontifex.core.handover.linux import linux_parts
from pontifex.core.handover.readings.setting import POLICIES, intended
from pontifex.core.kinds import ObjectType
from pontifex.core.model import Design
from pontifex.core.model.written import ABSENT
from pontifex.core.routing import Tables

Settings = dict[str, str | None]  # None for what could be read, and isn't there
SYSCTL_FILE: Final = "/etc/sysctl.d/60-pontifex.conf"
NETWORK_FOLDER: Final = "/etc/systemd/network"
FILE_HEAD: Final = "60-pontifex-"
FORWARDING: Final = {Family.V4: "net.ipv4.ip_forward", Family.V6: "net.ipv6.conf.all.forwarding"}
_NOT_OURS: Final = ("kernel", "dhcp", "ra", "redirect")  # who put a route there; what runs without anybody's hand
_OWN_RULES: Final = ("0", "32766", "32767")  # preferences
_WHO: Final = re.compile(r" (?:proto|protocol) \S+| \[detached\]")
_USUAL_METRIC: Final = {Family.V4: 0, Family.V6: 1024}
_YES: Final = "yes"


class CantEnter(ValueError):
    """A setting that isn't entered at a Linux machine from here; the message says why."""


@dataclass(frozen=True, slots=True)
class LinuxPolicy:
    """What a gateway's rules, filters and translations come down to on its machine, and how a sheet words each of them."""

    rules: tuple[str, ...]  # commands
    packets: tuple[str, ...]  # lines of nft
    settings: Mapping[str, str]  # by their paths

    @classmethod
    def of(cls, design: Design, gateway_id: str) -> LinuxPolicy | None:
        """Return it; None where there is none, or an interface has no name."""
        heads = tuple(f"gateway/{gateway_id}/{kind}/" for kind in POLICIES)
        settings = {setting.path: setting.text for setting in intended(design, gateway_id) if setting.path.startswith(heads)}
        parts = linux_parts(Tables(design), gateway_id, {}, {}) if settings else None
        return cls(parts.rules, parts.packets, settings) if parts else None


@dataclass(frozen=True, slots=True)
class LinuxNames:
    """What the design calls the interfaces of a machine, by their names there."""

    gateway_id: str
    hops: Mapping[str, str]  # the words of a next hop by the device: "tunnel Harbour–Ostvik"
    ends: Mapping[str, str]  # the path of a tunnel's end by the device: "tunnel/harbour-ostvik/left"
    intended: tuple[str, ...] = ()  # paths that the design has and that can be read: what isn't there is said not to be
    policy: LinuxPolicy | None = None

    @classmethod
    def of(cls, design: Design, gateway_id: str) -> LinuxNames:
        """Return the names as far as the design has them."""
        hops, ends = {}, {}
        for uplink in design.uplinks:
            if uplink.gateway_id == gateway_id and uplink.interface:
                hops[uplink.interface] = f"uplink {uplink.name or uplink.id}"
        for tunnel, side in design.ends_of_gateway(gateway_id):
            device = tunnel.end(side).interface
            if device:
                hops[device] = f"tunnel {tunnel.name or tunnel.id}"
                ends[device] = f"tunnel/{tunnel.id}/{side.value}"
        routes = f"gateway/{gateway_id}/route/"
        read = tuple(
            setting.path
            for setting in intended(design, gateway_id)
            if setting.path.startswith(routes) and setting.path.count("/") == 4
        )
        policy = LinuxPolicy.of(design, gateway_id)
        return cls(gateway_id, hops, ends, (f"gateway/{gateway_id}/forwarding", *read), policy)

    def device_of_hop(self, words: str) -> str | None:
        """Return the device of a next hop."""
        return next((device for device, named in self.hops.items() if named == words), None)

    def device_of_end(self, path: str) -> str | None:
        """Return the device of a tunnel's end."""
        return next((device for device, named in self.ends.items() if named == path), None)


@dataclass(frozen=True, slots=True)
class KernelRoute:
    """A route of the main table that somebody has entered."""

    prefix: str
    gateway: str  # empty where it goes straight to the device
    device: str
    metric: int


@dataclass(frozen=True, slots=True)
class KernelLink:
    """An interface with its MTU and its addresses but the link-local ones."""

    device: str
    mtu: int
    addresses: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class MachinePolicy:
    """The policy rules of a machine and our table of nftables, as it lists them itself."""

    rules: tuple[str, ...]
    packets: str

    @classmethod
    def of(cls, rules: str, packets: str) -> MachinePolicy:
        """Return what `ip rule` and `nft list table` have printed, without the kernel's own rules and without who entered it."""
        lines = (re.sub(_WHO, "", line).strip() for line in rules.splitlines())
        return cls(tuple(sorted(line for line in lines if line and line.split(":")[0] not in _OWN_RULES)), packets.strip())


@dataclass(frozen=True, slots=True)
class MachineState:
    """What a machine runs: its routes, its interfaces, and switches of the kernel by their names."""

    routes: tuple[KernelRoute, ...]
    links: tuple[KernelLink, ...]
    switches: Mapping[str, str]

    @classmethod
    def of(cls, routes: Mapping[Family, Any], links: Any, switches: Mapping[str, str]) -> MachineState:
        """Return what `ip -j route`, `ip -j address` and `sysctl` said. Raise KeyError, TypeError or ValueError otherwise."""
        return cls(
            tuple(_route(candidate, family) for family, some in routes.items() for candidate in some if _is_entered(candidate)),
            tuple(_link(link) for link in links),
            {key: value for key, value in switches.items() if value},
        )


def _is_entered(route: Mapping[str, Any]) -> bool:
    return route.get("protocol") not in _NOT_OURS and route.get("type", "unicast") == "unicast" and "dev" in route


def _route(route: Mapping[str, Any], family: Family) -> KernelRoute:
    to = str(route["dst"])
    full = f"{to}/{family.bits}" if "/" not in to else to
    prefix = {Family.V4: "0.0.0.0/0", Family.V6: "::/0"}[family] if to == "default" else full
    metric = int(route.get("metric", 0))
    usual = _USUAL_METRIC[family]  # the kernel gives one where nobody said any
    return KernelRoute(prefix, str(route.get("gateway", "")), str(route["dev"]), 0 if metric == usual else metric)


def _link(link: Mapping[str, Any]) -> KernelLink:
    held = tuple(
        f"{candidate['local']}/{candidate['prefixlen']}"
        for candidate in link.get("addr_info", ())
        if candidate.get("scope") != "link"
    )
    return KernelLink(str(link["ifname"]), int(link["mtu"]), held)


def running_settings(names: LinuxNames, state: MachineState) -> Settings:
    """Return what a machine runs of the settings that can be read there."""
    found: Settings = dict.fromkeys(names.intended)
    found |= {f"gateway/{names.gateway_id}/forwarding": _yes_or_no(state.switches), **_ways(names, state.routes)}
    for link in state.links:
        end = names.ends.get(link.device)
        if end:
            found |= {f"{end}/interface": link.device, f"{end}/inner_mtu": str(link.mtu)}
            found |= {f"{end}/inner_address": address for address in link.addresses[:1]}
    return found


def policy_settings(policy: LinuxPolicy, intends: MachinePolicy, runs: MachinePolicy) -> Settings:
    """Return how rules, filters and translations run: as intended all together, or not at all, or otherwise.

    Which of them is otherwise isn't told: a machine holds what they come down to, and not which of them it is for.
    """
    found: Settings = {}
    for path, text in policy.settings.items():
        is_rule = path.split("/")[2] == ObjectType.RULE.value
        alike = intends == runs if is_rule else intends.packets == runs.packets
        absent = not (runs.rules or runs.packets) if is_rule else not runs.packets
        found[path] = text if alike else None if absent else "otherwise than intended"
    return found


def _yes_or_no(switches: Mapping[str, str]) -> str:
    return _YES if set(switches.values()) == {"1"} else "no"


def _ways(names: LinuxNames, routes: Iterable[KernelRoute]) -> Settings:
    ways: dict[str, list[KernelRoute]] = {}
    for route in routes:
        ways.setdefault(route.prefix, []).append(route)
    head = f"gateway/{names.gateway_id}/route"
    return {
        f"{head}/{prefix}": "; ".join(_way(names, kernel_route) for kernel_route in sorted(some, key=lambda route: route.metric))
        for prefix, some in ways.items()
    }


def _way(names: LinuxNames, route: KernelRoute) -> str:
    hop = route.gateway or names.hops.get(route.device) or f"interface {route.device}"
    return f"by {hop}{f' metric {route.metric}' if route.metric else ''}"


@dataclass(frozen=True, slots=True)
class Commands:
    """Commands for a shell that enter something, and those that take it back."""

    apply: tuple[str, ...]
    back: tuple[str, ...]


def commands_of(names: LinuxNames, path: str, before: str | None, after: str | None) -> Commands:
    """Return what brings a setting from one value to another. Raise CantEnter."""
    kind, _, *rest = path.split("/")
    if path == f"gateway/{names.gateway_id}/forwarding":
        return Commands(tuple(_switched(after)), tuple(_switched(before)))
    if kind == "gateway" and rest[0] == "route" and len(rest) == 3:
        prefix = parse_prefix("/".join(rest[1:]))
        old, new = _hops(names, before), _hops(names, after)
        return Commands(
            tuple(_rerouted(prefix, old, new)),
            tuple(_rerouted(prefix, new, old)),
        )
    if kind == "gateway" and rest[0] in POLICIES:
        raise CantEnter(f"{path}: rules, filters and translations are entered all together, by the commands in Paths")
    end, _, field = path.rpartition("/")
    device = names.device_of_end(end)
    if device is None:
        raise CantEnter(f"{path}: the design has no interface name for it, or it isn't a matter of the kernel")
    if field == "inner_mtu" and after and before:
        return Commands((f"ip link set {device} mtu {int(after)}",), (f"ip link set {device} mtu {int(before)}",))
    if field == "inner_address":
        return Commands(tuple(_readdressed(device, before, after)), tuple(_readdressed(device, after, before)))
    raise CantEnter(f"{path}: the program that ends the tunnel holds this; enter it there")


def _switched(value: str | None) -> Iterator[str]:
    on = "1" if value == _YES else "0"
    for key in FORWARDING.values():
        yield f"sysctl -qw {key}={on} 2>/dev/null || [ ! -e /proc/sys/{key.replace('.', '/')} ]"


def _hops(names: LinuxNames, text: str | None) -> list[str]:
    """Return the ways of a setting as words of ip-route(8). Raise CantEnter."""
    found = []
    for way in (text or "").split("; ") if text and text != ABSENT else ():
        hop, _, metric = way.removeprefix("by ").partition(" metric ")
        tail = f" metric {int(metric)}" if metric else ""
        device = names.device_of_hop(hop)
        if device is None and hop.startswith("interface "):
            device = shlex.quote(hop.removeprefix("interface "))
        if device is None and hop.partition(" ")[0] in ("tunnel", "uplink", "the"):
            raise CantEnter(f"the interface of {hop} has no name in the design")
        found.append((f"dev {device}" if device else f"via {Address(*parse_address(hop))}") + tail)
    return found


def _rerouted(prefix: Prefix, old: Sequence[str], new: Sequence[str]) -> Iterator[str]:
    """Put the new ways before the old ones go, so that there is always one."""
    ip = "ip -6" if prefix.family is Family.V6 else "ip"
    yield from (f"{ip} route replace {prefix} {way} proto static" for way in new if way not in old)
    metrics = {way.partition(" metric ")[2] for way in new if way not in old}
    for way in old:
        if way not in new and way.partition(" metric ")[2] not in metrics:  # else it was replaced
            yield f"{ip} route del {prefix} {way}"


def _readdressed(device: str, old: str | None, new: str | None) -> Iterator[str]:
    if new and new != ABSENT:
        yield f"ip address replace {parse_interface(new)} dev {device}"
    if old and old not in (ABSENT, new):
        yield f"ip address del {parse_interface(old)} dev {device}"


# What outlives a restart


def kept_files(names: LinuxNames, state: MachineState) -> dict[str, str]:
    """Return the files by which a restart finds what runs now: the switches, and for each device its routes and addresses."""
    head = f"# {names.gateway_id}: written by Pontifex from what ran, and written anew when that is saved again\n"
    found = {SYSCTL_FILE: head + "".join(f"{key} = {value}\n" for key, value in sorted(state.switches.items()))}
    links = {link.device: link for link in state.links}
    for device in sorted({*names.ends, *(route.device for route in state.routes)}):
        sections = [f"[Match]\nName={device}\n"]
        link = links.get(device) if device in names.ends else None
        if link:
            sections.append(f"[Link]\nMTUBytes={link.mtu}\n")
        if link and link.addresses:
            sections.append("[Network]\n" + "".join(f"Address={address}\n" for address in link.addresses))
        sections += [_route_section(route) for route in state.routes if route.device == device]
        if len(sections) > 1:
            found[f"{NETWORK_FOLDER}/{FILE_HEAD}{device}.network"] = head + "\n".join(sections)
    return found


def _route_section(route: KernelRoute) -> str:
    lines = ["[Route]", f"Destination={route.prefix}"]
    lines += [f"Gateway={route.gateway}"] if route.gateway else []
    lines += [f"Metric={route.metric}"] if route.metric else []
    return "\n".join(lines) + "\n"


def kept_settings(names: LinuxNames, files: Mapping[str, str]) -> Settings:
    """Return the settings that our files hold; what isn't in them a restart doesn't bring back."""
    switches = dict(line.split(" = ", 1) for line in files.get(SYSCTL_FILE, "").splitlines() if " = " in line)
    found: Settings = dict.fromkeys(names.intended)
    found |= {f"gateway/{names.gateway_id}/forwarding": _yes_or_no(switches)} if switches else {}
    routes = []
    for text in files.values():
        device = ""
        for section, lines in _sections(text):
            device = lines.get("Name", device)
            end = names.ends.get(device, "")
            if section == "Route" and "Destination" in lines:
                metric = lines.get("Metric", "0")
                routes.append(
                    KernelRoute(lines["Destination"], lines.get("Gateway", ""), device, int(metric) if metric.isdigit() else 0)
                )
            for key, field in (("MTUBytes", "inner_mtu"), ("Address", "inner_address")):
                if key in lines and end:
                    found[f"{end}/{field}"] = lines[key]
    return found | _ways(names, routes)


def _sections(text: str) -> Iterator[tuple[str, dict[str, str]]]:
    section, lines = "", dict[str, str]()
    for line in (*text.splitlines(), "[]"):
        if line.startswith("["):
            if section:
                yield section, lines
            section, lines = line.strip("[]"), {}
        elif "=" in line and not line.startswith("#"):
            key, _, value = line.partition("=")
            lines[key.strip()] = value.strip()
