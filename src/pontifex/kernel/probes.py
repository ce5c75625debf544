"""Probes of real hosts behind the gateways: ping, the largest packet, a connection of TCP, and the hops on the way."""

from __future__ import annotations

import re
import socket
import subprocess
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from typing import Final

from pontifex.core.addressing import Family
from pontifex.core.ipsec.overhead import IP_HEADER
from pontifex.core.kinds import SIDES, Side
from pontifex.core.rehearsal.probes import ProbeKind, ProbeResult
from pontifex.kernel.machines import HostBehind, TunnelMachines
from pontifex.kernel.namespaces import within

_ICMP_HEADER: Final = 8
_SMALL: Final = 56
_TIME: Final = re.compile(r"time=(\d{1,6}(?:\.\d{1,6})?) ms")
_TCP_S: Final = 3.0


@dataclass(frozen=True, slots=True)
class KernelProbes:
    """Tries what hosts at both sides do. `mtu` is the largest packet that the tunnel takes, once that is known."""

    machines: TunnelMachines
    hosts: dict[Side, HostBehind]
    port: int  # of TCP
    mtu: int | None = None

    def all(self, kinds: tuple[ProbeKind, ...]) -> tuple[ProbeResult, ...]:
        """Try kinds of probes from behind both gateways, all at once."""
        tried = [(kind, side) for kind in kinds for side in SIDES]
        if not tried:
            return ()
        with ThreadPoolExecutor(max_workers=len(tried)) as pool:
            return tuple(pool.map(lambda probe: _TRIED[probe[0]](self, probe[1]), tried))

    def _near(self, side: Side) -> str:
        return self.machines.name("host", side)

    def _far(self, side: Side) -> str:
        return str(self.hosts[side.other].address)

    def headers(self, side: Side) -> int:
        """Return how many octets of a ping are headers."""
        return IP_HEADER[self.hosts[side].address.family] + _ICMP_HEADER

    def ping(self, side: Side, kind: ProbeKind, octets: int, *more: str) -> ProbeResult:
        """Ping a host at the other side with a packet of so many octets, which isn't to be cut."""
        size = str(octets - self.headers(side))
        printed = _run(self._near(side), "ping", "-n", "-c", "1", "-W", "2", "-M", "do", "-s", size, *more, self._far(side))
        found = _TIME.search(printed)
        took = float(found[1]) if found else None
        text = f"answered after {took:g} ms" if took is not None else _why(printed)
        return ProbeResult(kind=kind, sender=side, passes=took is not None, round_trip_ms=took, octets=octets, text=text)

    def sized(self, side: Side, kind: ProbeKind, more: int) -> ProbeResult:
        """Ping with the largest packet that the tunnel takes, or one that is larger by some octets."""
        if self.mtu is None:
            return _lost(side, kind, "no tunnel carries it")
        return self.ping(side, kind, self.mtu + more)

    def tcp(self, side: Side) -> ProbeResult:
        """Connect to a port of a host at the other side, which listens there."""
        far = self.hosts[side.other].address
        family = socket.AF_INET if far.family is Family.V4 else socket.AF_INET6
        with within(self.machines.name("host", side.other), partial(_listening, family, self.port)):
            began = time.monotonic()
            why = within(self._near(side), partial(_connect, family, str(far), self.port))
            took = round((time.monotonic() - began) * 1000, 3)
        if why:
            return _lost(side, ProbeKind.TCP, why)
        text = f"connected to port {self.port} after {took:g} ms"
        return ProbeResult(kind=ProbeKind.TCP, sender=side, passes=True, round_trip_ms=took, octets=0, text=text)

    def hops(self, side: Side) -> ProbeResult:
        """Follow the way to a host at the other side, hop by hop, without names."""
        printed = _run(self._near(side), "traceroute", "-n", "-q", "1", "-w", "2", "-m", "4", "-I", self._far(side))
        hops = [words[1] for line in printed.splitlines()[1:] if len(words := line.split()) > 1]
        reached = self._far(side) in hops
        way = ", ".join(hops[: hops.index(self._far(side)) + 1] if reached else hops) or "nobody answers"
        return ProbeResult(kind=ProbeKind.HOPS, sender=side, passes=reached, round_trip_ms=None, octets=0, text=way)


def _lost(side: Side, kind: ProbeKind, text: str) -> ProbeResult:
    return ProbeResult(kind=kind, sender=side, passes=False, round_trip_ms=None, octets=0, text=text)


_TRIED: Final[dict[ProbeKind, Callable[[KernelProbes, Side], ProbeResult]]] = {
    ProbeKind.ACROSS: lambda probes, side: probes.ping(side, ProbeKind.ACROSS, probes.headers(side) + _SMALL),
    ProbeKind.LARGEST: lambda probes, side: probes.sized(side, ProbeKind.LARGEST, 0),
    ProbeKind.TOO_LARGE: lambda probes, side: probes.sized(side, ProbeKind.TOO_LARGE, 1),
    ProbeKind.TCP: KernelProbes.tcp,
    ProbeKind.HOPS: KernelProbes.hops,
}


def _run(namespace: str, *words: str) -> str:
    done = subprocess.run(["ip", "netns", "exec", namespace, *words], capture_output=True, text=True, check=False, timeout=30)
    return done.stdout + done.stderr


def _why(printed: str) -> str:
    """Say in words why no answer came to a ping."""
    if "too long" in printed or "Frag needed" in printed or "Packet too big" in printed:
        return "larger than the tunnel takes"
    return "unreachable" if "nreachable" in printed else "no answer"


def _listening(family: int, port: int) -> socket.socket:
    made = socket.socket(family, socket.SOCK_STREAM)
    made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    made.bind(("" if family == socket.AF_INET else "::", port))
    made.listen(8)
    return made


def _connect(family: int, address: str, port: int) -> str:
    """Connect; say why that didn't work, or nothing where it did."""
    with socket.socket(family, socket.SOCK_STREAM) as made:
        made.settimeout(_TCP_S)
        try:
            made.connect((address, port))
        except TimeoutError:
            return "no answer"
        except OSError as error:
            return "refused" if isinstance(error, ConnectionRefusedError) else "unreachable"
    return ""
