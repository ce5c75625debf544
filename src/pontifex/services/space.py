"""Use cases about address space: how full it is, what there is room for, and what living with or leaving a collision takes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Family, Prefix
from pontifex.core.errors import NotFound
from pontifex.core.importing import ImportPlan, plan_import, plan_rows, read_text
from pontifex.core.kinds import Network, ObjectType
from pontifex.core.model import Design, Operation, apply_operations
from pontifex.core.space import JoinedSites, Room, Usage, plan, usage
from pontifex.core.space.meeting import all_meetings
from pontifex.core.space.renumbering import RenumberPlan, renumber_plan
from pontifex.core.space.room import NOBODY, Offer
from pontifex.core.space.translate import TranslationPlan, behind_one, translate_both
from pontifex.core.space.ways_out import WaysOut, ways_out
from pontifex.services.kept import KeptDesigns

_MOST_TRANSLATIONS: Final = 12  # collisions of one network that a translation is worked out for


class NetworkNotFound(NotFound):
    """The design has no network, or site, of this id."""


@dataclass(frozen=True, slots=True, kw_only=True)
class TranslationOption:
    """A way to translate a network, with all that it means."""

    title: Annotated[str, Field(title="Title")]
    operations: Annotated[tuple[Operation, ...], Field(title="The change")]
    plans: Annotated[tuple[TranslationPlan, ...], Field(title="Its translations, one by one")]


class SpaceService:
    """All use cases about address space. Nothing here writes: changes go through the repository."""

    def __init__(self, designs: KeptDesigns) -> None:
        self._designs = designs

    def usage(self, design_id: str) -> Usage:
        """Return how full everything is."""
        return usage(self._designs.get(design_id))

    def offers(self, design_id: str, site_id: str, family: Family, length: int) -> list[Offer]:
        """Return free blocks for a site, the best first. Raise NetworkNotFound."""
        design = self._designs.get(design_id)
        if site_id not in design.site_by_id:
            raise NetworkNotFound(f"there is no site '{site_id}' in this design")
        return list(Room(design).offers(site_id, family, min(length, family.bits)))

    def renumber(self, design_id: str, network_id: str, target: Prefix | None, working_from: str) -> RenumberPlan:
        """Return the plan of moving a network; without a target to the best free block. Raise NetworkNotFound."""
        design = self._designs.get(design_id)
        network = _network(design, network_id)
        if working_from:
            _network(design, working_from)
        if target is None:
            best = Room(design).offers(network.site_id, network.prefix.family, network.prefix.length, most=1)
            if not best:
                inside = "inside the supernets" if design.supernets else "in private space; no supernets are given yet"
                raise NetworkNotFound(f"there is no free /{network.prefix.length} {inside}")
            target = best[0].prefix
        return renumber_plan(design, network, target, working_from)

    def ways_out(self, design_id: str) -> WaysOut:
        """Return the cheapest way out of all collisions."""
        return ways_out(self._designs.get(design_id))

    def translations(self, design_id: str, network_id: str) -> list[TranslationOption]:
        """Return the ways to translate a network: one-to-one against each of its first collisions, and behind one address."""
        design = self._designs.get(design_id)
        network = _network(design, network_id)
        joined, room = JoinedSites(design), Room(design)
        options = []
        for pair in all_meetings(design, network.id)[:_MOST_TRANSLATIONS]:
            other, chain = (pair.inner, pair.chain) if pair.outer.id == network.id else (pair.outer, pair.chain[::-1])
            remedy = translate_both(joined, room, network, other, chain)
            if remedy:
                options.append(_option(design, f"{remedy.title}, against {other.name}", remedy.operations))
        free = room.offers(NOBODY, network.prefix.family, network.prefix.family.bits, most=1)
        operations = behind_one(design, network, free[0].prefix) if free else []
        if operations:
            options.append(_option(design, f"Hide it behind {free[0].prefix}", tuple(operations)))
        return options

    def translation_plan(self, design_id: str, translation_id: str) -> TranslationPlan:
        """Return what a translation of the design means. Raise NetworkNotFound."""
        design = self._designs.get(design_id)
        found = next((translation for translation in design.translations if translation.id == translation_id), None)
        if found is None:
            raise NetworkNotFound(f"there is no translation '{translation_id}' in this design")
        return plan(design, found)

    def import_plan(self, design_id: str, text: str, site_id: str, gateway_id: str, rows_of: ObjectType | None) -> ImportPlan:
        """Return what importing a text would change; with `rows_of`, rows of a grid."""
        design = self._designs.get(design_id)
        if rows_of:
            return plan_rows(design, rows_of, text)
        taken_for, records = read_text(text)
        return plan_import(design, taken_for, records, site_id, gateway_id)


def _network(design: Design, network_id: str) -> Network:
    network = design.network_by_id.get(network_id)
    if network is None:
        raise NetworkNotFound(f"there is no network '{network_id}' in this design")
    return network


def _option(design: Design, title: str, operations: tuple[Operation, ...]) -> TranslationOption:
    after = apply_operations(design, operations)
    known = {translation.id for translation in design.translations}
    plans = tuple(plan(after, translation) for translation in after.translations if translation.id not in known)
    return TranslationOption(title=title, operations=operations, plans=plans)
