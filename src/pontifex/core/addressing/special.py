"""Blocks of addresses that are set apart: special-purpose space of RFC 6890, private and shared space, unique local space."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from pontifex.core.addressing.address import Family
from pontifex.core.addressing.prefix import Prefix, parse_prefix


@dataclass(frozen=True, slots=True)
class SpecialBlock:
    """A block that no ordinary network should use."""

    prefix: Prefix
    name: str
    reference: str


def _block(prefix: str, name: str, reference: str) -> SpecialBlock:
    return SpecialBlock(parse_prefix(prefix), name, reference)


_DOCUMENTATION: Final = "documentation"
SPECIAL_PURPOSE: Final = (  # RFC 6890 section 2.2, without private, shared and unique local space
    _block("0.0.0.0/8", "this host on this network", "RFC 1122 section 3.2.1.3"),
    _block("127.0.0.0/8", "loopback", "RFC 1122 section 3.2.1.3"),
    _block("169.254.0.0/16", "link-local", "RFC 3927"),
    _block("192.0.0.0/24", "protocol assignments", "RFC 6890 section 2.1"),
    _block("192.0.2.0/24", _DOCUMENTATION, "RFC 5737"),
    _block("192.88.99.0/24", "6to4 relays", "RFC 7526"),
    _block("198.18.0.0/15", "benchmarks", "RFC 2544"),
    _block("198.51.100.0/24", _DOCUMENTATION, "RFC 5737"),
    _block("203.0.113.0/24", _DOCUMENTATION, "RFC 5737"),
    _block("224.0.0.0/4", "multicast", "RFC 5771"),
    _block("240.0.0.0/4", "reserved", "RFC 1112 section 4"),
    _block("::/128", "unspecified", "RFC 4291 section 2.5.2"),
    _block("::1/128", "loopback", "RFC 4291 section 2.5.3"),
    _block("::ffff:0:0/96", "IPv4-mapped", "RFC 4291 section 2.5.5.2"),
    _block("64:ff9b::/96", "IPv4-IPv6 translation", "RFC 6052"),
    _block("100::/64", "discard-only", "RFC 6666"),
    _block("2001:db8::/32", _DOCUMENTATION, "RFC 3849"),
    _block("2002::/16", "6to4", "RFC 3056"),
    _block("fe80::/10", "link-local", "RFC 4291 section 2.5.6"),
    _block("ff00::/8", "multicast", "RFC 4291 section 2.7"),
)
SHARED_SPACE: Final = parse_prefix("100.64.0.0/10")  # RFC 6598: between carriers and their customers
PRIVATE_SPACE: Final = tuple(map(parse_prefix, ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16")))  # RFC 1918
UNIQUE_LOCAL: Final = parse_prefix("fc00::/7")  # RFC 4193
_GLOBAL_ID_OCTETS: Final = 5


# this is asked of every network: the bounds stand ready
_BY_FAMILY: Final = {
    family: tuple(
        (candidate.prefix.network, candidate.prefix.last, candidate)
        for candidate in SPECIAL_PURPOSE
        if candidate.prefix.family is family
    )
    for family in Family
}


def is_plainly_private(prefix: Prefix) -> bool:
    """Whether a prefix lies in private space (RFC 1918), as most networks do: it is then nothing else."""
    return any(block.contains(prefix) for block in PRIVATE_SPACE)


def special_block(prefix: Prefix) -> SpecialBlock | None:
    """Return the special-purpose block that a prefix lies in, or holds a part of."""
    first, last = prefix.network, prefix.last
    for block_first, block_last, block in _BY_FAMILY[prefix.family]:
        if block_first <= last and first <= block_last:
            return block
    return None


def is_private(prefix: Prefix) -> bool:
    """Whether a prefix is private (RFC 1918), shared (RFC 6598) or unique local (RFC 4193), and so nobody's outside."""
    return is_plainly_private(prefix) or SHARED_SPACE.contains(prefix) or UNIQUE_LOCAL.contains(prefix)


def is_public(prefix: Prefix) -> bool:
    """Whether a prefix is somebody's on the Internet: neither private, shared, unique local nor special."""
    return not is_private(prefix) and special_block(prefix) is None


def is_others(prefix: Prefix) -> bool:
    """Whether a prefix is somebody else's on the Internet; in examples the documentation blocks stand for such."""
    block = special_block(prefix)
    return not is_private(prefix) and (block is None or block.name == _DOCUMENTATION)


def has_plain_global_id(prefix: Prefix) -> bool:
    """Whether a unique local prefix has a global ID that nobody drew at random (RFC 4193 section 3.2.2).

    That five random octets repeat themselves twice is rarer than one in 2,600.
    """
    if prefix.family is not Family.V6 or not UNIQUE_LOCAL.contains(prefix) or prefix.length < 48:
        return False
    octets = (prefix.network >> 80).to_bytes(6, "big")[1:]
    return len(octets) - len(set(octets)) >= _GLOBAL_ID_OCTETS - 3
