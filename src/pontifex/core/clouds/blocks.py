"""Address blocks of two cloud networks, held against each other as a cloud does when a peering is requested."""

from __future__ import annotations

from pontifex.core.addressing import Prefix
from pontifex.core.kinds import CloudNetwork


def shared_prefix(ours: tuple[Prefix, ...], theirs: tuple[Prefix, ...]) -> Prefix | None:
    """Return the first prefix that two lists of blocks both hold; None where there is none."""
    pairs = ((our, other) for our in ours for other in theirs if our.overlaps(other))
    return next((max(pair, key=lambda prefix: prefix.length) for pair in pairs), None)


def shared_block(one: CloudNetwork, other: CloudNetwork) -> Prefix | None:
    """Return the first prefix that two cloud networks both have; None where there is none."""
    return shared_prefix(one.blocks, other.blocks)
