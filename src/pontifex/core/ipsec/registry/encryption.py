"""Encryption algorithms (transform type 1). Levels: RFC 8247 section 2.1 for IKEv2, RFC 8221 section 5 for ESP."""

from __future__ import annotations

from functools import partial
from typing import Final

from pontifex.core.ipsec.registry.row import RegisteredTransform, Requirement, TransformType

_MUST, _, _, _SHOULD, _MAY, _SHOULD_NOT, _MUST_NOT = Requirement
_AES_KEYS = (128, 192, 256)
_row = partial(RegisteredTransform, TransformType.ENCR)
# RFC 4106 section 3, RFC 4309 section 3, RFC 7634 section 2: an IV of 8 octets; padding to 4 octets is ESP's own
_aead = partial(_row, combined_mode=True, iv_octets=8)
_cbc16 = partial(_row, iv_octets=16, block_octets=16)
_cbc8 = partial(_row, iv_octets=8, block_octets=8)

ENCRYPTION: Final = (
    _aead(20, "ENCR_AES_GCM_16", "AES-GCM-16", "RFC 4106, RFC 5282", _SHOULD, _MUST, key_lengths=_AES_KEYS, icv_octets=16),
    _aead(28, "ENCR_CHACHA20_POLY1305", "ChaCha20-Poly1305", "RFC 7634", _SHOULD, _SHOULD, 256, icv_octets=16),
    _cbc16(12, "ENCR_AES_CBC", "AES-CBC", "RFC 3602", _MUST, _MUST, key_lengths=_AES_KEYS),
    _aead(19, "ENCR_AES_GCM_12", "AES-GCM-12", "RFC 4106, RFC 5282", key_lengths=_AES_KEYS, icv_octets=12),
    _aead(18, "ENCR_AES_GCM_8", "AES-GCM-8", "RFC 4106, RFC 5282", key_lengths=_AES_KEYS, icv_octets=8),
    _aead(16, "ENCR_AES_CCM_16", "AES-CCM-16", "RFC 4309, RFC 5282", key_lengths=_AES_KEYS, icv_octets=16),
    _aead(15, "ENCR_AES_CCM_12", "AES-CCM-12", "RFC 4309, RFC 5282", key_lengths=_AES_KEYS, icv_octets=12),
    _aead(14, "ENCR_AES_CCM_8", "AES-CCM-8", "RFC 4309, RFC 5282", _SHOULD, _SHOULD, key_lengths=_AES_KEYS, icv_octets=8),
    _row(13, "ENCR_AES_CTR", "AES-CTR", "RFC 3686, RFC 5930", key_lengths=_AES_KEYS, iv_octets=8),
    _cbc16(23, "ENCR_CAMELLIA_CBC", "Camellia-CBC", "RFC 5529", key_lengths=_AES_KEYS),
    _row(24, "ENCR_CAMELLIA_CTR", "Camellia-CTR", "RFC 5529", key_lengths=_AES_KEYS, iv_octets=8),
    _aead(25, "ENCR_CAMELLIA_CCM_8", "Camellia-CCM-8", "RFC 5529", key_lengths=_AES_KEYS, icv_octets=8),
    _aead(26, "ENCR_CAMELLIA_CCM_12", "Camellia-CCM-12", "RFC 5529", key_lengths=_AES_KEYS, icv_octets=12),
    _aead(27, "ENCR_CAMELLIA_CCM_16", "Camellia-CCM-16", "RFC 5529", key_lengths=_AES_KEYS, icv_octets=16),
    _cbc8(3, "ENCR_3DES", "3DES", "RFC 2451", _MAY, _SHOULD_NOT, 112),
    _aead(
        21, "ENCR_NULL_AUTH_AES_GMAC", "AES-GMAC", "RFC 4543", None, _MAY,
        key_lengths=_AES_KEYS, icv_octets=16, no_secrecy=True,
    ),
    _row(11, "ENCR_NULL", "NULL", "RFC 2410", None, _MUST, no_secrecy=True),
    _cbc8(2, "ENCR_DES", "DES", "RFC 2405", _MUST_NOT, _MUST_NOT, 56, deprecated=True),
    _cbc8(1, "ENCR_DES_IV64", "DES-IV64", "RFC 1827", None, _MUST_NOT, 56, deprecated=True),
    _cbc8(9, "ENCR_DES_IV32", "DES-IV32", "RFC 7296 section 3.3.2", None, _MUST_NOT, 56, deprecated=True),
    _cbc8(4, "ENCR_RC5", "RC5", "RFC 2451", None, None, 128, deprecated=True),
    _cbc8(5, "ENCR_IDEA", "IDEA", "RFC 2451", None, None, 128, deprecated=True),
    _cbc8(6, "ENCR_CAST", "CAST", "RFC 2451", None, None, 128, deprecated=True),
    _cbc8(7, "ENCR_BLOWFISH", "Blowfish", "RFC 2451", None, _MUST_NOT, 128, deprecated=True),
    _cbc8(8, "ENCR_3IDEA", "3IDEA", "RFC 2451", None, _MUST_NOT, 128, deprecated=True),
)  # fmt: skip
