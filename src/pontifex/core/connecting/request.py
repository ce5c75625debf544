"""What is to be connected, and the pairs of sites that a pattern makes of it."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations, pairwise
from typing import Final

from pydantic import Field

from pontifex.core.addressing import Prefix
from pontifex.core.choice import Choice
from pontifex.core.errors import FieldRefused
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds import ObjectId, Standard

MOST_TUNNELS: Final = 2000  # of one request


class Pattern(Choice):
    """Which sites are joined with which."""

    HUB = "hub"  # every other site with each hub
    MESH = "mesh"  # every site with every other
    PAIRS = "pairs"  # the first with the second, the third with the fourth
    CHAIN = "chain"  # each with the next


class NotConnectable(FieldRefused):
    """What is asked for can't be connected at all."""

    title = "The sites can't be connected so"


class Connect(FrozenModel):
    """Sites to be connected by a standard."""

    site_ids: tuple[ObjectId, ...] = Field(title="Sites", min_length=2, max_length=2001)
    pattern: Pattern = Field(default=Pattern.HUB, title="Pattern")
    hub_ids: tuple[ObjectId, ...] = Field(
        default=(), title="Hubs", description="Of the sites; for the pattern 'hub'.", max_length=8
    )
    through_hub: bool = Field(
        default=False, title="Branches reach one another", description="By way of the hub; for the pattern 'hub'."
    )
    standard: Standard = Field(title="Standard", description="One of the design, or a new one, which is added.")
    inner_prefix: Prefix | None = Field(
        default=None, title="Inner addresses from", description="Each tunnel takes a network of two addresses out of it."
    )
    intents: bool = Field(
        default=True, title="Say what is wanted", description="That the sites that are joined reach each other."
    )

    def pairs(self) -> tuple[tuple[str, str], ...]:
        """Return which sites are joined, each once; a hub stands left. Raise NotConnectable."""
        sites = tuple(dict.fromkeys(self.site_ids))
        found = tuple(dict.fromkeys(self._pairs(sites)))
        if len(found) > MOST_TUNNELS:
            raise NotConnectable("site_ids", f"this makes {len(found):,} tunnels; at most {MOST_TUNNELS:,} are made at once")
        return found

    def _pairs(self, sites: tuple[str, ...]) -> Iterator[tuple[str, str]]:
        if self.pattern is Pattern.HUB:
            strange = [hub for hub in self.hub_ids if hub not in sites]
            if not self.hub_ids or strange:
                raise NotConnectable("hub_ids", "a hub is one of the sites" if strange else "say which site is the hub")
            yield from combinations(self.hub_ids, 2)
            yield from ((hub, site) for site in sites if site not in self.hub_ids for hub in self.hub_ids)
        elif self.pattern is Pattern.PAIRS:
            if len(sites) % 2:
                raise NotConnectable("site_ids", "pairs take an even number of sites; one has no other")
            yield from zip(sites[::2], sites[1::2], strict=True)
        else:
            yield from pairwise(sites) if self.pattern is Pattern.CHAIN else combinations(sites, 2)
