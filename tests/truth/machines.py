"""A design as network namespaces: each gateway, each network's host and the outside is a Linux machine of its own.

Tunnels are tun devices between which this process carries packets, as whatever ends them would: it lets in what the networks
of both ends name, and nothing else. Requests are real packets of hosts, each with a number of its own in its port or
identifier, by which it is known again wherever it comes by.
"""

from __future__ import annotations

import os
import select
import signal
import socket
import subprocess
import time
from collections import defaultdict
from collections.abc import Iterable
from contextlib import suppress
from functools import partial
from itertools import product
from pathlib import Path
from threading import Event, Thread
from typing import Final

from pontifex.core.addressing import Address
from pontifex.core.kinds import SIDES, Mode, Network, Side, Tunnel
from pontifex.core.model import Design
from pontifex.kernel.namespaces import open_packets, open_tun, within
from tests.truth.packets import PORTS, TCP, Request, Sent, ask, asking, echo, identified, is_answered, listening, named

_ALL_FRAMES: Final = 0x0003


def shell(namespace: str, lines: Iterable[str], state: Path) -> str:
    """Run lines in a shell of a machine that stops at the first that fails; return what went wrong."""
    done = subprocess.run(
        ["ip", "netns", "exec", namespace, "sh", "-eu"],
        input="\n".join(lines) + "\n",
        capture_output=True,
        text=True,
        check=False,
        env={**os.environ, "PONTIFEX_STATE": str(state)},
        timeout=180,
    )
    return "" if done.returncode == 0 else f"exit {done.returncode}: {done.stderr.strip()}"


