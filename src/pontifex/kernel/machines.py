"""The machines of one tunnel as network namespaces: host, gateway and the provider's box at each side, with cables between them.

    host — gateway — edge — edge — gateway — host

The edge is what stands on an uplink: a NAT, a filter, a path of a certain size. Delay and loss aren't made.
"""

from __future__ import annotations

import os
import subprocess
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Final

from pontifex.core.addressing import Address, Family
from pontifex.core.kinds import SIDES, Side
from pontifex.core.rehearsal.internet import Access
from pontifex.kernel.namespaces import delete, open_tun

TUN: Final = "tunnel"
UPLINK: Final = "uplink"
LAN: Final = "lan"
ROUTER: Final = {Family.V4: "169.254.7.1", Family.V6: "fe80::7:1"}  # of the provider, at each uplink
_FAR_EDGE: Final = {
    Side.LEFT: {Family.V4: "169.254.8.2", Family.V6: "fe80::8:2"},
    Side.RIGHT: {Family.V4: "169.254.8.1", Family.V6: "fe80::8:1"},
}


class NotPermittedError(Exception):
    """The kernel refused what a machine is made of; the message says what."""


@dataclass(frozen=True, slots=True)
class HostBehind:
    """A host behind a gateway, and the address at which it finds that gateway."""

    address: Address
    gateway: Address


class TunnelMachines:
    """The namespaces of a tunnel, as long as they are needed."""

    def __init__(self, access: Mapping[Side, Access], hosts: Mapping[Side, HostBehind]) -> None:
        self._access, self._hosts = access, hosts
        self.tuns: dict[Side, int] = {}

    def name(self, kind: str, side: Side) -> str:
        """Return the namespace of a machine: "host", "gateway" or "edge" of a side."""
        return f"{kind[0]}{side.value[0]}{os.getpid()}"

    def __enter__(self) -> TunnelMachines:
        try:
            self._build()
        except BaseException:
            self.__exit__()
            raise
        return self

    def __exit__(self, *_: object) -> None:
        for file in self.tuns.values():
            os.close(file)
        self.tuns.clear()
        for name in self._names():
            delete(name)

    def _names(self) -> list[str]:
        return [self.name(kind, side) for side in SIDES for kind in ("host", "gateway", "edge")]

    def _build(self) -> None:
        self._ip(f"netns add {name}" for name in self._names())
        for name in self._names():
            self._ip(["link set lo up"], name)
            self.shell(name, ["sysctl -qw net.ipv6.conf.all.accept_dad=0 net.ipv6.conf.default.accept_dad=0"])
        self._ip(
            [f"link add net netns {self.name('edge', Side.LEFT)} type veth peer name net netns {self.name('edge', Side.RIGHT)}"]
        )
        for side in SIDES:
            self._side(side)

    def _side(self, side: Side) -> None:
        access, host = self._access[side], self._hosts[side]
        names = [self.name(kind, side) for kind in ("host", "gateway", "edge")]
        self._ip(
            [
                f"link add eth0 netns {names[0]} type veth peer name {LAN} netns {names[1]}",
                f"link add {UPLINK} netns {names[1]} type veth peer name gateway netns {names[2]}",
            ]
        )
        self._ip(_host_lines(host), names[0])
        self._ip(_gateway_lines(access, host), names[1])
        self._ip(_edge_lines(access, side), names[2])
        self.shell(names[1], ["sysctl -qw net.ipv4.ip_forward=1 net.ipv6.conf.all.forwarding=1"])
        self.shell(names[2], ["sysctl -qw net.ipv4.ip_forward=1 net.ipv6.conf.all.forwarding=1", *_filter_lines(access)])
        self.tuns[side] = open_tun(names[1], TUN)
        self._ip([f"link set {TUN} up"], names[1])

    def _ip(self, lines: Iterable[str], name: str = "") -> None:
        words = ["ip", *(["-n", name] if name else []), "-batch", "-"]
        done = subprocess.run(words, input="\n".join(lines) + "\n", capture_output=True, text=True, check=False)
        if done.returncode:
            raise NotPermittedError(done.stderr.strip())

    def shell(self, name: str, lines: Iterable[str]) -> None:
        """Run lines on a machine, in a shell that stops at the first that fails. Raise NotPermittedError."""
        text = "\n".join(lines) + "\n"
        done = subprocess.run(
            ["ip", "netns", "exec", name, "sh", "-eu"], input=text, capture_output=True, text=True, check=False, timeout=60
        )
        if done.returncode:
            raise NotPermittedError(done.stderr.strip() or done.stdout.strip())

    def set_tunnel_mtu(self, side: Side, octets: int) -> None:
        """Let the tunnel's device take packets of so many octets."""
        self._ip([f"link set {TUN} mtu {octets}"], self.name("gateway", side))


def _bits(address: Address) -> int:
    return address.family.bits


def _at_once(address: Address) -> str:
    """An address of IPv6 is used at once, without asking first whether somebody has it."""
    return " nodad" if address.family is Family.V6 else ""


def _host_lines(host: HostBehind) -> list[str]:
    return [
        "link set eth0 up",
        f"address add {host.address}/{_bits(host.address)} dev eth0{_at_once(host.address)}",
        f"route add {host.gateway} dev eth0",
        f"route add default via {host.gateway} dev eth0",
    ]


def _gateway_lines(access: Access, host: HostBehind) -> list[str]:
    router = ROUTER[access.inside.family]
    return [
        f"link set {LAN} up",
        f"address add {host.gateway}/{_bits(host.gateway)} dev {LAN}{_at_once(host.gateway)}",
        f"route add {host.address} dev {LAN}",
        f"link set {UPLINK} up mtu {access.mtu}",
        f"address add {access.inside}/{_bits(access.inside)} dev {UPLINK}{_at_once(access.inside)}",
        f"route add default via {router} dev {UPLINK} onlink src {access.inside}",
    ]


def _edge_lines(access: Access, side: Side) -> list[str]:
    family = access.inside.family
    own, other = _FAR_EDGE[side.other][family], _FAR_EDGE[side][family]
    bits = family.bits
    lines = [
        f"address add {ROUTER[family]}/{bits} dev gateway",
        f"link set gateway up mtu {access.mtu}",
        f"route add {access.inside} dev gateway",
        f"address add {own}/{bits} dev net",
        "link set net up",
        f"route add default via {other} dev net onlink",
    ]
    return [*lines, f"address add {access.outside}/{bits} dev net"] if access.translates else lines


def _filter_lines(access: Access) -> list[str]:
    """Return what lets pass, and translates, what the uplink does."""
    ip = "ip" if access.inside.family is Family.V4 else "ip6"
    drops = [
        "" if access.udp_leaves else 'iifname "gateway" tcp dport != 443 drop; iifname "gateway" meta l4proto != tcp drop;',
        "" if access.esp_passes and not access.translates else "meta l4proto 50 drop;",
        "" if access.calls_arrive else 'iifname "net" ct state new drop;',
    ]
    chains = [f"chain forward {{ type filter hook forward priority 0; {' '.join(filter(None, drops))} }}"]
    if access.translates:
        chains.append(f'chain out {{ type nat hook postrouting priority 100; oifname "net" snat {ip} to {access.outside}; }}')
        if access.calls_arrive:
            to = f"{ip} daddr {access.outside} udp dport {{ 500, 4500 }} dnat {ip} to {access.inside}"
            chains.append(f'chain in {{ type nat hook prerouting priority -100; iifname "net" {to}; }}')
    table = "\n".join(chains)
    return [f"nft -f - <<'END'\ntable inet edge {{\n{table}\n}}\nEND"]
