"""The transforms of IKEv2 and ESP, as IANA numbers them.

Names are IANA's. Levels are those of RFC 8247 section 2 (IKEv2) and RFC 8221 sections 5 and 6 (ESP); where the two
differ, the stricter one stands, since one entry serves both. Retired transforms are present because the other end may
still have them.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Final

from pontifex.core.value import Choice


class TransformType(Choice):
    """The transform types of RFC 7296 section 3.3.2. The order of the members is the order of display."""

    ENCR = "ENCR"
    PRF = "PRF"
    INTEG = "INTEG"
    KE = "KE"
    ESN = "ESN"

    @property
    def number(self) -> int:
        """The transform type as it stands in the octets (KE was called D-H before RFC 9370)."""
        return {"ENCR": 1, "PRF": 2, "INTEG": 3, "KE": 4, "ESN": 5}[self.value]


class Level(Enum):
    """What the standards ask of an implementation today."""

    CURRENT = "current"  # MUST or SHOULD
    OPTIONAL = "optional"  # MAY, or no level given
    WEAK = "weak"  # SHOULD NOT, MUST-, or no secrecy at all
    RETIRED = "retired"  # MUST NOT


@dataclass(frozen=True, slots=True)
class RegisteredTransform:
    """One row of the registry."""

    type: TransformType
    id: int
    name: str  # IANA's
    label: str  # short, for a narrow column
    level: Level
    reference: str
    key_lengths: tuple[int, ...] = ()  # in bits; empty where the transform has a fixed length
    combined_mode: bool = False  # encrypts and protects integrity in one (RFC 5282)


_ENCR, _PRF, _INTEG, _KE, _ESN = TransformType
_CURRENT, _OPTIONAL, _WEAK, _RETIRED = Level
_AES_KEYS = (128, 192, 256)

REGISTRY: Final[tuple[RegisteredTransform, ...]] = (
    RegisteredTransform(_ENCR, 20, "ENCR_AES_GCM_16", "AES-GCM-16", _CURRENT, "RFC 4106, RFC 5282", _AES_KEYS, True),
    RegisteredTransform(_ENCR, 28, "ENCR_CHACHA20_POLY1305", "ChaCha20-Poly1305", _CURRENT, "RFC 7634", (), True),
    RegisteredTransform(_ENCR, 12, "ENCR_AES_CBC", "AES-CBC", _CURRENT, "RFC 3602", _AES_KEYS),
    RegisteredTransform(_ENCR, 19, "ENCR_AES_GCM_12", "AES-GCM-12", _OPTIONAL, "RFC 4106, RFC 5282", _AES_KEYS, True),
    RegisteredTransform(_ENCR, 18, "ENCR_AES_GCM_8", "AES-GCM-8", _OPTIONAL, "RFC 4106, RFC 5282", _AES_KEYS, True),
    RegisteredTransform(_ENCR, 16, "ENCR_AES_CCM_16", "AES-CCM-16", _OPTIONAL, "RFC 4309, RFC 5282", _AES_KEYS, True),
    RegisteredTransform(_ENCR, 15, "ENCR_AES_CCM_12", "AES-CCM-12", _OPTIONAL, "RFC 4309, RFC 5282", _AES_KEYS, True),
    RegisteredTransform(_ENCR, 14, "ENCR_AES_CCM_8", "AES-CCM-8", _OPTIONAL, "RFC 4309, RFC 5282", _AES_KEYS, True),
    RegisteredTransform(_ENCR, 13, "ENCR_AES_CTR", "AES-CTR", _OPTIONAL, "RFC 3686, RFC 5930", _AES_KEYS),
    RegisteredTransform(_ENCR, 23, "ENCR_CAMELLIA_CBC", "Camellia-CBC", _OPTIONAL, "RFC 5529", _AES_KEYS),
    RegisteredTransform(_ENCR, 3, "ENCR_3DES", "3DES", _WEAK, "RFC 2451, RFC 8221 section 5"),
    RegisteredTransform(_ENCR, 2, "ENCR_DES", "DES", _RETIRED, "RFC 2405, RFC 8247 section 2.1"),
    RegisteredTransform(_ENCR, 11, "ENCR_NULL", "NULL", _WEAK, "RFC 2410"),
    RegisteredTransform(_PRF, 5, "PRF_HMAC_SHA2_256", "PRF SHA2-256", _CURRENT, "RFC 4868"),
    RegisteredTransform(_PRF, 6, "PRF_HMAC_SHA2_384", "PRF SHA2-384", _OPTIONAL, "RFC 4868"),
    RegisteredTransform(_PRF, 7, "PRF_HMAC_SHA2_512", "PRF SHA2-512", _CURRENT, "RFC 4868"),
    RegisteredTransform(_PRF, 4, "PRF_AES128_XCBC", "PRF AES-XCBC", _OPTIONAL, "RFC 4434"),
    RegisteredTransform(_PRF, 8, "PRF_AES128_CMAC", "PRF AES-CMAC", _OPTIONAL, "RFC 4615"),
    RegisteredTransform(_PRF, 2, "PRF_HMAC_SHA1", "PRF SHA1", _WEAK, "RFC 2104, RFC 8247 section 2.2"),
    RegisteredTransform(_PRF, 1, "PRF_HMAC_MD5", "PRF MD5", _RETIRED, "RFC 2104, RFC 8247 section 2.2"),
    RegisteredTransform(_INTEG, 12, "AUTH_HMAC_SHA2_256_128", "SHA2-256", _CURRENT, "RFC 4868"),
    RegisteredTransform(_INTEG, 13, "AUTH_HMAC_SHA2_384_192", "SHA2-384", _OPTIONAL, "RFC 4868"),
    RegisteredTransform(_INTEG, 14, "AUTH_HMAC_SHA2_512_256", "SHA2-512", _CURRENT, "RFC 4868"),
    RegisteredTransform(_INTEG, 5, "AUTH_AES_XCBC_96", "AES-XCBC", _OPTIONAL, "RFC 3566"),
    RegisteredTransform(_INTEG, 8, "AUTH_AES_CMAC_96", "AES-CMAC", _OPTIONAL, "RFC 4494"),
    RegisteredTransform(_INTEG, 2, "AUTH_HMAC_SHA1_96", "SHA1", _WEAK, "RFC 2404, RFC 8247 section 2.3"),
    RegisteredTransform(_INTEG, 1, "AUTH_HMAC_MD5_96", "MD5", _RETIRED, "RFC 2403, RFC 8247 section 2.3"),
    RegisteredTransform(_INTEG, 0, "NONE", "none", _OPTIONAL, "RFC 7296 section 3.3.2"),
    RegisteredTransform(_KE, 31, "Curve25519", "group 31", _CURRENT, "RFC 8031"),
    RegisteredTransform(_KE, 19, "256-bit random ECP group", "group 19", _CURRENT, "RFC 5903"),
    RegisteredTransform(_KE, 20, "384-bit random ECP group", "group 20", _OPTIONAL, "RFC 5903"),
    RegisteredTransform(_KE, 21, "521-bit random ECP group", "group 21", _OPTIONAL, "RFC 5903"),
    RegisteredTransform(_KE, 32, "Curve448", "group 32", _OPTIONAL, "RFC 8031"),
    RegisteredTransform(_KE, 14, "2048-bit MODP Group", "group 14", _CURRENT, "RFC 3526"),
    RegisteredTransform(_KE, 15, "3072-bit MODP Group", "group 15", _OPTIONAL, "RFC 3526"),
    RegisteredTransform(_KE, 16, "4096-bit MODP Group", "group 16", _OPTIONAL, "RFC 3526"),
    RegisteredTransform(_KE, 17, "6144-bit MODP Group", "group 17", _OPTIONAL, "RFC 3526"),
    RegisteredTransform(_KE, 18, "8192-bit MODP Group", "group 18", _OPTIONAL, "RFC 3526"),
    RegisteredTransform(_KE, 5, "1536-bit MODP Group", "group 5", _WEAK, "RFC 3526, RFC 8247 section 2.4"),
    RegisteredTransform(_KE, 2, "1024-bit MODP Group", "group 2", _WEAK, "RFC 7296 appendix B.2, RFC 8247 section 2.4"),
    RegisteredTransform(_KE, 1, "768-bit MODP Group", "group 1", _RETIRED, "RFC 7296 appendix B.1, RFC 8247 section 2.4"),
    RegisteredTransform(_ESN, 0, "No Extended Sequence Numbers", "no ESN", _OPTIONAL, "RFC 7296 section 3.3.2"),
    RegisteredTransform(_ESN, 1, "Extended Sequence Numbers", "ESN", _CURRENT, "RFC 4303 section 2.2.1"),
)

_BY_CODE: Final = {(row.type, row.id): row for row in REGISTRY}


def registered(type_: TransformType, id_: int) -> RegisteredTransform | None:
    """Return the registry's row of a transform, or None when the number is not known to us."""
    return _BY_CODE.get((type_, id_))
