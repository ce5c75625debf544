"""Which transforms of the registry are not rehearsed, and why."""

from __future__ import annotations

from typing import Final

from pontifex.core.ike.suite.ciphers import data_cipher
from pontifex.core.ike.suite.key_exchange import key_exchange
from pontifex.core.ike.suite.macs import INTEGRITIES, PRFS
from pontifex.core.ipsec import Transform, TransformType

_NO_IMPLEMENTATION: Final = "no library of this product has it"
_WHY: Final = {
    (TransformType.ENCR, 1): "it has no definition for ESP as it is today (RFC 1827)",
    (TransformType.ENCR, 9): "it has no definition (RFC 7296 section 3.3.2)",
    (TransformType.ENCR, 8): "it has no definition (RFC 7296 section 3.3.2)",
    (TransformType.INTEG, 3): "it has no definition (RFC 7296 section 3.3.2)",
    (TransformType.INTEG, 9): "it is of AH alone (RFC 4543 section 4)",
    (TransformType.INTEG, 10): "it is of AH alone (RFC 4543 section 4)",
    (TransformType.INTEG, 11): "it is of AH alone (RFC 4543 section 4)",
}


def why_not_rehearsed(transform: Transform) -> str | None:
    """Say why a transform isn't rehearsed; None where it is."""
    if transform.is_none or transform.type is TransformType.ESN or _known(transform):
        return None
    return _WHY.get((transform.type, transform.id), _NO_IMPLEMENTATION)


def _known(transform: Transform) -> bool:
    match transform.type:
        case TransformType.ENCR:
            return data_cipher(transform.id, transform.key_length) is not None
        case TransformType.PRF:
            return transform.id in PRFS
        case TransformType.INTEG:
            return transform.id in INTEGRITIES
        case _:
            return key_exchange(transform.id) is not None
