"""Every single failure: what each one breaks, and which break nothing."""

from __future__ import annotations

from collections.abc import Iterator

from pydantic import Field

from pontifex.core.model import Design, ObjectType
from pontifex.core.routing.flow import Conditions
from pontifex.core.routing.matrix import Cell, matrix
from pontifex.core.value import Value


class Failure(Value):
    """One thing that fails, and the pairs of networks that lose by it."""

    type: ObjectType
    id: str
    name: str
    lost: tuple[Cell, ...] = Field(title="Pairs that are worse off", description="As they are during the failure.")


def sweep(design: Design, failing: dict[str, str]) -> tuple[Failure, ...]:
    """Return every single failure of an uplink, tunnel, gateway or site, the one that costs most pairs first.

    Pairs that begin or end at what fails are not counted: that they lose it goes without saying.
    """
    before = {(one.source_id, one.destination_id): one for one in matrix(design, Conditions.of(design, failing=failing))}
    found = []
    for type_, id_, name, gone in _failures(design):
        after = matrix(design, Conditions.of(design, frozenset({id_}), failing))
        lost = tuple(
            cell
            for cell in after
            if cell.reach.rank > before[cell.source_id, cell.destination_id].reach.rank
            and not {cell.source_id, cell.destination_id} & gone
        )
        found.append(Failure(type=type_, id=id_, name=name, lost=lost))
    return tuple(sorted(found, key=lambda one: (-len(one.lost), one.type.value, one.id)))


def _failures(design: Design) -> Iterator[tuple[ObjectType, str, str, set[str]]]:
    """Yield what may fail, with the networks that are gone with it."""
    for uplink in design.uplinks:
        yield ObjectType.UPLINK, uplink.id, uplink.name, set()
    for tunnel in design.tunnels:
        yield ObjectType.TUNNEL, tunnel.id, tunnel.name, set()
    for gateway in design.gateways:
        yield ObjectType.GATEWAY, gateway.id, gateway.name, {n.id for n in design.networks_of_site(gateway.site_id)}
    for site in design.sites:
        yield ObjectType.SITE, site.id, site.name, {n.id for n in design.networks_of_site(site.id)}
