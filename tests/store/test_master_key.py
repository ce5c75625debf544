"""The master key: made once, checked at each start, and replaced by another."""

from __future__ import annotations

import base64
import os
import stat
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from threading import Barrier
from uuid import uuid4

import pytest
from sqlalchemy import delete, select

from pontifex.demo import DEMO_ID, demo_design
from pontifex.store import DesignRepository, MasterKeyError, MasterKeyFile, Vault, tables
from pontifex.store.master_key import opened_master_key, rotate

SECRET = "Kite-Anchor-7319 "
OTHER = base64.b64encode(bytes(32)).decode()


@pytest.fixture
def file(tmp_path):
    """Where the key is kept."""
    return MasterKeyFile(tmp_path / "master-key")


@pytest.fixture
def key(engine, file):
    """The master key of a database that holds the demo and one key."""
    DesignRepository(engine).create(demo_design())
    return opened_master_key(engine, file, None)


def test_it_is_made_once_for_its_owner_alone(engine, file):
    """The file is made at the first start with mode 0600 and read from then on; the environment goes first."""
    made = opened_master_key(engine, file, None)
    assert len(made) == 32
    assert stat.S_IMODE(file.path.stat().st_mode) == 0o600
    assert [candidate.name for candidate in file.path.parent.iterdir()] == ["master-key"]
    assert opened_master_key(engine, file, None) == made
    assert opened_master_key(engine, file, base64.b64encode(made).decode()) == made


def test_servers_that_start_at_once_take_one_key(engine, tmp_path):
    """With the key in the environment all start; with a file each, one makes the key and the others are told to bring it."""
    servers = 8
    together = Barrier(servers)

    def started(directory: Path, from_environment: str | None) -> bytes | str:
        directory.mkdir()
        together.wait()
        try:
            return opened_master_key(engine, MasterKeyFile(directory / "master-key"), from_environment)
        except MasterKeyError as error:
            return str(error).partition(":")[0]

    with ThreadPoolExecutor(servers) as pool:
        given = pool.map(started, [tmp_path / f"given-{k}" for k in range(servers)], [OTHER] * servers)
        assert list(given) == [base64.b64decode(OTHER)] * servers
        with engine.begin() as connection:
            connection.execute(delete(tables.master_key_check))
        made = list(pool.map(started, [tmp_path / f"made-{k}" for k in range(servers)], [None] * servers))
    assert made.count("the master key is missing") == servers - 1


@pytest.mark.parametrize("vault_is_empty", [True, False])
def test_a_wrong_one_is_told_at_the_start(engine, file, key, vault_is_empty):
    """Another key, one that is missing or no key: a sentence says what to do, holds nothing of it, and nothing is made."""
    if not vault_is_empty:
        Vault(engine, key).keep(DEMO_ID, uuid4(), SECRET)
        with engine.begin() as connection:
            connection.execute(delete(tables.master_key_check))  # as before there was a check value
    with pytest.raises(MasterKeyError, match="PONTIFEX_MASTER_KEY must hold 32 octets in base64") as nonsense:
        opened_master_key(engine, file, SECRET)
    assert SECRET.strip() not in str(nonsense.value)
    if vault_is_empty:
        with pytest.raises(MasterKeyError, match="PONTIFEX_MASTER_KEY is not the master key that"):
            opened_master_key(engine, file, OTHER)
    file.path.chmod(0o644)
    with pytest.raises(MasterKeyError, match="run 'chmod 600"):
        opened_master_key(engine, file, None)
    file.path.chmod(0o600)
    kept = file.path.read_text()
    file.path.write_text("")
    with pytest.raises(MasterKeyError, match="must hold 32 octets"):
        opened_master_key(engine, file, None)
    file.path.write_text(OTHER)
    with pytest.raises(MasterKeyError, match="master-key is not the master key that the keys in this database"):
        opened_master_key(engine, file, None)
    file.path.unlink()
    with pytest.raises(MasterKeyError, match=r"the master key is missing: .*master-key isn't there"):
        opened_master_key(engine, file, None)
    assert not file.path.exists()
    file.path.touch(mode=0o600)
    file.path.write_text(kept)
    assert opened_master_key(engine, file, None) == key


def test_it_is_written_whole_or_not_at_all(engine, file, monkeypatch):
    """On a disk that is full no empty file is left; there is room again, and the next start makes the key."""

    def full(_descriptor):
        raise OSError(28, os.strerror(28))

    monkeypatch.setattr("pontifex.store.master_key.os.fsync", full)
    with pytest.raises(OSError, match="No space left"):
        opened_master_key(engine, file, None)
    assert list(file.path.parent.iterdir()) == []
    monkeypatch.undo()
    assert len(opened_master_key(engine, file, None)) == 32


def test_another_one_takes_its_place(engine, file, key):
    """All keys are encrypted anew in one transaction; whenever it is broken off, the next start finds the right one."""
    reference, other = uuid4(), os.urandom(32)
    Vault(engine, key).keep(DEMO_ID, reference, SECRET)
    file.prepare(other)
    assert opened_master_key(engine, file, None) == key, "broken off before the vault was written"
    assert rotate(engine, key, other) == 1
    assert opened_master_key(engine, file, None) == other, "broken off before the file was put in its place"
    assert opened_master_key(engine, file, None) == other
    assert [candidate.name for candidate in file.path.parent.iterdir()] == ["master-key"]
    with engine.connect() as connection:
        assert connection.scalar(select(tables.vault_key.c.shown_at)) is None
    assert Vault(engine, other).reveal_once(DEMO_ID, reference, "ann") == SECRET
