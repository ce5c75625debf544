"""What a row of the registry holds."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Final

from pontifex.core.choice import Choice


class TransformType(Choice):
    """The transform types of RFC 7296 section 3.3.2 and RFC 9370 section 2.2, in the order of display."""

    ENCR = "ENCR"
    PRF = "PRF"
    INTEG = "INTEG"
    KE = "KE"  # called D-H before RFC 9370
    ADDKE1 = "ADDKE1"
    ADDKE2 = "ADDKE2"
    ADDKE3 = "ADDKE3"
    ADDKE4 = "ADDKE4"
    ADDKE5 = "ADDKE5"
    ADDKE6 = "ADDKE6"
    ADDKE7 = "ADDKE7"
    ESN = "ESN"

    @property
    def label(self) -> str:
        """What people call it; IANA's code stands in files alone."""
        return f"additional key exchange {self.value[-1]}" if self.is_additional else _LABELS.get(self.value, self.value)

    @property
    def is_additional(self) -> bool:
        """Whether this is one of the additional key exchanges of RFC 9370."""
        return self.value.startswith("ADDKE")


_LABELS: Final = {"ENCR": "encryption", "INTEG": "integrity", "KE": "key exchange", "ESN": "sequence numbers"}
DISPLAY_ORDER: Final = {type_: place for place, type_ in enumerate(TransformType)}


class Requirement(Choice):
    """What a standard asks of implementations (RFC 8247 section 1.1: + will rise, - will fall)."""

    MUST = "MUST"
    MUST_FALLING = "MUST-"
    SHOULD_RISING = "SHOULD+"
    SHOULD = "SHOULD"
    MAY = "MAY"
    SHOULD_NOT = "SHOULD NOT"
    MUST_NOT = "MUST NOT"


class Level(Enum):
    """What an engineer makes of the requirements, the stricter of both protocols standing."""

    CURRENT = "current"  # MUST or SHOULD
    OPTIONAL = "optional"  # MAY, or no requirement
    WEAK = "weak"  # SHOULD NOT, MUST-, or no secrecy at all
    RETIRED = "retired"  # MUST NOT, or deprecated by RFC 9395


@dataclass(frozen=True, slots=True)
class RegisteredTransform:
    """One row of IANA's registry, with what the standards say of it."""

    type: TransformType
    id: int
    name: str  # IANA's
    label: str  # short, for a narrow column
    reference: str  # the document that defines it
    ike: Requirement | None = None  # RFC 8247
    esp: Requirement | None = None  # RFC 8221
    strength_bits: int = 0  # 0 where the key's length says it
    key_lengths: tuple[int, ...] = ()  # in bits; empty where the length is fixed
    combined_mode: bool = False  # encrypts and protects integrity in one (RFC 5282)
    iv_octets: int = 0  # carried in each packet
    block_octets: int = 1  # what the cipher's input is padded to
    icv_octets: int = 0  # carried in each packet
    deprecated: bool = False  # by RFC 9395 section 4
    no_secrecy: bool = False

    @property
    def level(self) -> Level:
        """What to make of it today."""
        asked = {self.ike, self.esp}
        if self.deprecated or Requirement.MUST_NOT in asked:
            return Level.RETIRED
        if self.no_secrecy or asked & {Requirement.SHOULD_NOT, Requirement.MUST_FALLING}:
            return Level.WEAK
        if asked & {Requirement.MUST, Requirement.SHOULD, Requirement.SHOULD_RISING}:
            return Level.CURRENT
        return Level.OPTIONAL
