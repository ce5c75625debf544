"""A real OpenSSH server in a network namespace, with folders of its own in the place of /etc and /run."""

from __future__ import annotations

import os
import socket
import subprocess
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace
from itertools import count
from pathlib import Path
from threading import Thread

import asyncssh
import pytest

from pontifex.connectors import DeviceAccess, DeviceProtocol
from pontifex.kernel.namespaces import delete, why_not, within

_numbers = count()
_ADDRESS = "127.0.0.1"
_OVERLAID = ("/etc/sysctl.d", "/etc/systemd", "/run")
OPERATOR = "operator-of-tests"  # who may do everything, by sudo
_ACCOUNT = f"{OPERATOR}:x:1977:1977::/:/bin/sh\n"


@dataclass(frozen=True)
class Machine:
    """A machine that is reached by SSH as root."""

    pid: int
    access: DeviceAccess

    def run(self, command: str) -> str:
        """Return what a command says on the machine itself."""
        done = subprocess.run(
            ["nsenter", f"--target={self.pid}", "--net", "--mount", "sh", "-c", command],
            capture_output=True,
            text=True,
            check=True,
        )
        return done.stdout


@contextmanager
def linux_machine(folder: Path, devices: tuple[str, ...]) -> Iterator[Machine]:
    """Start a machine that has tun devices of these names. The test is skipped where namespaces aren't permitted."""
    reason = why_not()
    if reason:
        pytest.skip(reason)
    namespace = f"pontifex-ssh-{os.getpid()}-{next(_numbers)}"  # tests run beside one another
    server: subprocess.Popen[bytes] | None = None
    _ip("netns", "add", namespace)
    try:
        for device in ("eth0", *devices):
            _ip("-n", namespace, "tuntap", "add", device, "mode", "tun")
        _ip("-n", namespace, "address", "add", "192.0.2.2/24", "dev", "eth0")
        for device in ("lo", "eth0", *devices):
            _ip("-n", namespace, "link", "set", device, "up")
        server, access = _server(folder, namespace)
        with _forwarded(namespace) as port:
            yield Machine(server.pid, replace(access, address=f"{_ADDRESS}:{port}"))
    finally:
        if server:
            server.terminate()
            server.wait()
        delete(namespace)


@contextmanager
def _forwarded(namespace: str) -> Iterator[int]:
    """Give a port on loopback here that leads to the machine's own SSH port."""
    with socket.create_server((_ADDRESS, 0)) as listening:
        Thread(target=_accept, args=(listening, namespace), daemon=True).start()
        yield listening.getsockname()[1]
        listening.shutdown(socket.SHUT_RDWR)


def _accept(listening: socket.socket, namespace: str) -> None:
    while True:
        try:
            here, _ = listening.accept()
        except OSError:  # it was closed
            return
        there = within(namespace, lambda: socket.create_connection((_ADDRESS, 22)))
        for ends in ((here, there), (there, here)):
            Thread(target=_pump, args=ends, daemon=True).start()


def _pump(source: socket.socket, target: socket.socket) -> None:
    with suppress(OSError):
        while octets := source.recv(65_536):
            target.sendall(octets)
    for end in (source, target):
        with suppress(OSError):
            end.shutdown(socket.SHUT_RDWR)


def _server(folder: Path, namespace: str) -> tuple[subprocess.Popen[bytes], DeviceAccess]:
    host, person = asyncssh.generate_private_key("ssh-ed25519"), asyncssh.generate_private_key("ssh-ed25519")
    host.write_private_key(folder / "host")
    (folder / "host").chmod(0o600)
    person.write_public_key(folder / "authorized")
    settings = {
        "ListenAddress": _ADDRESS,
        "HostKey": folder / "host",
        "AuthorizedKeysFile": "/run/authorized",
        "PasswordAuthentication": "no",
        "PermitRootLogin": "yes",
        "StrictModes": "no",
        "UsePAM": "no",
        "PidFile": "none",
    }
    (folder / "config").write_text("".join(f"{key} {value}\n" for key, value in settings.items()))
    added = {
        "passwd": _ACCOUNT,
        "shadow": f"{OPERATOR}:*:19000:0:99999:7:::\n",
        "sudoers": f"{OPERATOR} ALL=(ALL) NOPASSWD: ALL\n",
    }
    for name, line in added.items():
        (folder / name).write_text((Path("/etc") / name).read_text() + line)
        (folder / name).chmod(0o440 if name == "sudoers" else 0o644)
    overlaid = " && ".join(
        [f"mkdir -p {directory} && mount -t tmpfs tmpfs {directory}" for directory in _OVERLAID]
        + [f"mount --bind {folder / name} /etc/{name}" for name in added]
    )
    start = (
        f"{overlaid} && mkdir -p /run/sshd && cp {folder / 'authorized'} /run && exec /usr/sbin/sshd -D -e -f {folder / 'config'}"
    )
    command = ["ip", "netns", "exec", namespace, "unshare", "--mount", "--propagation", "private", "sh", "-c", start]
    server = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=(folder / "log").open("wb"))
    until = time.monotonic() + 30
    while "Server listening" not in (folder / "log").read_text():
        assert server.poll() is None, (folder / "log").read_text()
        assert time.monotonic() < until, "sshd doesn't start"
        time.sleep(0.05)
    access = DeviceAccess(
        protocol=DeviceProtocol.SSH,
        address=f"{_ADDRESS}:22",
        user="root",
        secret=person.export_private_key().decode(),
        fingerprint=host.get_fingerprint(),
    )
    return server, access


def _ip(*words: str) -> None:
    subprocess.run(["ip", *words], check=True, capture_output=True)
