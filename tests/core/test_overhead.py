"""The overhead of a tunnel."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.addressing import Family
from pontifex.core.ipsec import REGISTRY, Transform, TransformType
from pontifex.core.ipsec.overhead import OverheadError, overhead

GCM = Transform(type=TransformType.ENCR, id=20, key_length=256)
CBC = Transform(type=TransformType.ENCR, id=12, key_length=256)
TRIPLE_DES = Transform(type=TransformType.ENCR, id=3)
SHA256 = Transform(type=TransformType.INTEG, id=12)
SHA1 = Transform(type=TransformType.INTEG, id=2)

CIPHERS = [
    Transform(type=row.type, id=row.id, key_length=row.key_lengths[0] if row.key_lengths else None)
    for row in REGISTRY
    if row.type is TransformType.ENCR
]
INTEGRITIES = [Transform(type=row.type, id=row.id) for row in REGISTRY if row.type is TransformType.INTEG]


def _by_hand(cipher, integrity, outer, nat_t, inner):
    """The outer packet put together part by part."""
    row = next(row for row in REGISTRY if (row.type, row.id) == (cipher.type, cipher.id))
    icv = (
        row.icv_octets
        if row.combined_mode
        else next(r for r in REGISTRY if r.type is TransformType.INTEG and r.id == integrity.id).icv_octets
    )
    payload = inner + 2
    while payload % max(4, row.block_octets):
        payload += 1
    return (20 if outer is Family.V4 else 40) + (8 if nat_t else 0) + 4 + 4 + row.iv_octets + payload + icv


@given(st.sampled_from(CIPHERS), st.sampled_from(INTEGRITIES), st.sampled_from(Family), st.booleans(), st.integers(576, 9216))
def test_the_largest_inner_packet_that_fits(cipher, integrity, outer, nat_t, path_mtu):
    """The inner MTU fits the path, one octet more does not, and every size is what putting the packet together gives."""
    try:
        found = overhead(cipher, None if cipher.combined_mode else integrity, outer, nat_t, path_mtu)
    except OverheadError:
        assert integrity.is_none
        return
    assert found.outer_size(found.inner_mtu) <= path_mtu < found.outer_size(found.inner_mtu + 1)
    for inner in (40, found.inner_mtu - 1, found.inner_mtu, found.inner_mtu + 1):
        assert found.outer_size(inner) == _by_hand(cipher, integrity, outer, nat_t, inner)
    assert (found.tcp_mss_v4, found.tcp_mss_v6) == (found.inner_mtu - 40, found.inner_mtu - 60)


@pytest.mark.parametrize(
    ("cipher", "integrity", "outer", "nat_t", "inner_mtu"),
    [
        (GCM, None, Family.V4, False, 1446),  # 1500 - 20 - 8 - 8 - 16 = 1448, less the trailer
        (GCM, None, Family.V4, True, 1438),
        (GCM, None, Family.V6, False, 1426),
        (CBC, SHA256, Family.V4, False, 1438),  # 1500 - 20 - 8 - 16 - 16 = 1440, a multiple of 16
        (CBC, SHA256, Family.V4, True, 1422),
        (TRIPLE_DES, SHA1, Family.V4, False, 1446),  # 1500 - 20 - 8 - 8 - 12 = 1452, down to 1448
    ],
)
def test_worked_by_hand(cipher, integrity, outer, nat_t, inner_mtu):
    """A path MTU of 1500 leaves what adding the headers up by hand leaves."""
    assert overhead(cipher, integrity, outer, nat_t, 1500).inner_mtu == inner_mtu


@pytest.mark.parametrize(
    ("cipher", "integrity", "path_mtu", "reason"),
    [
        (GCM, SHA256, 1500, "ENCR_AES_GCM_16 protects integrity itself; no INTEG goes with it"),
        (CBC, None, 1500, "ENCR_AES_CBC needs an INTEG beside it"),
        (GCM, None, 100, "a path MTU of 100 leaves no room for a packet"),
    ],
)
def test_what_makes_no_packet(cipher, integrity, path_mtu, reason):
    """A combination that can't be is refused with the reason."""
    with pytest.raises(OverheadError) as caught:
        overhead(cipher, integrity, Family.V4, False, path_mtu)
    assert str(caught.value) == reason
