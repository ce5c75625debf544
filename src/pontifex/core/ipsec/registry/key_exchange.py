"""Key exchange methods (transform type 4). Levels: RFC 8247 section 2.4.

Strength: NIST SP 800-57 part 1 table 2 and SP 800-56A appendix D; RFC 3526 section 8 for the smaller MODP groups; the
categories of FIPS 203 for ML-KEM, where strength also holds against a quantum computer.
"""

from __future__ import annotations

from functools import partial
from typing import Final

from pontifex.core.ipsec.registry.row import RegisteredTransform, Requirement, TransformType

_MUST, _, _, _SHOULD, _, _SHOULD_NOT, _MUST_NOT = Requirement
_row = partial(RegisteredTransform, TransformType.KE)


def _group(
    id_: int, name: str, reference: str, ike: Requirement | None, bits: int, *, deprecated: bool = False
) -> RegisteredTransform:
    return _row(id_, name, f"group {id_}", reference, ike, None, bits, deprecated=deprecated)


KEY_EXCHANGE: Final = (
    _group(31, "Curve25519", "RFC 8031", None, 128),
    _group(19, "256-bit random ECP group", "RFC 5903", _SHOULD, 128),
    _group(20, "384-bit random ECP group", "RFC 5903", None, 192),
    _group(21, "521-bit random ECP group", "RFC 5903", None, 256),
    _group(32, "Curve448", "RFC 8031", None, 224),
    _group(14, "2048-bit MODP Group", "RFC 3526", _MUST, 112),
    _group(15, "3072-bit MODP Group", "RFC 3526", None, 128),
    _group(16, "4096-bit MODP Group", "RFC 3526", None, 152),
    _group(17, "6144-bit MODP Group", "RFC 3526", None, 176),
    _group(18, "8192-bit MODP Group", "RFC 3526", None, 200),
    _group(28, "256-bit Brainpool ECP group", "RFC 6954", None, 128),
    _group(29, "384-bit Brainpool ECP group", "RFC 6954", None, 192),
    _group(30, "512-bit Brainpool ECP group", "RFC 6954", None, 256),
    _group(27, "224-bit Brainpool ECP group", "RFC 6954", None, 112),
    _row(35, "ML-KEM-512", "ML-KEM-512", "FIPS 203", None, None, 128),
    _row(36, "ML-KEM-768", "ML-KEM-768", "FIPS 203", None, None, 192),
    _row(37, "ML-KEM-1024", "ML-KEM-1024", "FIPS 203", None, None, 256),
    _group(5, "1536-bit MODP Group", "RFC 3526", _SHOULD_NOT, 90),
    _group(2, "1024-bit MODP Group", "RFC 7296 appendix B.2", _SHOULD_NOT, 80),
    _group(23, "2048-bit MODP Group with 224-bit Prime Order Subgroup", "RFC 5114", _SHOULD_NOT, 112),
    _group(24, "2048-bit MODP Group with 256-bit Prime Order Subgroup", "RFC 5114", _SHOULD_NOT, 112),
    _group(22, "1024-bit MODP Group with 160-bit Prime Order Subgroup", "RFC 5114", _MUST_NOT, 80, deprecated=True),
    _group(1, "768-bit MODP Group", "RFC 7296 appendix B.1", _MUST_NOT, 60, deprecated=True),
    _row(0, "NONE", "no group", "RFC 7296 section 3.3.2"),
)
