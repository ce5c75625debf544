"""The two ends of one tunnel with all that is needed to compare them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache, cached_property
from typing import Any

from pontifex.core.matching.row import EndField, Relation, Remedy, Row, Stage, Verdict
from pontifex.core.model import Design, Side, Tunnel, TunnelEnd, Uplink, put


@cache
def _end_field(side: Side, field: str) -> EndField:
    return EndField(side=side, field=field)


@dataclass(frozen=True)
class Pair:
    """A tunnel in its design. Names of ends are those of their sites, as people call them."""

    design: Design
    tunnel: Tunnel

    def end(self, side: Side) -> TunnelEnd:
        """The end of a side."""
        return self.tunnel.end(side)

    @cached_property
    def names(self) -> dict[Side, str]:
        """What to call each end; where both stand at one site, by gateway."""
        names = {side: self.design.site_of(self.end(side)).name for side in Side}
        if names[Side.LEFT] == names[Side.RIGHT]:
            return {side: self.design.gateway_by_id[self.end(side).gateway_id].name for side in Side}
        return names

    def uplink(self, side: Side) -> Uplink | None:
        """The uplink of a side, None when it isn't known yet."""
        return self.design.uplink_of(self.end(side))

    def set_field(self, side: Side, title: str, **fields: Any) -> Remedy:
        """Return the remedy that replaces fields of one end."""
        return Remedy.of(title=title, operations=(put(self.tunnel.with_end(side, **fields)),))

    def copy_to(self, side: Side, what: str, left_field: str, right_field: str) -> Remedy:
        """Return the remedy that makes a field of one end like the other end's."""
        fields = {Side.LEFT: left_field, Side.RIGHT: right_field}
        value = getattr(self.end(side.other), fields[side.other])
        return self.set_field(side, f"Make {self.names[side]} like {self.names[side.other]}: {what}", **{fields[side]: value})

    def copies(self, what: str, left_field: str, right_field: str) -> tuple[Remedy, ...]:
        """Return the two remedies that make one end's field like the other's, the right end first."""
        return tuple(self.copy_to(side, what, left_field, right_field) for side in (Side.RIGHT, Side.LEFT))

    def row(
        self,
        key: str,
        title: str,
        stage: Stage,
        relation: Relation,
        fields: tuple[str, str],
        verdict: Verdict,
        reason: str,
        *,
        value: str = "",
        code: str = "",
        remedies: tuple[Remedy, ...] = (),
    ) -> Row:
        """Return a row about a field of each end, `fields` being those of the left and the right end."""
        left, right = fields
        return Row.of(
            key=key,
            title=title,
            stage=stage,
            relation=relation,
            left=_end_field(Side.LEFT, left),
            right=_end_field(Side.RIGHT, right),
            verdict=verdict,
            value=value,
            reason=reason,
            code=code,
            remedies=remedies,
        )
