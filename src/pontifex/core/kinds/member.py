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
    PREFIX_LIST = "prefix-list"  # of a rule's destinations
    GATEWAY = "gateway"  # of an intent's destinations: the Internet, by this gateway


class Member(FrozenModel):
    """A site, network, host or list; it is followed when its addresses change."""

    type: MemberType = Field(title="Type")
    id: ObjectId


def _is_a_place(member: Member) -> Member:
    if member.type is MemberType.GATEWAY:
        raise PydanticCustomError("member", "a site, a network or a host stands here; a gateway is an exit, and only reached")
    if member.type is MemberType.PREFIX_LIST:
        raise PydanticCustomError("member", "a site, a network or a host stands here; a prefix list is only what rules lead to")
    return member


def _is_no_exit(member: Member) -> Member:
    return _is_a_place(member) if member.type is MemberType.GATEWAY else member


def _is_no_list(member: Member) -> Member:
    return _is_a_place(member) if member.type is MemberType.PREFIX_LIST else member


PlaceMember = Annotated[Member, AfterValidator(_is_a_place)]  # one that has addresses
RuleTarget = Annotated[Member, AfterValidator(_is_no_exit)]  # or a list of prefixes
IntentTarget = Annotated[Member, AfterValidator(_is_no_list)]  # or the Internet, by an exit