class Machines:
    """The namespaces of a design, as long as they are needed. One gateway a site."""

    def __init__(self, design: Design, down: frozenset[str], state: Path) -> None:
        self.design, self.down, self._state = design, down, state
        self._prefix = f"pt{os.getpid()}"
        self._names = [
            "outside",
            *(f"g-{gateway.id}" for gateway in design.gateways),
            *(f"h-{network.id}" for network in design.networks),
        ]
        self._ends: dict[int, tuple[Tunnel, Side, int]] = {}  # file of a tunnel's end: the tunnel, the side, the far file
        self._there: dict[int, list[str]] = defaultdict(list)
        self._back: dict[int, list[str]] = defaultdict(list)
        self._answering: dict[int, socket.socket] = {}
        self._stop = Event()
        self._worker = Thread(target=self._carry, daemon=True)

    def namespace(self, name: str) -> str:
        """Return the namespace of a machine."""
        return f"{self._prefix}{name}"

    def state_of(self, gateway_id: str) -> Path:
        """Return where a plan keeps its state on a gateway."""
        return self._state / gateway_id

    def run(self, gateway_id: str, lines: Iterable[str]) -> str:
        """Run lines of a plan on a gateway; return what went wrong."""
        return shell(self.namespace(f"g-{gateway_id}"), lines, self.state_of(gateway_id))

    def __enter__(self) -> Machines:
        batch = [f"netns add {self.namespace(name)}" for name in self._names]
        self._ip(batch)
        for name in self._names:  # an address is used at once, without asking first whether somebody has it
            self._sysctl(name, {f"net.ipv6.conf.{which}.accept_dad": "0" for which in ("all", "default")})
        for place, gateway in enumerate(self.design.gateways):
            near = (f"g-{gateway.id}", "uplink", [f"198.51.100.{4 * place + 1}/30", f"2001:db8:{place + 1}::1/64"])
            far = ("outside", f"to{place}", [f"198.51.100.{4 * place + 2}/30", f"2001:db8:{place + 1}::2/64"])
            self._cable(near, far)
        for place, network in enumerate(self.design.networks):
            self._host(place, network)
        for tunnel in self.design.tunnels:
            files = [self._tun(tunnel, side) for side in SIDES]
            for side, file, far_file in zip(SIDES, files, reversed(files), strict=True):
                self._ends[file] = (tunnel, side, far_file)
        self._outside = open_packets(self.namespace("outside"), _ALL_FRAMES)
        for network in self.design.networks:
            self._answer(network)
        for gateway in self.design.gateways:
            self._policies(gateway.id)
        self._worker.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._stop.set()
        self._worker.join(5)
        for file in self._ends:
            os.close(file)
        for opened in (self._outside, *self._answering.values()):
            opened.close()
        for name in self._names:
            pids = subprocess.run(["ip", "netns", "pids", self.namespace(name)], capture_output=True, text=True, check=False)
            for pid in pids.stdout.split():
                with suppress(ProcessLookupError):
                    os.kill(int(pid), signal.SIGKILL)
        subprocess.run(
            ["ip", "-force", "-batch", "-"],
            input="\n".join(f"netns del {self.namespace(name)}" for name in self._names),
            capture_output=True,
            text=True,
            check=False,
        )

    def _ip(self, lines: Iterable[str], name: str | None = None, *options: str) -> None:
        words = ["ip", *options, *(["-n", self.namespace(name)] if name else []), "-batch", "-"]
        done = subprocess.run(words, input="\n".join(lines) + "\n", capture_output=True, text=True, check=False)
        if done.returncode:
            raise AssertionError(f"{name}: {done.stderr}")

    def _sysctl(self, name: str, keys: dict[str, str]) -> None:
        words = [f"{key}={value}" for key, value in keys.items()]
        subprocess.run(["ip", "netns", "exec", self.namespace(name), "sysctl", "-qw", *words], check=True, capture_output=True)

    def _cable(self, *ends: tuple[str, str, list[str]]) -> None:
        (one, device, _), (other, far, _) = ends
        names = self.namespace(one), self.namespace(other)
        self._ip([f"link add {device} netns {names[0]} type veth peer name {far} netns {names[1]}"])
        for name, each, addresses in ends:
            added = [f"address add {address} dev {each}{' nodad' if ':' in address else ''}" for address in addresses]
            self._ip([*added, f"link set {each} up"], name)

    def _host(self, place: int, network: Network) -> None:
        (gateway,) = [candidate for candidate in self.design.gateways if candidate.site_id == network.site_id]
        name, length = f"h-{network.id}", network.prefix.length
        near = (f"g-{gateway.id}", f"lan{place}", [f"{network.gateway_address}/{length}"])
        self._cable(near, (name, "eth0", [f"{host_of(network)}/{length}"]))
        self._ip([f"route add default via {network.gateway_address}", "link set lo up"], name)
        # a redirect would let one request change where the others go (RFC 4861 section 8)
        deaf = {f"net.{ip}.conf.{which}.accept_redirects": "0" for ip in ("ipv4", "ipv6") for which in ("all", "eth0")}
        self._sysctl(name, {"net.ipv4.tcp_reflect_tos": "1", **deaf})

    def _tun(self, tunnel: Tunnel, side: Side) -> int:
        end = tunnel.end(side)
        name, device = f"g-{end.gateway_id}", tunnel.id
        file = open_tun(self.namespace(name), device)
        near, far = tunnel.end(side).inner_address, tunnel.end(side.other).inner_address
        lines = [f"address add {near.address} peer {far.address} dev {device}"] if near and far else []
        self._ip([*lines, f"link set {device} {'down' if tunnel.id in self.down else 'up'}"], name)
        return file

    def _policies(self, gateway_id: str) -> None:
        """What goes by networks goes before everything else, and is dropped while its tunnel is down (RFC 4301)."""
        name = f"g-{gateway_id}"
        self._ip(["link set lo up"], name)
        for family, bits in (("-4", 32), ("-6", 128)):
            tables: list[str] = []
            found: list[tuple[int, str]] = []  # the longest prefix first
            for k, tunnel in enumerate(self.design.tunnels):
                for end in (tunnel.left, tunnel.right):
                    if end.gateway_id != gateway_id or end.mode is not Mode.POLICY:
                        continue
                    hop = "unreachable default" if tunnel.id in self.down else f"default dev {tunnel.id}"
                    tables.append(f"route add {hop} table {50 + k}")
                    for local, remote in product(end.local_networks, end.remote_networks):
                        if local.family.bits == remote.family.bits == bits:
                            found.append((remote.last - remote.first, f"from {local.prefix} to {remote.prefix} table {50 + k}"))
            rules = [f"rule add pref {10 + place} {words}" for place, (_, words) in enumerate(sorted(found))]
            self._ip([*tables, *rules], name, family)

    # Answers of hosts

    def _answer(self, network: Network) -> None:
        family = socket.AF_INET if network.prefix.family.bits == 32 else socket.AF_INET6
        for kind in (socket.SOCK_STREAM, socket.SOCK_DGRAM):
            for port in PORTS:
                made = within(self.namespace(f"h-{network.id}"), partial(listening, family, kind, port))
                self._answering[made.fileno()] = made

    # Carrying

    def _carry(self) -> None:
        outside = self._outside.fileno()
        watched = [*self._ends, outside, *self._answering]
        while not self._stop.is_set():
            ready, _, _ = select.select(watched, [], [], 0.05)
            for file in ready:
                with suppress(OSError):
                    if file == outside:
                        self._note("outside", self._outside.recv(2048))
                    elif file in self._answering:
                        echo(self._answering[file])
                    else:
                        self._pass(file)

    def _pass(self, file: int) -> None:
        tunnel, side, far = self._ends[file]
        packet = os.read(file, 4096)  # a device that is down takes nothing
        if self._note(tunnel.id, packet, only_if=named(tunnel, side, packet)):
            os.write(far, packet)

    def _note(self, where: str, packet: bytes, only_if: bool = True) -> bool:
        known = identified(packet)
        if known and only_if:
            number, back = known
            places = (self._back if back else self._there)[number]
            if where not in places:
                places.append(where)
        return only_if

    # Requests

    def send(self, requests: list[Request], wait_s: float = 0.6) -> dict[int, Sent]:
        """Send requests all at once, and return what became of each."""
        self._there.clear()
        self._back.clear()
        sockets = {
            request.number: within(self.namespace(f"h-{request.network_id}"), partial(asking, request)) for request in requests
        }
        by_file = {made.fileno(): number for number, made in sockets.items()}
        for candidate in requests:
            with suppress(OSError):
                ask(sockets[candidate.number], candidate)
        answered: set[int] = set()
        until = time.monotonic() + wait_s
        by_number = {request.number: request for request in requests}
        while len(answered) < len(requests) and (left := until - time.monotonic()) > 0:
            waiting = [file for file, number in by_file.items() if number not in answered]
            connecting = [file for file in waiting if by_number[by_file[file]].protocol == TCP]
            reading = [file for file in waiting if by_number[by_file[file]].protocol != TCP]
            readable, writable, _ = select.select(reading, connecting, [], min(left, 0.05))
            for file in (*readable, *writable):
                number = by_file[file]
                verdict = is_answered(sockets[number], by_number[number])
                if verdict:
                    answered.add(number)
                elif verdict is False:
                    del by_file[file]
        time.sleep(0.02)  # for what is on its way through the carrier
        for made in sockets.values():
            made.close()
        return {number: Sent(tuple(self._there[number]), tuple(self._back[number]), number in answered) for number in by_number}


def host_of(network: Network) -> Address:
    """Return the address of a network's host: the tenth."""
    return Address(network.prefix.family, network.prefix.network + 10)
