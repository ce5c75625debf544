"""The state directory: where the private database and the master key are, and that one server at a time uses it."""

from __future__ import annotations

import fcntl
import hashlib
import os
import stat
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Final

from pontifex.store import MasterKeyFile

_IN_USE_BY: Final = "in-use-by"  # the process, and the address of its server


class StateInUseError(Exception):
    """Another process uses the state directory; the message says which, and what to do."""


@contextmanager
def held_state(state: Path) -> Iterator[None]:
    """Hold a state directory for this process, made if it is absent. Raise StateInUseError."""
    state.mkdir(parents=True, exist_ok=True)
    with open(state / _IN_USE_BY, "a+") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            lock.seek(0)
            holder = lock.readline().strip() or "unknown"
            what_to_do = "stop that one, or set PONTIFEX_STATE to another directory"
            raise StateInUseError(f"{state} is in use by another Pontifex (process {holder}): {what_to_do}") from None
        lock.truncate(0)
        lock.write(f"{os.getpid()}\n")
        lock.flush()
        yield


def tell_address(state: Path, address: str) -> None:
    """Leave word in the state directory at which address its server answers."""
    with open(state / _IN_USE_BY, "a") as lock:
        lock.write(f"{address}\n")


def address_of(state: Path) -> str | None:
    """Return the address of the server that uses the state directory; None where there is none."""
    try:
        with held_state(state):
            return None
    except StateInUseError:
        lines = (state / _IN_USE_BY).read_text().splitlines()
        return lines[1] if len(lines) > 1 else None


def master_key_file(state: Path) -> MasterKeyFile:
    """Return the file of the master key in a state directory."""
    return MasterKeyFile(state / "master-key")


def cluster_directory(state: Path) -> Path:
    """Return where the private database keeps its data: in the state directory, where PostgreSQL's user can enter it.

    Started by root it runs as the user `postgres`, who can't enter root's home, for example; then it is a directory of
    the system's, one for each state directory.
    """
    existing = [folder for folder in (state, *state.parents) if folder.exists()]
    if os.geteuid() or all(folder.stat().st_mode & stat.S_IXOTH for folder in existing):
        return state / "postgresql"
    name = hashlib.sha256(str(state).encode()).hexdigest()[:12]
    return Path("/var/lib/pontifex") / name / "postgresql"
