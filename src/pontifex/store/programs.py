"""PostgreSQL's own programs, run in an environment that holds nothing of ours."""

from __future__ import annotations

import os
import pwd
import subprocess
import tempfile
from pathlib import Path
from typing import Final

_ENVIRONMENT: Final = {"PATH": "/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin", "LC_ALL": "C.UTF-8"}


class ClusterError(Exception):
    """The private cluster can't be used; the message says what to do."""


def run(program: str, *arguments: str, check: bool = True) -> int:
    """Run a program as the user who owns the cluster and return its status. Raise ClusterError unless it may fail."""
    return _run(_command(program, *arguments), _ENVIRONMENT, check=check)


def run_as_client(program: str, *arguments: str, password_file: Path) -> None:
    """Run a program that connects to a database, with its password in a file. Raise ClusterError."""
    _run([str(_programs() / program), *arguments], {**_ENVIRONMENT, "PGPASSFILE": str(password_file)}, check=True)


def _run(command: list[str], environment: dict[str, str], *, check: bool) -> int:
    # Output goes to a file: a server started by pg_ctl would hold a pipe open for as long as it runs.
    with tempfile.TemporaryFile("w+") as output:
        status = subprocess.run(
            command, check=False, cwd="/", env=environment, stdin=subprocess.DEVNULL, stdout=output, stderr=output
        ).returncode
        if status and check:
            output.seek(0)
            raise ClusterError(f"{Path(command[0]).name} failed ({status}): {output.read().strip()}")
    return status


def _command(program: str, *arguments: str) -> list[str]:
    path = str(_programs() / program) if (_programs() / program).exists() else program
    as_postgres = ["runuser", "-u", "postgres", "--"] if needs_other_user() else []
    return [*as_postgres, path, *arguments]


def needs_other_user() -> bool:
    """Whether the programs run as the user `postgres`: PostgreSQL refuses to run as root."""
    return os.geteuid() == 0


def postgres_account() -> pwd.struct_passwd:
    """Return the user of Debian's package. Raise ClusterError where there is none."""
    try:
        return pwd.getpwnam("postgres")
    except KeyError:
        raise ClusterError("there is no user 'postgres': install Debian's package postgresql") from None


def _programs() -> Path:
    """Return the directory of the newest PostgreSQL that Debian installed."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda path: int(path.parts[-3]))
    if not found:
        raise ClusterError("PostgreSQL is not installed: run 'apt-get install postgresql' as root, or 'make setup'")
    return found[-1].parent
