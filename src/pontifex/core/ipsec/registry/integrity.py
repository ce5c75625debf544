"""Integrity algorithms (transform type 3). Levels: RFC 8247 section 2.3 for IKEv2, RFC 8221 section 6 for ESP."""

from __future__ import annotations

from functools import partial
from typing import Final

from pontifex.core.ipsec.registry.row import RegisteredTransform, Requirement, TransformType

_MUST, _MUST_FALLING, _, _SHOULD, _MAY, _, _MUST_NOT = Requirement
_row = partial(RegisteredTransform, TransformType.INTEG)

INTEGRITY: Final = (
    _row(12, "AUTH_HMAC_SHA2_256_128", "SHA2-256", "RFC 4868", _MUST, _MUST, 256, icv_octets=16),
    _row(14, "AUTH_HMAC_SHA2_512_256", "SHA2-512", "RFC 4868", _SHOULD, _SHOULD, 256, icv_octets=32),
    _row(13, "AUTH_HMAC_SHA2_384_192", "SHA2-384", "RFC 4868", None, None, 256, icv_octets=24),
    _row(5, "AUTH_AES_XCBC_96", "AES-XCBC", "RFC 3566", _SHOULD, _SHOULD, 128, icv_octets=12),
    _row(8, "AUTH_AES_CMAC_96", "AES-CMAC", "RFC 4494", None, None, 128, icv_octets=12),
    _row(9, "AUTH_AES_128_GMAC", "AES-128-GMAC", "RFC 4543", None, _MAY, 128, icv_octets=16),
    _row(10, "AUTH_AES_192_GMAC", "AES-192-GMAC", "RFC 4543", None, _MAY, 192, icv_octets=16),
    _row(11, "AUTH_AES_256_GMAC", "AES-256-GMAC", "RFC 4543", None, _MAY, 256, icv_octets=16),
    _row(2, "AUTH_HMAC_SHA1_96", "SHA1", "RFC 2404", _MUST_FALLING, _MUST_FALLING, 128, icv_octets=12),
    _row(7, "AUTH_HMAC_SHA1_160", "SHA1-160", "RFC 4595", None, None, 128, icv_octets=20),
    _row(1, "AUTH_HMAC_MD5_96", "MD5", "RFC 2403", _MUST_NOT, _MUST_NOT, 64, icv_octets=12, deprecated=True),
    _row(6, "AUTH_HMAC_MD5_128", "MD5-128", "RFC 4595", None, None, 64, icv_octets=16, deprecated=True),
    _row(3, "AUTH_DES_MAC", "DES-MAC", "RFC 7296 section 3.3.2", _MUST_NOT, _MUST_NOT, 56, icv_octets=8, deprecated=True),
    _row(4, "AUTH_KPDK_MD5", "KPDK-MD5", "RFC 1826", _MUST_NOT, _MUST_NOT, 64, icv_octets=16, deprecated=True),
    _row(0, "NONE", "none", "RFC 7296 section 3.3.2"),
)
