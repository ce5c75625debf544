"""The transforms of IKEv2 and ESP as IANA numbers them, one file for each transform type.

Weak and retired transforms are present, because the other end may still have them.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Final

from pontifex.core.ipsec.registry.encryption import ENCRYPTION
from pontifex.core.ipsec.registry.integrity import INTEGRITY
from pontifex.core.ipsec.registry.key_exchange import KEY_EXCHANGE
from pontifex.core.ipsec.registry.prf import PRF
from pontifex.core.ipsec.registry.row import DISPLAY_ORDER, Level, RegisteredTransform, Requirement, TransformType

_ESN: Final = (
    RegisteredTransform(TransformType.ESN, 0, "No Extended Sequence Numbers", "no ESN", "RFC 7296 section 3.3.2"),
    RegisteredTransform(TransformType.ESN, 1, "Extended Sequence Numbers", "ESN", "RFC 4303 section 2.2.1"),
)
_ADDITIONAL: Final = tuple(  # RFC 9370 section 2.2: the methods are those of KE
    replace(row, type=type_, label=f"{type_.value} {row.label}")
    for type_ in TransformType
    if type_.is_additional
    for row in KEY_EXCHANGE
)

REGISTRY: Final[tuple[RegisteredTransform, ...]] = (*ENCRYPTION, *PRF, *INTEGRITY, *KEY_EXCHANGE, *_ADDITIONAL, *_ESN)

_BY_CODE: Final = {(row.type, row.id): row for row in REGISTRY}
_LEVELS: Final = {code: row.level for code, row in _BY_CODE.items()}


def registered(type_: TransformType, id_: int) -> RegisteredTransform | None:
    """Return the registry's row of a transform, or None when the number is not known to us."""
    return _BY_CODE.get((type_, id_))


def level_of(type_: TransformType, id_: int) -> Level:
    """Return what to make of a registered transform today."""
    return _LEVELS[type_, id_]


__all__ = ["DISPLAY_ORDER", "REGISTRY", "Level", "RegisteredTransform", "Requirement", "TransformType", "level_of", "registered"]
