"""Network namespaces of the Linux kernel: machines with cables between them, and what is opened inside one."""

from __future__ import annotations

import ctypes
import fcntl
import os
import shutil
import signal
import socket
import struct
import subprocess
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from pathlib import Path
from typing import Final, TypeVar

_TUNSETIFF: Final = 0x400454CA
_TUN_WITHOUT_HEADER: Final = 0x0001 | 0x1000  # IFF_TUN, IFF_NO_PI
_CLONE_NEWNET: Final = 0x40000000

_COMMANDS: Final = ("ip", "nft", "sysctl", "ping", "traceroute")
_PATH: Final = f"{os.environ.get('PATH', '')}:/usr/sbin:/sbin"

Opened = TypeVar("Opened")


def within(namespace: str, make: Callable[[], Opened]) -> Opened:
    """Do something in a namespace, in a thread of its own: what is opened there belongs there."""

    def work() -> Opened:
        with Path(f"/var/run/netns/{namespace}").open() as file:
            if ctypes.CDLL(None, use_errno=True).setns(file.fileno(), _CLONE_NEWNET):
                raise OSError(ctypes.get_errno(), "setns")
        return make()

    with ThreadPoolExecutor(max_workers=1) as thread:
        return thread.submit(work).result()


def open_packets(namespace: str, ether_type: int) -> socket.socket:
    """Return a socket that reads every packet of an Ethernet type that passes in a namespace."""
    return within(namespace, lambda: socket.socket(socket.AF_PACKET, socket.SOCK_DGRAM, socket.htons(ether_type)))


def open_tun(namespace: str, device: str) -> int:
    """Return the file of a new tun device in a namespace."""

    def opened() -> int:
        file = os.open("/dev/net/tun", os.O_RDWR | os.O_NONBLOCK)
        fcntl.ioctl(file, _TUNSETIFF, struct.pack("16sH", device.encode(), _TUN_WITHOUT_HEADER))
        return file

    return within(namespace, opened)


def delete(namespace: str) -> None:
    """Delete a namespace, if it is there, with what still runs in it: a plan that watches its links would keep it."""
    running = subprocess.run(["ip", "netns", "pids", namespace], capture_output=True, text=True, check=False)
    for process in map(int, running.stdout.split()):
        with suppress(ProcessLookupError):  # it has ended by itself
            os.kill(process, signal.SIGKILL)
    subprocess.run(["ip", "netns", "del", namespace], capture_output=True, check=False)


def why_not() -> str:
    """Return why namespaces can't be used here; empty when they can."""
    lacking = [command for command in _COMMANDS if shutil.which(command, path=_PATH) is None]
    if lacking:
        return f"these commands aren't here: {', '.join(lacking)}"
    name = f"px{os.getpid()}probe"
    tried = subprocess.run(["ip", "netns", "add", name], capture_output=True, text=True, check=False)
    delete(name)
    if tried.returncode:
        return f"network namespaces are not permitted here: {tried.stderr.strip()}"
    return "" if Path("/dev/net/tun").exists() else "there is no /dev/net/tun here"
