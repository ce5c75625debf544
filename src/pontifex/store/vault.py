"""The vault: pre-shared keys, encrypted at rest. A key leaves it once, on request."""

from __future__ import annotations

import base64
import binascii
import os
from datetime import datetime
from pathlib import Path
from uuid import UUID

from cryptography.exceptions import InvalidTag
from cryptography.hazmat.primitives.ciphers.aead import AESGCM
from sqlalchemy import Engine, func, insert, select, update

from pontifex.core.errors import Conflict, NotFound
from pontifex.store import tables

MASTER_KEY_BYTES = 32  # AES-256
_NONCE_BYTES = 12  # NIST SP 800-38D section 8.2.2: random, far below 2^32 keys under one master key


class MasterKeyError(ValueError):
    """What is given as master key is none; the message holds nothing of it."""


class KeyNotHere(NotFound):
    """The vault holds no key of this reference, or its master key is not the one that encrypted it."""

    title = "The key is not here"


class KeyAlreadyShown(Conflict):
    """The key has left the vault before."""

    title = "The key was shown already"

    def __init__(self, shown_at: datetime, shown_to: str) -> None:
        super().__init__(f"this key was shown on {shown_at:%Y-%m-%d at %H:%M} UTC to {shown_to}; set or generate a new one")


class Vault:
    """Keys by reference."""

    def __init__(self, engine: Engine, master_key: bytes) -> None:
        self._engine, self._cipher = engine, AESGCM(master_key)

    def keep(self, design_id: str, reference: UUID, secret: str) -> None:
        """Encrypt and keep a key. It is bound to its design and reference: rows can't be swapped unnoticed."""
        nonce = os.urandom(_NONCE_BYTES)
        row = {
            "reference": reference,
            "design_id": design_id,
            "nonce": nonce,
            "ciphertext": self._cipher.encrypt(nonce, secret.encode(), _binding(design_id, reference)),
        }
        with self._engine.begin() as connection:
            connection.execute(insert(tables.vault_key), row)

    def reveal_once(self, design_id: str, reference: UUID, person: str) -> str:
        """Return a key and record who saw it and when. Raise KeyAlreadyShown the second time, KeyNotHere if unknown."""
        columns = tables.vault_key.c
        mine = (columns.reference == reference) & (columns.design_id == design_id)
        with self._engine.begin() as connection:
            row = connection.execute(select(tables.vault_key).where(mine).with_for_update()).first()
            if row is None:
                raise KeyNotHere("this key is not in the vault here: it came with an imported design; set it again")
            if row.shown_at is not None:
                raise KeyAlreadyShown(row.shown_at, row.shown_to)
            try:
                secret = self._cipher.decrypt(row.nonce, row.ciphertext, _binding(design_id, reference)).decode()
            except InvalidTag:
                raise KeyNotHere("this key was encrypted under another master key; set it again") from None
            connection.execute(update(tables.vault_key).where(mine).values(shown_at=func.now(), shown_to=person))
        return secret


def _binding(design_id: str, reference: UUID) -> bytes:
    return f"{design_id}/{reference}".encode()


def load_master_key(file: Path, from_environment: str | None) -> bytes:
    """Return the master key: from the environment (base64), else from its file, which is made at first start.

    Raise MasterKeyError when it is no key of 32 octets.
    """
    if from_environment:
        return _decoded(from_environment, "PONTIFEX_MASTER_KEY")
    try:
        descriptor = os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    except FileExistsError:
        return _decoded(file.read_text(), str(file))
    key = os.urandom(MASTER_KEY_BYTES)
    with os.fdopen(descriptor, "w") as stream:
        stream.write(base64.b64encode(key).decode() + "\n")
    return key


def _decoded(text: str, source: str) -> bytes:
    try:
        key = base64.b64decode(text.strip(), validate=True)
    except binascii.Error:
        key = b""
    if len(key) != MASTER_KEY_BYTES:
        raise MasterKeyError(f"{source} must hold {MASTER_KEY_BYTES} octets in base64")
    return key
