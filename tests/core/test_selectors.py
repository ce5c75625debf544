"""Traffic selectors: read and written, and exact set algebra on addresses, protocols and ports."""

from __future__ import annotations

from itertools import pairwise, product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.addressing import (
    AddressError,
    Family,
    Selector,
    common_region,
    parse_interface,
    parse_selector,
    region_without,
    same_region,
)


@pytest.mark.parametrize(
    "text",
    [
        "10.64.0.0/22",
        "0.0.0.0/0",
        "10.64.4.10-10.64.4.60",
        "10.64.8.0/23 tcp 443",
        "10.64.8.0/23 udp 5000-5100",
        "10.64.8.0/23 icmp",
        "10.64.8.0/23 protocol 103",
        "10.64.8.0/23 port 53",
        "fd5c:9a1e:40::/48 tcp 22",
        "fd5c:9a1e:40::1-fd5c:9a1e:40::9",
    ],
)
def test_written_and_read_back(text):
    """What is written is what was read."""
    assert str(parse_selector(text)) == text


@pytest.mark.parametrize(
    ("text", "reason"),
    [
        ("10.64.4.60-10.64.4.10", "ends before it starts"),
        ("10.64.4.10-fd5c::1", "mixes IPv4 and IPv6"),
        ("10.64.4.1/24", "did you mean 10.64.4.0/24?"),
        ("10.64.4.0/24 quic 443", "'quic' is no protocol"),
        ("10.64.4.0/24 icmp 8", "icmp has no ports"),
        ("10.64.4.0/24 tcp 70000", "'70000' is no port from 0 to 65535"),
        ("10.64.4.0/24 tcp 90-80", "ends before it starts"),
        ("10.64.4.0/24 tcp 80 now", "'now' at the end"),
        ("10.64.4.0/24 protocol 256", "is no protocol from 0 to 255"),
    ],
)
def test_what_is_wrong_is_named(text, reason):
    """A wrong part is named with what would be right."""
    with pytest.raises(AddressError, match=reason.replace("?", r"\?")):
        parse_selector(text)


def test_a_range_that_is_a_prefix_is_written_as_one():
    """A range with the bounds of a prefix is that prefix; any other is not."""
    assert str(parse_selector("10.64.4.0-10.64.4.255")) == "10.64.4.0/24"
    assert parse_selector("10.64.4.1-10.64.4.255").prefix is None


def test_an_inner_address_keeps_its_host_bits():
    """An interface's address stands in its network."""
    interface = parse_interface("10.64.255.1/30")
    assert (str(interface), str(interface.prefix)) == ("10.64.255.1/30", "10.64.255.0/30")
    with pytest.raises(AddressError, match="has no length"):
        parse_interface("10.64.255.1")


# A small universe: 8 addresses, 3 protocols, 3 ports, so that sets can be counted out.
UNIVERSE = set(product(range(8), range(3), range(3)))


def _spans(most):
    return st.tuples(st.integers(0, most), st.integers(0, most)).map(lambda pair: (min(pair), max(pair)))


BOXES = st.builds(
    lambda addresses, protocols, ports: Selector(Family.V4, addresses[0], addresses[1], protocols, ports),
    _spans(7),
    _spans(2),
    _spans(2),
)
REGIONS = st.lists(BOXES, max_size=4)


def _points(region):
    return {
        (a, protocol, port)
        for part in region
        for a, protocol, port in UNIVERSE
        if part.first <= a <= part.last
        and part.protocols[0] <= protocol <= part.protocols[1]
        and part.ports[0] <= port <= part.ports[1]
    }


@given(REGIONS, REGIONS)
def test_set_algebra_by_counting(some, others):
    """Intersection, difference and equality are those of the sets of single packets."""
    assert _points(common_region(some, others)) == _points(some) & _points(others)
    assert _points(region_without(some, others)) == _points(some) - _points(others)
    assert same_region(tuple(some), tuple(others)) == (_points(some) == _points(others))


@given(st.lists(_spans(255).map(lambda span: Selector(Family.V4, *span)), min_size=1, max_size=5))
def test_what_is_common_with_all_is_told_in_few_words(ranges):
    """Ranges that touch are joined: no two of the result lie side by side."""
    region = common_region(ranges, [parse_selector("0.0.0.0/0")])
    if any(part.prefix is None for part in region):
        assert all(one.last + 1 < other.first for one, other in pairwise(region))
    assert same_region(region, tuple(ranges))
