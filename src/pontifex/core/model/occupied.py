"""What takes up address space, for whoever looks for room."""

from __future__ import annotations

from collections.abc import Iterator

from pontifex.core.addressing import Prefix
from pontifex.core.kinds import SIDES
from pontifex.core.model.design import Design


def occupied_prefixes(design: Design) -> Iterator[Prefix]:
    """Yield all prefixes that something uses or holds: networks, reserved prefixes, what translations show, inner networks."""
    for network in design.networks:
        yield network.prefix
    for reservation in design.prefix_reservations:
        yield reservation.prefix
    for translation in design.translations:
        yield translation.outside
    for tunnel in design.tunnels:
        for side in SIDES:
            inner = tunnel.end(side).inner_address
            if inner:
                yield inner.prefix
