"""The master key of the vault: where it is kept, whether it is the right one, and how it is replaced by another."""

from __future__ import annotations

import base64
import binascii
import os
import stat
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from cryptography.exceptions import InvalidTag
from cryptography.hazmat.primitives.ciphers.aead import AESGCM
from sqlalchemy import Connection, Engine, insert, select, update

from pontifex.store import tables
from pontifex.store.database import beginning_alone
from pontifex.store.vault import NONCE_BYTES, binding

MASTER_KEY_BYTES: Final = 32  # AES-256
_CHECKED: Final = b"pontifex master key"


class MasterKeyError(ValueError):
    """The master key can't be used; the message says why and what to do, and holds nothing of it."""


@dataclass(frozen=True, slots=True)
class MasterKeyFile:
    """The file that holds the master key, for its owner alone."""

    path: Path

    @property
    def _next(self) -> Path:
        return self.path.with_name(f"{self.path.name}.next")

    def read(self) -> bytes | None:
        """Return the key; None where there is no file. Raise MasterKeyError."""
        try:
            mode = self.path.stat().st_mode
            text = self.path.read_text()
        except FileNotFoundError:
            return None
        except OSError as error:
            raise MasterKeyError(
                f"{self.path} can't be read ({error.strerror}): make it readable for who runs Pontifex"
            ) from None
        if mode & (stat.S_IRWXG | stat.S_IRWXO):
            raise MasterKeyError(f"{self.path} can be read by others than its owner: run 'chmod 600 {self.path}'")
        return decoded(text, str(self.path))

    def make(self) -> bytes:
        """Make a key and keep it, whole or not at all."""
        key = os.urandom(MASTER_KEY_BYTES)
        self.keep(key)
        return key

    def keep(self, key: bytes) -> None:
        """Keep a key instead of any that was there, whole or not at all."""
        self._write(self._next, key)
        self.take_next()

    def prepare(self, key: bytes) -> None:
        """Keep a key beside the one in force, to be taken once the vault is encrypted under it."""
        self._write(self._next, key)

    def next(self) -> bytes | None:
        """Return the key that was prepared, if a rotation was broken off."""
        return MasterKeyFile(self._next).read()

    def take_next(self) -> None:
        """Put the prepared key in force."""
        os.replace(self._next, self.path)

    def _write(self, path: Path, key: bytes) -> None:
        part = path.with_name(f"{path.name}.part")
        try:
            with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as stream:
                stream.write(base64.b64encode(key).decode() + "\n")
                stream.flush()
                os.fsync(stream.fileno())
            os.replace(part, path)
        except OSError:
            with suppress(FileNotFoundError):
                part.unlink()
            raise


def decoded(text: str, source: str) -> bytes:
    """Read a key of 32 octets in base64. Raise MasterKeyError, which names the source."""
    try:
        key = base64.b64decode(text.strip(), validate=True)
    except binascii.Error:
        key = b""
    if len(key) != MASTER_KEY_BYTES:
        raise MasterKeyError(f"{source} must hold {MASTER_KEY_BYTES} octets in base64")
    return key


def opened_master_key(engine: Engine, file: MasterKeyFile, from_environment: str | None) -> bytes:
    """Return the master key that the vault is encrypted under: from the environment, else from its file.

    On a database without any it is made. Raise MasterKeyError.
    """
    key = decoded(from_environment, "PONTIFEX_MASTER_KEY") if from_environment else file.read()
    with beginning_alone(engine) as connection:
        is_new = not _has_check(connection) and connection.scalar(select(tables.vault_key.c.reference).limit(1)) is None
        if key is None and is_new:
            key = file.make()
        if key is None:
            raise MasterKeyError(
                f"the master key is missing: {file.path} isn't there, and the database holds keys that only it can read. "
                "Put the file back from your backup, or set PONTIFEX_MASTER_KEY"
            )
        if not is_new and not _fits(connection, key):
            prepared = None if from_environment else file.next()
            if prepared is None or not _fits(connection, prepared):
                source = "PONTIFEX_MASTER_KEY" if from_environment else str(file.path)
                raise MasterKeyError(
                    f"{source} is not the master key that the keys in this database are encrypted under: "
                    "put the right one back from your backup"
                )
            file.take_next()  # a rotation was broken off after the vault had been written
            key = prepared
        if not _has_check(connection):
            connection.execute(insert(tables.master_key_check), {"id": 1, **_sealed(key, _CHECKED, _CHECKED)})
    return key


def rotate(engine: Engine, key: bytes, other: bytes) -> int:
    """Encrypt all that the vault holds under another master key, in one transaction; return how many keys."""
    old = AESGCM(key)
    columns = tables.vault_key.c
    with engine.begin() as connection:
        rows = connection.execute(select(tables.vault_key).with_for_update()).all()
        for row in rows:
            bound = binding(row.design_id, row.reference)
            secret = old.decrypt(row.nonce, row.ciphertext, bound)
            connection.execute(
                update(tables.vault_key).where(columns.reference == row.reference).values(_sealed(other, secret, bound))
            )
        connection.execute(update(tables.master_key_check).values(_sealed(other, _CHECKED, _CHECKED)))
    return len(rows)


def _sealed(key: bytes, secret: bytes, bound: bytes) -> dict[str, bytes]:
    nonce = os.urandom(NONCE_BYTES)
    return {"nonce": nonce, "ciphertext": AESGCM(key).encrypt(nonce, secret, bound)}


def _has_check(connection: Connection) -> bool:
    return connection.scalar(select(tables.master_key_check.c.id)) is not None


def _fits(connection: Connection, key: bytes) -> bool:
    """Whether a key reads the check value; in a database of before there was one, whether it reads a key of the vault."""
    row = connection.execute(select(tables.master_key_check)).first()
    if row:
        return _reads(key, row.nonce, row.ciphertext, _CHECKED)
    kept = connection.execute(select(tables.vault_key).limit(1)).one()
    return _reads(key, kept.nonce, kept.ciphertext, binding(kept.design_id, kept.reference))


def _reads(key: bytes, nonce: bytes, ciphertext: bytes, bound: bytes) -> bool:
    try:
        AESGCM(key).decrypt(nonce, ciphertext, bound)
    except InvalidTag:
        return False
    return True
