"""All overlapping pairs of many prefixes."""

from __future__ import annotations

import random
from itertools import combinations

from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.addressing import Family, Prefix, overlapping_pairs
from tests.support.prefixes import SMALL, prefixes


def _brute_force(blocks):
    return {frozenset(pair) for pair in combinations(range(len(blocks)), 2) if blocks[pair[0]].overlaps(blocks[pair[1]])}


def _checked(blocks):
    pairs = overlapping_pairs(blocks)
    found = [frozenset(pair) for pair in zip(pairs.outer.tolist(), pairs.inner.tolist(), strict=True)]
    assert len(found) == len(set(found)), "a pair is reported twice"
    assert set(found) == _brute_force(blocks)
    for outer, inner, identical in zip(pairs.outer, pairs.inner, pairs.identical, strict=True):
        assert blocks[outer].contains(blocks[inner])
        assert identical == (blocks[outer] == blocks[inner])


@given(st.lists(SMALL, max_size=30))
def test_small_universe(blocks):
    """On eight-bit addresses, the pairs are those that comparing each with each finds."""
    _checked(blocks)


@given(st.lists(prefixes(), max_size=30))
def test_both_families(blocks):
    """On IPv4 and IPv6 mixed, the pairs are those that comparing each with each finds."""
    _checked(blocks)


def test_nested_ipv6_at_every_length():
    """A chain of 129 nested IPv6 prefixes has every pair, whichever order they come in."""
    chain = [Prefix(Family.V6, 0xFFFF << 112 & ~Family.V6.host_mask(length), length) for length in range(129)]
    random.Random(7).shuffle(chain)
    _checked(chain)
