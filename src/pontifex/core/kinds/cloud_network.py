"""A cloud network: what a cloud gives to an account, of which subnets are cut."""

from __future__ import annotations

from typing import Final

from pydantic import Field

from pontifex.core.addressing import Prefix
from pontifex.core.kinds.fields import ObjectId, Remark
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType, Reference

MOST_BLOCKS: Final = 16


class CloudNetwork(DesignMember):
    """Address blocks that a cloud gives to an account; its subnets are the networks of the site."""

    site_id: ObjectId = Field(title="Site")
    account: Remark = Field(default="", title="Account", description="Whose it is in the cloud.")
    region: Remark = Field(default="", title="Region", description="Where it stands in the cloud.")
    blocks: tuple[Prefix, ...] = Field(
        default=(), title="Address blocks", description="Its subnets are cut of them.", max_length=MOST_BLOCKS
    )

    @property
    def owner(self) -> str:
        """The account that it is of; its own name while nobody has said."""
        return self.account or self.name


CLOUD_NETWORK: Final = Kind(
    ObjectType.CLOUD_NETWORK,
    CloudNetwork,
    "cloud_networks",
    "Cloud networks",
    Group.CLOUDS,
    refers=(Reference("site_id", ObjectType.SITE, is_parent=True),),
    searched=("account", "region"),
)
