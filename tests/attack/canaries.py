"""Secrets that nobody uses elsewhere, and where they are looked for afterwards."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Final

import httpx

from tests.attack.meanwhile import signed_in
from tests.support.running import RunningProduct

CANARY: Final = "Canary-Ketch-48151623"
_DESIGN: Final = "/api/designs/skerry-line"


def plant(product: RunningProduct) -> list[httpx.Response]:
    """Give the product secrets in the places for them and in places that are none; return all its answers but the one place."""
    with signed_in(product) as client:
        design = client.get(_DESIGN).json()
        key = client.post(f"{_DESIGN}/keys", json={"how": "set", "secret": CANARY})
        tunnel = next(candidate for candidate in design["tunnels"] if candidate["id"] == "harbour-ostvik")
        tunnel["left"]["key"] = key.json()
        change = {
            "base_revision": design["revision"],
            "note": "Another key",
            "operations": [{"op": "put-tunnel", "object": tunnel}],
        }
        answers = [key, client.post(f"{_DESIGN}/changes", json=change)]
        answers += [
            client.post(f"{_DESIGN}/keys", json={"how": "set", "secret": [CANARY]}),
            client.post(f"{_DESIGN}/keys", json={"how": "set", "secret": CANARY, CANARY: 1}),
            client.post(f"{_DESIGN}/keys", content=f'{{"how": "set", "secret": "{CANARY}'.encode()),
            client.post(f"{_DESIGN}/keys", json={"how": CANARY}),
            client.post(f"{_DESIGN}/keys", json={"how": "set", "secret": CANARY * 100}),
        ]
        answers += [
            client.get(f"{_DESIGN}{path}") for path in ("", "/analysis", "/export", "/changes", "/tunnels/harbour-ostvik/match")
        ]
    return answers


def found(product: RunningProduct, state: Path, answers: list[httpx.Response]) -> list[str]:
    """Return the places where the secret, or the master key, can be read: in none of them it should. The product is stopped."""
    secrets = (CANARY.encode(), (state / "master-key").read_bytes().strip())
    return [place for place, text in _places(product, state, answers) if any(secret in text for secret in secrets)]


def _places(product: RunningProduct, state: Path, answers: list[httpx.Response]) -> Iterator[tuple[str, bytes]]:
    yield from ((f"answer to {answer.request.method} {answer.request.url.path}", answer.content) for answer in answers)
    for file in (state / "postgresql").rglob("*"):
        if file.is_file():
            yield f"database: {file.relative_to(state)}", file.read_bytes()
    for process in Path("/proc").iterdir():
        if process.name.isdigit():
            for name in ("cmdline", "environ"):
                try:
                    yield f"{name} of process {process.name}", (process / name).read_bytes()
                except OSError:  # it has ended
                    continue
    backup = state / "all.backup"
    subprocess.run(
        [sys.executable, "-m", "pontifex.cli", "backup", str(backup)],
        env={"PONTIFEX_STATE": str(state), "PATH": "/usr/bin:/bin"},
        check=True,
        capture_output=True,
    )
    program = sorted(Path("/usr/lib/postgresql").glob("*/bin/pg_restore"))[-1]
    yield "dump", subprocess.run([str(program), "--file=-", str(backup)], check=True, capture_output=True).stdout
    yield "log", (product.printed + product.stop()).encode()  # all that it has said from its start to its end
