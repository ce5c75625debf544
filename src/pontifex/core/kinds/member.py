"""What rules and intents name instead of a prefix: a host, a network, a site, or the Internet by an exit."""

from __future__ import annotations

from typing import Annotated, Final

from pydantic import AfterValidator, Field
from pydantic_core import PydanticCustomError

from pontifex.core.choice import Choice
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds.fields import ObjectId


class MemberType(Choice):
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


_WHY_NOT: Final = {
    MemberType.GATEWAY: "a site, a network or a host stands here; a gateway is an exit, and only reached",
    MemberType.PREFIX_LIST: "a site, a network or a host stands here; a prefix list is only what rules lead to",
}


def _none_of(*types: MemberType) -> AfterValidator:
    """Refuse members of some types."""

    def check(member: Member) -> Member:
        if member.type in types:
            raise PydanticCustomError("member", _WHY_NOT[member.type])
        return member

    return AfterValidator(check)


PlaceMember = Annotated[Member, _none_of(MemberType.GATEWAY, MemberType.PREFIX_LIST)]  # one that has addresses of its own
RuleTarget = Annotated[Member, _none_of(MemberType.GATEWAY)]
IntentTarget = Annotated[Member, _none_of(MemberType.PREFIX_LIST)]
