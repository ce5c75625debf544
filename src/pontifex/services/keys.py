"""Pre-shared keys: set, generated, and shown once."""

from __future__ import annotations

import base64
import secrets
from collections.abc import Mapping
from uuid import UUID, uuid4

import structlog
from cryptography.hazmat.primitives.asymmetric.x25519 import X25519PrivateKey

from pontifex.core.ipsec.generated_key import RANDOM_OCTETS, generated_key
from pontifex.core.ipsec.preshared_key import KeyFacts, key_facts
from pontifex.core.kinds import KeyPair
from pontifex.core.model import Design
from pontifex.store import Vault


class KeyService:
    """All use cases about keys. A key never leaves this class but through `show`."""

    def __init__(self, vault: Vault) -> None:
        self._vault = vault
        self._log = structlog.get_logger("keys")

    def set(self, design: Design, secret: str) -> KeyFacts:
        """Keep a key and return what the design may know of it."""
        facts = key_facts(secret, bytes.fromhex(design.key_salt), uuid4())
        self._vault.keep(design.id, facts.reference, secret)
        return facts

    def restore(self, design: Design, secret: str, reference: UUID) -> None:
        """Keep a key of which the design knows already."""
        self._vault.keep(design.id, reference, secret)

    def generate(self, design: Design) -> KeyFacts:
        """Make a key of 256 random bits and keep it."""
        return self.generate_several(design, 1)[0]

    def generate_several(self, design: Design, count: int) -> list[KeyFacts]:
        """Make keys of 256 random bits and keep them, all or none."""
        made = [generated_key(secrets.token_bytes(RANDOM_OCTETS)) for _ in range(count)]
        salt = bytes.fromhex(design.key_salt)
        facts = [key_facts(secret, salt, uuid4(), RANDOM_OCTETS * 8) for secret in made]
        self._vault.keep_several(design.id, {key.reference: secret for key, secret in zip(facts, made, strict=True)})
        return facts

    def generate_pair(self, design: Design) -> KeyPair:
        """Make a key pair of X25519 (RFC 7748 section 6.1), keep its private half, and return the public one."""
        private = X25519PrivateKey.generate()
        reference = uuid4()
        self._vault.keep(design.id, reference, base64.b64encode(private.private_bytes_raw()).decode())
        return KeyPair(public=base64.b64encode(private.public_key().public_bytes_raw()).decode(), reference=reference)

    def show(self, design: Design, reference: UUID, person: str) -> str:
        """Return a key, once. Raise KeyNotHere or KeyAlreadyShown."""
        secret = self._vault.reveal_once(design.id, reference, person)
        self._log.info("key shown", design=design.id, reference=str(reference), person=person)
        return secret

    def references(self, design: Design) -> frozenset[UUID]:
        """Return the references of the keys of a design that are here."""
        return self._vault.references(design.id)

    def copy(self, original: Design, copy: Design, references: Mapping[UUID, UUID]) -> None:
        """Keep keys of a design for a copy of it, each under a reference of its own."""
        self._vault.copy(original.id, copy.id, references)

    def purge(self) -> int:
        """Forget the keys that nothing refers to any more; return how many."""
        return self._vault.purge()
