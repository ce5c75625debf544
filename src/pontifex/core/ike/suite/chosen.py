"""The algorithms that two ends have settled on."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from pontifex.core.ike.suite.ciphers import EncryptionAlgorithm, data_cipher
from pontifex.core.ike.suite.macs import INTEGRITIES, PRFS, Integrity, Prf
from pontifex.core.ipsec import Transform, TransformType


@dataclass(frozen=True, slots=True)
class Suite:
    """What an IKE SA or a Child SA uses. A Child SA has no PRF of its own: `prf` is then any."""

    cipher: EncryptionAlgorithm
    integrity: Integrity | None  # None where the cipher protects integrity itself
    prf: Prf
    extended_numbers: bool = False
    exchanges: tuple[int, ...] = ()  # methods of key exchange: the first one, then additional ones

    @property
    def integrity_key_octets(self) -> int:
        """What is taken of the keying material."""
        return self.integrity.key_octets if self.integrity else 0

    @property
    def icv_octets(self) -> int:
        """Length of the integrity check value of a packet."""
        return self.integrity.icv_octets if self.integrity else self.cipher.icv_octets


@lru_cache(maxsize=512)
def suite_of(transforms: tuple[Transform, ...]) -> Suite | None:
    """Return the algorithms of one transform of each type; None where one isn't rehearsed."""
    of_type = {transform.type: transform for transform in transforms if not transform.is_none}
    encryption = of_type.get(TransformType.ENCR)
    cipher = data_cipher(encryption.id, encryption.key_length) if encryption else None
    prf = of_type.get(TransformType.PRF)
    made_by = PRFS.get(prf.id) if prf else next(iter(PRFS.values()))
    code = of_type.get(TransformType.INTEG)
    integrity = INTEGRITIES.get(code.id) if code else None
    if cipher is None or made_by is None or (code and integrity is None):
        return None
    numbers = of_type.get(TransformType.ESN)
    exchanges = tuple(of_type[type_].id for type_ in TransformType if type_ in of_type and _is_exchange(type_))
    return Suite(cipher, integrity, made_by, bool(numbers and numbers.id), exchanges)


def _is_exchange(type_: TransformType) -> bool:
    return type_ is TransformType.KE or type_.is_additional
