"""Use cases about what partners fill in: a form read into one end of a tunnel."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from pontifex.core.addressing import Prefix
from pontifex.core.forms import FormLine, read_form
from pontifex.core.kinds import Side, Tunnel, TunnelEnd
from pontifex.core.model import Design, FieldChange, Operation, apply_operations, difference, put
from pontifex.services.analyses import TunnelNotFound
from pontifex.services.kept import KeptDesigns
from pontifex.store import MOST_FIELDS


@dataclass(frozen=True, slots=True, kw_only=True)
class FormPlan:
    """A form line by line, and the change of the end that it describes."""

    lines: tuple[FormLine, ...]
    is_clear: Annotated[bool, Field(title="Nothing has to be asked")]
    operations: Annotated[tuple[Operation, ...], Field(title="The change", description="Empty where it changes nothing.")]
    fields: Annotated[tuple[FieldChange, ...], Field(title="What changes")]


class FormService:
    """All use cases about forms. Nothing here writes."""

    def __init__(self, kept: KeptDesigns) -> None:
        self._kept = kept

    def plan(self, design_id: str, tunnel_id: str, side: Side, text: str) -> FormPlan:
        """Return what a form says of one end of a tunnel, and what it would change. Raise TunnelNotFound."""
        design = self._kept.get(design_id)
        tunnel = design.tunnel_by_id.get(tunnel_id)
        if tunnel is None:
            raise TunnelNotFound(f"there is no tunnel '{tunnel_id}' in this design")
        theirs = [network.prefix for network in design.networks_of_site(design.site_of(tunnel.end(side)).id)]
        form = read_form(text, tuple(_ours(design, tunnel, side)), theirs)
        changed = tunnel.with_valid({side.value: _filled(tunnel.end(side), form.fields)})
        operations = (put(changed),) if changed != tunnel else ()
        after = apply_operations(design, operations) if operations else design
        fields = difference(design, after).fields(MOST_FIELDS)
        return FormPlan(lines=form.lines, is_clear=form.is_clear, operations=operations, fields=fields)


def _filled(end: TunnelEnd, fields: dict[str, object]) -> TunnelEnd:
    return TunnelEnd.model_validate({**end.by_field(), **fields})


def _ours(design: Design, tunnel: Tunnel, side: Side) -> Iterator[Prefix]:
    """Yield what is not the partner's: the networks and outside addresses of all sites but the one that the form is about."""
    partner = design.site_of(tunnel.end(side)).id
    for network in design.networks:
        if network.site_id != partner:
            yield network.prefix
    for site in design.sites:
        for uplink in design.uplinks_of_site(site.id) if site.id != partner else ():
            if uplink.address:
                yield Prefix.of_address(uplink.address)
