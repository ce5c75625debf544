"""A tunnel between two gateways."""

from __future__ import annotations

from typing import Annotated, Any, Final

from pydantic import Field, model_validator

from pontifex.core.choice import Choice
from pontifex.core.ipsec.policy import AlgorithmException
from pontifex.core.kinds.fields import ObjectId
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType, Reference, Removal
from pontifex.core.kinds.tunnel_end import TunnelEnd


class Side(Choice):
    """The two ends of a tunnel."""

    LEFT = "left"
    RIGHT = "right"

    other: Side  # the far side


Side.LEFT.other, Side.RIGHT.other = Side.RIGHT, Side.LEFT
SIDES: Final = tuple(Side)  # to go through them: an enumeration is slow to iterate over


class Tunnel(DesignMember):
    """A tunnel between two gateways."""

    exceptions: Annotated[tuple[AlgorithmException, ...], Field(max_length=32)] = Field(
        default=(), title="Exceptions", description="From the algorithm policy, each until a day."
    )
    standard_id: ObjectId | None = Field(default=None, title="Standard", description="That its ends are set by.")
    left: TunnelEnd = Field(title="Left end")
    right: TunnelEnd = Field(title="Right end")

    @model_validator(mode="before")
    @classmethod
    def _technology_of_both(cls, raw: Any) -> Any:
        """Files and logs from before ends had a technology of their own name one for the tunnel."""
        if not isinstance(raw, dict) or "technology" not in raw:
            return raw
        rest = {field: value for field, value in raw.items() if field != "technology"}
        for side in SIDES:
            if isinstance(rest.get(side.value), dict):
                rest[side.value] = {"technology": raw["technology"], **rest[side.value]}
        return rest

    def end(self, side: Side) -> TunnelEnd:
        """The end of a side."""
        return self.left if side is Side.LEFT else self.right

    def facing(self, side: Side) -> tuple[TunnelEnd, TunnelEnd]:
        """The end of a side, and the one that it faces."""
        return (self.left, self.right) if side is Side.LEFT else (self.right, self.left)

    def with_field(self, side: Side, field: str, value: Any) -> Tunnel:
        """Return the tunnel with a field of one end, known by name alone, replaced by a value that is valid already."""
        return self.with_valid({side.value: self.end(side).with_valid({field: value})})

    def with_end(self, side: Side, **fields: Any) -> Tunnel:
        """Return the tunnel with some fields of one end replaced by values that are valid already."""
        return self.with_valid({side.value: self.end(side).with_valid(fields)})


TUNNEL: Final = Kind(
    ObjectType.TUNNEL,
    Tunnel,
    "tunnels",
    "Tunnels",
    Group.MATCH,
    refers=(
        Reference("standard_id", ObjectType.STANDARD, on_removal=Removal.EMPTIES),
        *(
            Reference(f"{side.value}/{field}", to, on_removal=on_removal)
            for side in SIDES
            for field, to, on_removal in (
                ("gateway_id", ObjectType.GATEWAY, Removal.FOLLOWS),
                ("uplink_id", ObjectType.UPLINK, Removal.EMPTIES),
            )
        ),
    ),
)
