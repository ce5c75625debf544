"""What takes up address space, for whoever looks for room."""

from __future__ import annotations

from collections.abc import Iterator

from pontifex.core.addressing import Prefix
from pontifex.core.model.design import Design
from pontifex.core.model.tunnel import SIDES


def occupied_prefixes(design: Design) -> Iterator[Prefix]:
    """Yield all prefixes that something uses or holds: networks, claims, what translations show, inner networks."""
    for network in design.networks:
        yield network.prefix
    for claim in design.claims:
        yield claim.prefix
    for translation in design.translations:
        yield translation.outside
    for tunnel in design.tunnels:
        for side in SIDES:
            inner = tunnel.end(side).inner_address
            if inner:
                yield inner.prefix
