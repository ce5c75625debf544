"""The keys of an IKE SA and of its Child SAs (RFC 7296 sections 2.13 to 2.18, RFC 9370 section 2.2.2)."""

from __future__ import annotations

from dataclasses import dataclass, field

from pontifex.core.ike.suite.chosen import Suite


@dataclass(frozen=True, slots=True)
class IkeKeys:
    """SK_d, SK_a, SK_e and SK_p of section 2.14. Never shown: no `repr`."""

    derive: bytes = field(repr=False)
    integrity_i: bytes = field(repr=False)
    integrity_r: bytes = field(repr=False)
    encryption_i: bytes = field(repr=False)
    encryption_r: bytes = field(repr=False)
    proof_i: bytes = field(repr=False)
    proof_r: bytes = field(repr=False)


@dataclass(frozen=True, slots=True)
class Nonces:
    """What both ends have added of randomness."""

    initiator: bytes
    responder: bytes

    @property
    def both(self) -> bytes:
        """Ni | Nr."""
        return self.initiator + self.responder


def first_seed(suite: Suite, secret: bytes, nonces: Nonces) -> bytes:
    """Return SKEYSEED of a new IKE SA (section 2.14)."""
    short = suite.prf.short_nonces
    key = nonces.initiator[:8] + nonces.responder[:8] if short else nonces.both
    return suite.prf.mac(key, secret)


def next_seed(old: Suite, derive: bytes, secrets: tuple[bytes, ...], nonces: Nonces) -> bytes:
    """Return SKEYSEED of a rekeyed IKE SA, or after an additional key exchange.

    By the old SA's PRF and SK_d: SK(0) | Ni | Nr | SK(1) ... (section 2.18, RFC 9370 sections 2.2.2 and 2.2.4).
    """
    return old.prf.mac(derive, secrets[0] + nonces.both + b"".join(secrets[1:]))


def ike_keys(suite: Suite, seed: bytes, nonces: Nonces, spi_i: bytes, spi_r: bytes) -> IkeKeys:
    """Return the keys that follow from SKEYSEED."""
    prf_octets, icv_octets, cipher_octets = suite.prf.key_octets, suite.integrity_key_octets, suite.cipher.key_octets
    lengths = (prf_octets, icv_octets, icv_octets, cipher_octets, cipher_octets, prf_octets, prf_octets)
    made = suite.prf.expand(seed, nonces.both + spi_i + spi_r, sum(lengths))
    parts, at = [], 0
    for length in lengths:
        parts.append(made[at : at + length])
        at += length
    return IkeKeys(*parts)


@dataclass(frozen=True, slots=True)
class ChildKeys:
    """Keys of a Child SA: for what its initiator sends, and for what its responder sends. Never shown: no `repr`."""

    encryption_i: bytes = field(repr=False)
    integrity_i: bytes = field(repr=False)
    encryption_r: bytes = field(repr=False)
    integrity_r: bytes = field(repr=False)


def child_keys(ike: Suite, derive: bytes, child: Suite, nonces: Nonces, secrets: tuple[bytes, ...] = ()) -> ChildKeys:
    """Return KEYMAT in parts (section 2.17): encryption before integrity, initiator before responder.

    `secrets` are those of key exchanges of the Child SA's own: SK(0) | Ni | Nr | SK(1) ... (RFC 9370 section 2.2.4).
    """
    seed = b"".join(secrets[:1]) + nonces.both + b"".join(secrets[1:])
    cipher, integrity = child.cipher.key_octets, child.integrity_key_octets
    made = ike.prf.expand(derive, seed, 2 * (cipher + integrity))
    half = cipher + integrity
    return ChildKeys(made[:cipher], made[cipher:half], made[half : half + cipher], made[half + cipher :])
