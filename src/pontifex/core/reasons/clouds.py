"""What findings say of clouds: their subnets, blocks and rules."""

from __future__ import annotations

from pontifex.core.addressing import Prefix
from pontifex.core.kinds import CloudNetwork, CloudRule, Site, Tunnel
from pontifex.core.reasons.addresses import NetworkOf
from pontifex.core.reasons.reason import Named, Reason


class SubnetOutside(Reason, text="{network} is {prefix}, and {cloud} has {blocks:and} alone"):
    network: NetworkOf
    prefix: Prefix
    cloud: Named[CloudNetwork]
    blocks: tuple[Prefix, ...]


class BlocksOverlap(Reason, text="{tunnel} is to link {one} and {other}, which both have {shared}"):
    tunnel: Named[Tunnel]
    one: Named[CloudNetwork]
    other: Named[CloudNetwork]
    shared: Prefix


class MemberElsewhere(Reason, text="“{rule}” of {site} is to hold for {members:some and}, which are not there"):
    rule: Named[CloudRule]
    site: Named[Site]
    members: tuple[str, ...]
