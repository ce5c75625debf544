"""Reading and writing addresses and prefixes."""

from __future__ import annotations

import ipaddress

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.addressing import Address, AddressError, Family, Prefix, minimal_cover, next_free, parse_address, parse_prefix
from tests.support.prefixes import SMALL, prefixes

ADDRESSES = st.one_of(st.ip_addresses(v=4), st.ip_addresses(v=6))


@given(ADDRESSES)
def test_text_is_the_standard_librarys(address):
    """Every address is written in the canonical text and read back as itself."""
    family, value = parse_address(str(address))
    assert value == int(address)
    assert str(Address(family, value)) == str(address)


@given(st.ip_addresses(v=6))
def test_the_long_form_is_read(address):
    """The exploded text of an IPv6 address reads as the same address."""
    assert parse_address(address.exploded)[1] == int(address)


@given(st.text("0123456789abcdef.:/% x", max_size=24))
def test_nothing_is_read_that_the_standard_library_refuses(text):
    """Whatever we read as an address is one for the standard library as well, and the other way round."""
    try:
        theirs = int(ipaddress.ip_address(text)) if "%" not in text else None
    except ValueError:
        theirs = None
    try:
        ours = parse_address(text)[1]
    except AddressError:
        ours = None
    assert ours == theirs


@given(prefixes())
def test_prefix_round_trip(prefix):
    """A prefix is written and read back as itself, as the standard library writes it."""
    assert parse_prefix(str(prefix)) == prefix
    assert str(prefix) == str(ipaddress.ip_network(str(prefix)))


@given(prefixes(), prefixes())
def test_overlap_of_two(one, other):
    """Two prefixes overlap exactly when the standard library says so."""
    same = one.family is other.family
    theirs = same and ipaddress.ip_network(str(one)).overlaps(ipaddress.ip_network(str(other)))
    assert one.overlaps(other) == theirs


@pytest.mark.parametrize(
    ("text", "part", "reason"),
    [
        ("10.64.0.1/22", "address", "host bits are set in 10.64.0.1/22; did you mean 10.64.0.0/22?"),
        ("10.64.0.0/33", "length", "the length /33 is out of range; it is 0 to 32"),
        ("10.64.0.0/x", "length", "the length 'x' is not a number of bits from 0 to 32"),
        ("10.64.0.0", "length", "'10.64.0.0' has no length; a single host is 10.64.0.0/32"),
        ("10.64.0/16", "address", "'10.64.0' has 3 parts; an IPv4 address has four, like 198.51.100.10"),
        ("10.064.0.0/16", "address", "'064' in '10.064.0.0' has a leading zero, which some devices read as octal"),
        ("10.300.0.0/16", "address", "'300' in '10.300.0.0' is more than 255"),
        ("2001:db8::1::/64", "address", "'2001:db8::1::' has '::' more than once"),
        ("2001:db8/32", "address", "'2001:db8' has 2 groups; an IPv6 address has eight, or '::' once"),
        ("/24", "address", "the address is empty"),
    ],
)
def test_a_wrong_prefix_names_its_wrong_part(text, part, reason):
    """The error of a wrong prefix names the part that is wrong and why."""
    with pytest.raises(AddressError) as caught:
        parse_prefix(text)
    assert (caught.value.part, caught.value.reason) == (part, reason)


def _addresses(blocks):
    return {address for block in blocks for address in range(block.network, block.last + 1)}


@given(st.lists(SMALL, max_size=12))
def test_the_cover_is_exact_and_minimal(blocks):
    """The minimal cover holds the same addresses, and is what the standard library collapses to."""
    cover = minimal_cover(blocks)
    assert _addresses(cover) == _addresses(blocks)
    theirs = ipaddress.collapse_addresses(ipaddress.IPv4Network(str(block)) for block in blocks)
    assert [str(block) for block in cover] == [str(block) for block in theirs]


@given(st.lists(SMALL, max_size=12), st.integers(0, 8), SMALL)
def test_free_space_is_free_and_found_when_there_is_any(used, length, near):
    """A free block touches nothing in use; there is none only when every aligned block touches something."""
    whole = Prefix(Family.V4, 0, 24)
    free = next_free([whole], used, 24 + length, near)
    size = 1 << (8 - length)
    fits = [start for start in range(0, 256, size) if not _addresses(used) & set(range(start, start + size))]
    if free is None:
        assert not fits
    else:
        assert free.network in fits
        assert whole.contains(free)
        assert free.length == 24 + length
