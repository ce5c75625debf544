"""A small world of network namespaces: two gateways, four hosts, two tunnels that the test itself carries, and an outside.

Every namespace is a Linux machine of its own. A tunnel is a tun device at each gateway, between which this process carries
the packets, and notes them; whatever reaches the outside is noted as well.
"""

from __future__ import annotations

import os
import select
import socket
import subprocess
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from threading import Event, Thread

from pontifex.kernel.namespaces import delete, open_packets, open_tun

_IPV4 = 0x0800

HOSTS = {  # network of the design: namespace of its host, namespace of its gateway, network without its last octet
    "a": ("left", "10.65.0"),
    "b": ("left", "10.65.4"),
    "c": ("right", "10.80.0"),
    "d": ("right", "10.80.1"),
}
TUNNELS = {"t1": ("10.95.0.1", "10.95.0.2"), "t2": ("10.95.1.1", "10.95.1.2")}
UPLINKS = {"left": "198.51.100.1", "right": "198.51.100.5"}


@dataclass(frozen=True)
class Seen:
    """A packet on its way: by which tunnel, "outside" where it came out there."""

    where: str
    source: str
    destination: str


class World:
    """The namespaces, as long as the test needs them."""

    def __init__(self, state: Path) -> None:
        self._prefix = f"px{os.getpid()}"
        self._state = state
        self._names = ["left", "right", "outside", *HOSTS]
        self.seen: list[Seen] = []
        self._stop = Event()
        self._ends: dict[int, tuple[str, int]] = {}  # file of a tunnel's end: its tunnel, and the file of the other end
        self._outside: socket.socket | None = None
        self._carrier = Thread(target=self._carry, daemon=True)

    def __enter__(self) -> World:
        for name in self._names:
            self._ip("netns", "add", self._netns(name))
            self.run(name, "ip", "link", "set", "lo", "up")
        for name, (gateway, network) in HOSTS.items():
            self._cable(name, "eth0", f"{network}.10/24", gateway, f"lan-{name}", f"{network}.1/24")
            self.run(name, "ip", "route", "add", "default", "via", f"{network}.1")
        for gateway, address in UPLINKS.items():
            router = f"{address.rpartition('.')[0]}.{int(address.rpartition('.')[2]) + 1}/30"
            self._cable(gateway, "uplink", f"{address}/30", "outside", f"to-{gateway}", router)
        for tunnel, (left, right) in TUNNELS.items():
            files = [self._tun("left", tunnel, left, right), self._tun("right", tunnel, right, left)]
            self._ends |= {files[0]: (tunnel, files[1]), files[1]: (tunnel, files[0])}
        self._outside = open_packets(self._netns("outside"), _IPV4)
        self._carrier.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._stop.set()
        self._carrier.join(5)
        for file in self._ends:
            os.close(file)
        if self._outside:
            self._outside.close()
        for name in self._names:
            delete(self._netns(name))

    def run(self, name: str, *command: str, text: str | None = None, check: bool = True) -> str:
        """Run a command on a machine, and return what it prints."""
        environment = {**os.environ, "PONTIFEX_STATE": str(self._state / name)}
        whole = ["ip", "netns", "exec", self._netns(name), *command]
        done = subprocess.run(whole, input=text, capture_output=True, text=True, check=False, env=environment, timeout=120)
        if check and done.returncode:
            raise AssertionError(f"{' '.join(command)} on {name}: {done.stderr or done.stdout}")
        return done.stdout

    def shell(self, name: str, lines: tuple[str, ...]) -> None:
        """Run the lines of a plan in a shell that stops at the first that fails."""
        self.run(name, "sh", "-eu", text="\n".join(lines) + "\n")

    def set_tunnel(self, tunnel: str, up: bool) -> None:
        """Take a tunnel up or down, at both ends."""
        for gateway in UPLINKS:
            self.run(gateway, "ip", "link", "set", tunnel, "up" if up else "down")

    def state(self, name: str) -> str:
        """Return all that decides about packets on a machine."""
        parts = (("ip", "rule"), ("ip", "-4", "route", "show", "table", "all"), ("nft", "list", "ruleset"))
        keys = ("net.ipv4.ip_forward", "net.ipv4.conf.all.rp_filter", "net.ipv6.conf.all.forwarding")
        switches = self.run(name, "sysctl", *keys)
        return "\n".join([*(self.run(name, *part) for part in parts), switches])

    def _netns(self, name: str) -> str:
        return f"{self._prefix}{name}"

    def _ip(self, *words: str) -> None:
        subprocess.run(["ip", *words], check=True, capture_output=True)

    def _cable(self, one: str, device: str, address: str, other: str, far_device: str, far_address: str) -> None:
        ends = (one, device, address), (other, far_device, far_address)
        self._ip(
            *("link", "add", device, "netns", self._netns(one), "type", "veth"),
            *("peer", "name", far_device, "netns", self._netns(other)),
        )
        for name, each, own in ends:
            self.run(name, "ip", "address", "add", own, "dev", each)
            self.run(name, "ip", "link", "set", each, "up")

    def _tun(self, gateway: str, device: str, address: str, peer: str) -> int:
        file = open_tun(self._netns(gateway), device)
        self.run(gateway, "ip", "address", "add", address, "peer", peer, "dev", device)
        self.run(gateway, "ip", "link", "set", device, "up")
        return file

    def _carry(self) -> None:
        assert self._outside
        while not self._stop.is_set():
            outside = self._outside.fileno()
            ready, _, _ = select.select([*self._ends, outside], [], [], 0.1)
            for file in ready:
                if file == outside:
                    with suppress(OSError):
                        self._note("outside", self._outside.recv(2048))
                    continue
                with suppress(OSError):  # a device that is down takes nothing
                    packet = os.read(file, 2048)
                    tunnel, far = self._ends[file]
                    self._note(tunnel, packet)
                    os.write(far, packet)

    def _note(self, where: str, packet: bytes) -> None:
        if packet and packet[0] >> 4 == 4:
            self.seen.append(Seen(where, socket.inet_ntoa(packet[12:16]), socket.inet_ntoa(packet[16:20])))
