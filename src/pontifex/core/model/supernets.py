"""What an organisation may use inside, where nobody has said it yet."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Final

from pontifex.core.addressing import Family, Prefix
from pontifex.core.addressing.special import PRIVATE_SPACE, UNIQUE_LOCAL

_LARGEST: Final = PRIVATE_SPACE[0]
_GLOBAL_ID_LENGTH: Final = 48  # of a unique local prefix, RFC 4193 section 3.1


def proposed_supernets(used: Iterable[Prefix]) -> tuple[Prefix, ...]:
    """Return the private blocks that some prefixes lie in, and the largest, which has room whatever is usual at home.

    Of unique local space the prefixes that share a global ID with one in use.
    """
    found = {_LARGEST}
    for prefix in used:
        found |= {block for block in PRIVATE_SPACE if block.contains(prefix)}
        if UNIQUE_LOCAL.contains(prefix) and prefix.length >= _GLOBAL_ID_LENGTH:
            mask = Family.V6.host_mask(_GLOBAL_ID_LENGTH)
            found.add(Prefix(Family.V6, prefix.network & ~mask, _GLOBAL_ID_LENGTH))
    return tuple(sorted(found))
