"""Pseudorandom functions (transform type 2). Levels: RFC 8247 section 2.2. Strength: NIST SP 800-57 part 1, table 3."""

from __future__ import annotations

from functools import partial
from typing import Final

from pontifex.core.ipsec.registry.row import RegisteredTransform, Requirement, TransformType

_MUST, _MUST_FALLING, _SHOULD_RISING, _SHOULD, _, _, _MUST_NOT = Requirement
_row = partial(RegisteredTransform, TransformType.PRF)

PRF: Final = (
    _row(5, "PRF_HMAC_SHA2_256", "PRF SHA2-256", "RFC 4868", _MUST, None, 256),
    _row(7, "PRF_HMAC_SHA2_512", "PRF SHA2-512", "RFC 4868", _SHOULD_RISING, None, 256),
    _row(6, "PRF_HMAC_SHA2_384", "PRF SHA2-384", "RFC 4868", None, None, 256),
    _row(4, "PRF_AES128_XCBC", "PRF AES-XCBC", "RFC 4434", _SHOULD, None, 128),
    _row(8, "PRF_AES128_CMAC", "PRF AES-CMAC", "RFC 4615", None, None, 128),
    _row(2, "PRF_HMAC_SHA1", "PRF SHA1", "RFC 2104", _MUST_FALLING, None, 128),
    _row(1, "PRF_HMAC_MD5", "PRF MD5", "RFC 2104", _MUST_NOT, None, 64, deprecated=True),
    _row(3, "PRF_HMAC_TIGER", "PRF Tiger", "RFC 2104", None, None, 96, deprecated=True),
)
