"""An exit: what workloads leave to the Internet by, where they use its network, and who must still reach them."""

from __future__ import annotations

from typing import Final, Self

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from pontifex.core.addressing import Prefix
from pontifex.core.kinds.fields import ObjectId
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType, Reference
from pontifex.core.kinds.member import PlaceMember


class Exit(DesignMember):
    """Workloads of a site that leave by a gateway. Those that share the network of a host have its addresses and ports."""

    gateway_id: ObjectId = Field(title="Gateway", description="At the site of the workloads: its rules lead to the outside.")
    host_id: ObjectId | None = Field(
        default=None, title="Network of", description="The container or machine whose network others use; empty where none does."
    )
    shared_by: tuple[PlaceMember, ...] = Field(
        default=(), title="Shared by", description="Hosts without a network of their own.", max_length=256
    )
    reached_from: tuple[Prefix, ...] = Field(
        default=(), title="Reached from", description="From where the published ports must be reached.", max_length=64
    )

    @model_validator(mode="after")
    def _shares_something(self) -> Self:
        if self.shared_by and not self.host_id:
            raise PydanticCustomError("exit", "say whose network they share")
        return self


EXIT: Final = Kind(
    ObjectType.EXIT,
    Exit,
    "exits",
    "Exits",
    Group.PATHS,
    refers=(
        Reference("gateway_id", ObjectType.GATEWAY, is_parent=True),
        Reference("host_id", ObjectType.HOST),
        Reference("shared_by", among=(ObjectType.HOST,)),
    ),
)
