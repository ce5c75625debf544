"""What rules and intents name instead of a prefix: a host, a network, or a site."""

from __future__ import annotations

from enum import Enum

from pydantic import Field

from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds.fields import ObjectId


class MemberType(Enum):
    """What may be named."""

    SITE = "site"
    NETWORK = "network"
    HOST = "host"


class Member(FrozenModel):
    """A site, network or host; it is followed when its addresses change."""

    type: MemberType = Field(title="Type")
    id: ObjectId
