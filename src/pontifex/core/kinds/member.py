"""What rules and intents name instead of a prefix: a host, a network, a site, or the Internet by an exit."""

from __future__ import annotations

from enum import Enum
from typing import Annotated

from pydantic import AfterValidator, Field
from pydantic_core import PydanticCustomError

from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds.fields import ObjectId


class MemberType(Enum):
    """What may be named."""

    SITE = "site"
    NETWORK = "network"
    HOST = "host"
    GATEWAY = "gateway"  # of an intent's destinations: the Internet, by this gateway


class Member(FrozenModel):
    """A site, network or host; it is followed when its addresses change."""

    type: MemberType = Field(title="Type")
    id: ObjectId


def _is_a_place(member: Member) -> Member:
    if member.type is MemberType.GATEWAY:
        raise PydanticCustomError("member", "a site, a network or a host stands here; a gateway is an exit, and only reached")
    return member


PlaceMember = Annotated[Member, AfterValidator(_is_a_place)]  # one that has addresses
