"""Whose something is: the writer's of a form, or that of whoever reads it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from enum import Enum

from pontifex.core.addressing import Prefix, Selector
from pontifex.core.forms.values import Unclear, networks_in


class Whose(Enum):
    """From whose side a label speaks."""

    WRITER = "writer"  # "our", "local"
    READER = "reader"  # "your", "remote"


def inside(network: Selector, ours: Sequence[Prefix]) -> bool:
    """Whether all addresses of a network lie in one of the prefixes."""
    return any(
        prefix.family is network.family and prefix.network <= network.first and network.last <= prefix.last for prefix in ours
    )


def viewpoint(labelled: Iterable[tuple[Whose | None, str]], ours: Sequence[Prefix]) -> bool:
    """Whether a form is written from the reader's side: what it calls its own is the reader's, by the addresses."""
    turned = straight = 0
    for whose, text in labelled:
        try:
            networks = list(networks_in(text)) if whose and ours else []
        except Unclear:
            continue
        for network in networks:
            if (whose is Whose.READER) is inside(network, ours):
                straight += 1
            else:
                turned += 1
    return turned > straight
