"""Backups, restores, another master key and designs as a whole, by the command line on a state directory of the test's."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import httpx
import psycopg
import pytest

from tests.support.running import PATIENCE_S, RunningProduct

HEADERS = {"Content-Type": "application/json"}


@pytest.fixture
def states() -> Iterator[Path]:
    """A directory for state directories, which the user postgres can enter."""
    with tempfile.TemporaryDirectory(prefix="pontifex-states-") as directory:
        Path(directory).chmod(0o711)
        yield Path(directory)


def _pontifex(state, *arguments, **settings):
    environment = {**os.environ, "PONTIFEX_STATE": str(state), **settings}
    command = [sys.executable, "-m", "pontifex.cli", *map(str, arguments)]
    return subprocess.run(command, env=environment, capture_output=True, text=True, timeout=180, check=False)


def _said(state, *arguments, **settings):
    result = _pontifex(state, *arguments, **settings)
    assert result.returncode == 0, result.stderr
    return result.stdout


def _signed_in(product):
    client = httpx.Client(follow_redirects=True, base_url=product.base, timeout=PATIENCE_S)
    client.get(product.address)
    return client


def _key_of(client):
    design = client.get("/api/designs/skerry-line").json()
    tunnel = next(candidate for candidate in design["tunnels"] if candidate["id"] == "harbour-ostvik")
    return client.post(f"/api/designs/skerry-line/keys/{tunnel['left']['key']['reference']}/show", headers=HEADERS)


def test_a_backup_is_restored_on_another_machine(states):
    """Database and key, taken while the server runs, give all designs and keys back; without the key that is told at start."""
    here, there, file = states / "here", states / "there", states / "line.backup"
    product = RunningProduct(here)
    product.start()
    try:
        client = _signed_in(product)
        yard = {"op": "put-site", "object": {"id": "yard", "name": "Yard", "kind": "office"}}
        change = {"base_revision": 0, "note": "Add the yard", "operations": [yard]}
        assert client.post("/api/designs/skerry-line/changes", json=change).is_success
        seen = client.get("/api/designs/skerry-line").json()
        assert f"Wrote {file}" in _said(here, "backup", file)
        assert "is in use by another Pontifex" in _pontifex(here, "restore", file).stderr
    finally:
        product.stop()
    for written in (file, Path(f"{file}.key")):
        assert written.stat().st_mode & 0o077 == 0
    key = Path(f"{file}.key").rename(states / "key")
    assert "the master key is missing" in _pontifex(there, "restore", file).stderr.lower()
    key.rename(f"{file}.key")
    assert "holds designs" in _pontifex(there, "restore", file).stderr
    assert "Restored 1 designs." in _said(there, "restore", file, "--replace")
    other = RunningProduct(there)
    other.start()
    try:
        client = _signed_in(other)
        now = client.get("/api/designs/skerry-line").json()
        assert "yard" in [site["id"] for site in now["sites"]]
        assert now["incarnation"] != seen["incarnation"]
        assert len(_key_of(client).json()["secret"]) > 8
        late = {"base_revision": seen["revision"], "incarnation": seen["incarnation"], "note": "late", "operations": [yard]}
        refused = client.post("/api/designs/skerry-line/changes", json=late)
        assert (refused.status_code, "another history" in refused.json()["detail"]) == (409, True)
    finally:
        other.stop()


def test_the_master_key_is_rotated_and_designs_are_put_aside(states):
    """After a rotation the same keys are shown; a copy has the keys too; what was deleted is listed and restored."""
    state = states / "here"
    product = RunningProduct(state)
    product.start()
    product.stop()
    before = (state / "master-key").read_text()
    assert "keys under the new master key" in _said(state, "rotate-master-key")
    assert (state / "master-key").read_text() != before
    assert _said(state, "designs", "duplicate", "skerry-line", "Skerry Copy") == "skerry-copy\n"
    _said(state, "designs", "archive", "skerry-copy")
    assert _said(state, "designs", "list").splitlines()[0] == "skerry-copy\t0\tarchived\tSkerry Copy"
    _said(state, "designs", "archive", "skerry-copy", "--take-out")
    _said(state, "designs", "delete", "skerry-line")
    assert [line.split()[0] for line in _said(state, "designs", "list").splitlines()] == ["skerry-copy"]
    assert "There is no design 'skerry-line'." in _pontifex(state, "designs", "delete", "skerry-line").stderr
    assert _said(state, "designs", "list", "--deleted").startswith("skerry-line\t")
    _said(state, "designs", "restore", "skerry-line")
    product.start()
    try:
        client = _signed_in(product)
        assert len(_key_of(client).json()["secret"]) > 8
        copy = client.get("/api/designs/skerry-copy").json()
        reference = next(candidate for candidate in copy["tunnels"] if candidate["id"] == "harbour-ostvik")["left"]["key"][
            "reference"
        ]
        assert client.post(f"/api/designs/skerry-copy/keys/{reference}/show", headers=HEADERS).is_success
    finally:
        product.stop()


def test_a_backup_of_nothing_is_refused(states):
    """A directory that no server has used is no one to back up: nothing is made in it, and the setting is named."""
    result = _pontifex(states / "elsewhere", "backup", states / "nothing.backup")
    assert result.returncode == 1
    assert "set PONTIFEX_STATE to the state directory of the server" in result.stderr
    assert list(states.iterdir()) == []


def test_one_server_for_each_state_directory(states):
    """The second one says who uses it and what to do, and leaves the first one alone."""
    product = RunningProduct(states / "here")
    product.start()
    try:
        second = _pontifex(states / "here", "serve")
        assert second.returncode == 1
        assert "is in use by another Pontifex (process" in second.stderr
        assert "Traceback" not in second.stderr
        assert _signed_in(product).get("/api/designs").is_success
    finally:
        product.stop()
    shutil.rmtree(states / "here")


def test_three_servers_on_one_empty_database(cluster, states):
    """All come up at once; the demo is there once."""
    with psycopg.connect(cluster.admin_url(), autocommit=True) as connection:
        connection.execute("CREATE DATABASE shared_by_three")
    url = cluster.url("shared_by_three")
    settings = {"PONTIFEX_DATABASE_URL": url, "PONTIFEX_MASTER_KEY": "A" * 43 + "="}
    products = [RunningProduct(states / str(k), settings) for k in range(3)]
    try:
        with ThreadPoolExecutor(3) as pool:
            list(pool.map(RunningProduct.start, products))
        listed = [[design["id"] for design in _signed_in(product).get("/api/designs").json()] for product in products]
        assert listed == [["skerry-line"]] * 3
    finally:
        for product in products:
            product.stop()


def test_a_newer_schema_is_told(url, engine, states):
    """A database that a newer version has used is left alone, and a sentence says so."""
    with engine.begin() as connection:
        connection.exec_driver_sql("UPDATE alembic_version SET version_num = '9000'")
    result = _pontifex(states / "here", "serve", PONTIFEX_DATABASE_URL=url)
    assert result.returncode == 1
    assert result.stderr.startswith("A newer version of Pontifex has used this database (its tables are at 9000")
