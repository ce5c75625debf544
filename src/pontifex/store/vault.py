"""The vault: pre-shared keys, encrypted at rest. A key leaves it once, on request."""

from __future__ import annotations

import os
from collections.abc import Mapping
from datetime import datetime, timedelta
from typing import Any, Final
from uuid import UUID

from cryptography.exceptions import InvalidTag
from cryptography.hazmat.primitives.ciphers.aead import AESGCM
from sqlalchemy import Engine, Row, Text, and_, cast, delete, exists, func, insert, select, update

from pontifex.core.errors import Conflict, NotFound
from pontifex.store import tables

_LEFT_ALONE: Final = timedelta(days=1)
NONCE_BYTES = 12  # NIST SP 800-38D section 8.2.2: random, far below 2^32 keys under one master key


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
        self.keep_several(design_id, {reference: secret})

    def keep_several(self, design_id: str, secrets: Mapping[UUID, str]) -> None:
        """Encrypt and keep keys, all or none."""
        rows = []
        for reference, secret in secrets.items():
            nonce = os.urandom(NONCE_BYTES)
            ciphertext = self._cipher.encrypt(nonce, secret.encode(), binding(design_id, reference))
            rows.append({"reference": reference, "design_id": design_id, "nonce": nonce, "ciphertext": ciphertext})
        with self._engine.begin() as connection:
            connection.execute(insert(tables.vault_key), rows)

    def references(self, design_id: str) -> frozenset[UUID]:
        """Return the references of all keys of a design."""
        columns = tables.vault_key.c
        with self._engine.connect() as connection:
            return frozenset(connection.scalars(select(columns.reference).where(columns.design_id == design_id)))

    def copy(self, design_id: str, other_id: str, references: Mapping[UUID, UUID]) -> None:
        """Keep keys of a design for another one, each under a reference of its own; one that was shown counts as shown."""
        columns = tables.vault_key.c
        with self._engine.begin() as connection:
            rows = connection.execute(select(tables.vault_key).where(columns.design_id == design_id)).mappings().all()
            for row in rows:
                if other := references.get(row["reference"]):
                    secret = self._cipher.decrypt(row["nonce"], row["ciphertext"], binding(design_id, row["reference"]))
                    nonce = os.urandom(NONCE_BYTES)
                    sealed = {"nonce": nonce, "ciphertext": self._cipher.encrypt(nonce, secret, binding(other_id, other))}
                    connection.execute(insert(tables.vault_key), {**row, **sealed, "design_id": other_id, "reference": other})

    def purge(self) -> int:
        """Forget keys that no end, device or cloud refers to, nor any change that may be undone; return how many.

        What was made within a day is left alone: it may be about to be put into an end.
        """
        columns = tables.vault_key.c
        end, change = tables.tunnel_end.c, tables.change.c
        named = "%" + cast(columns.reference, Text) + "%"
        in_an_end = select(end.tunnel_id).where(
            end.design_id == columns.design_id, (end.key_reference == columns.reference) | cast(end.details, Text).like(named)
        )
        in_the_log = select(change.revision).where(
            change.design_id == columns.design_id,
            cast(change.forward, Text).like(named) | cast(change.backward, Text).like(named),
        )
        way = tables.device_access.c
        opens_a_device = select(way.gateway_id).where(way.secret_reference == columns.reference)
        signer = tables.profile_signer.c
        signs_profiles = select(signer.design_id).where(signer.secret_reference == columns.reference)
        account = tables.cloud_access.c
        opens_a_cloud = select(account.account).where(account.secret_reference == columns.reference)
        needed = (in_an_end, in_the_log, opens_a_device, signs_profiles, opens_a_cloud)
        idle = and_(*(~exists(holder) for holder in needed), columns.made_at < func.now() - _LEFT_ALONE)
        with self._engine.begin() as connection:
            return connection.execute(delete(tables.vault_key).where(idle)).rowcount

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
            secret = self._opened(design_id, row)
            connection.execute(update(tables.vault_key).where(mine).values(shown_at=func.now(), shown_to=person))
        return secret

    def used(self, design_id: str, reference: UUID) -> str:
        """Return a secret for the product's own use: it is shown to nobody. Raise KeyNotHere."""
        columns = tables.vault_key.c
        mine = (columns.reference == reference) & (columns.design_id == design_id)
        with self._engine.connect() as connection:
            row = connection.execute(select(tables.vault_key).where(mine)).first()
        if row is None:
            raise KeyNotHere("this secret is not in the vault here; set it again")
        return self._opened(design_id, row)

    def _opened(self, design_id: str, row: Row[Any]) -> str:
        try:
            return self._cipher.decrypt(row.nonce, row.ciphertext, binding(design_id, row.reference)).decode()
        except InvalidTag:
            raise KeyNotHere("this key was encrypted under another master key; set it again") from None


def binding(design_id: str, reference: UUID) -> bytes:
    """Return what a key is encrypted together with."""
    return f"{design_id}/{reference}".encode()
