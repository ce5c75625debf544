"""The words by which people say what a site is, what a network is for, and how a site reaches the outside."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Final

from pontifex.core.kinds import AddressKind, NetworkRole, SiteKind


@dataclass(frozen=True, slots=True)
class OutsideAccess:
    """How a site reaches the outside, as far as a word says."""

    kind: AddressKind
    called: bool  # whether calls from outside arrive


# The first that fits counts: what is said in more words stands before what is said in fewer.
_OUTSIDE: Final = (
    (r"carrier[\s-]*(?:grade[\s-]*)?nat|cg[\s-]?nat|lte|[345]g|mobile|mobil|satellite|satellit", AddressKind.CARRIER_NAT, False),
    (r"(?:behind\s+)?(?:a\s+)?nat[\s,]+(?:(?:and|with)\s+)?(?:ports?\s+)?forward(?:ed|ing)?|ports?[\s-]*forward(?:ed|ing)?",
     AddressKind.BEHIND_NAT, True),
    (r"(?:behind|hinter)\s+(?:an?\s+|another\s+|einem\s+)?(?:nat|router|firewall)|natt?ed|nat", AddressKind.BEHIND_NAT, False),
    (r"changing|dynamic|dyn(?:amic)?[\s-]*dns|dynamisch|dynamique|pppoe|dsl|dhcp", AddressKind.CHANGING_PUBLIC, True),
    (r"fixed|static|fest|statisch|fixe|statique", AddressKind.FIXED_PUBLIC, True),
)  # fmt: skip
OUTSIDE: Final = tuple(
    (re.compile(rf"(?<!\w)(?:{pattern})(?:\s+(?:address|ip|adresse|public))?(?!\w)", re.IGNORECASE), OutsideAccess(kind, called))
    for pattern, kind, called in _OUTSIDE
)
_SITE_KINDS: Final = {
    SiteKind.OFFICE: r"office|branch|headquarters|hq|head\s+office|büro|filiale|agence",
    SiteKind.DATA_CENTRE: r"data[\s-]*cent(?:re|er)|dc|rechenzentrum|rz",
    SiteKind.CLOUD: r"cloud",
    SiteKind.VEHICLE: r"vehicle|ship|vessel|bus|train|truck|car",
    SiteKind.HOME: r"home|home\s+office",
    SiteKind.PARTNER: r"partner|supplier|customer",
}
SITE_KINDS: Final = tuple((re.compile(pattern, re.IGNORECASE), kind) for kind, pattern in _SITE_KINDS.items())
_ROLES: Final = {
    NetworkRole.GUEST: r"guests?|visitors?|gäste|passengers?",
    NetworkRole.SERVER: r"servers?|dmz|data|storage",
    NetworkRole.MANAGEMENT: r"management|mgmt|oob",
    NetworkRole.TRANSIT: r"transit|link",
    NetworkRole.CONTAINER: r"containers?",
    NetworkRole.POOL: r"pools?|dial[\s-]*in",
}
ROLES: Final = tuple((re.compile(rf"(?<!\w)(?:{pattern})(?!\w)", re.IGNORECASE), role) for role, pattern in _ROLES.items())
NOISE: Final = re.compile(
    r"(?<!\w)(?:lan|lans|networks?|subnets?|nets?|wan|public|uplink|internet|outside|ip|address(?:es)?|with|by|at|and|is|the|has"
    r"|reached|via|site)(?!\w)",
    re.IGNORECASE,
)
# What a heading of a table may say, and what its cells are then
HEADINGS: Final = {
    **dict.fromkeys(("site", "name", "location", "office", "branch", "place", "standort", "standorte"), "site"),
    **dict.fromkeys(
        ("network", "networks", "prefix", "prefixes", "subnet", "subnets", "lan", "lans", "cidr", "netz", "netze", "réseau"),
        "networks",
    ),
    **dict.fromkeys(
        ("outside", "wan", "public", "public ip", "public address", "uplink", "internet", "address", "wan ip", "reached by"),
        "outside",
    ),
    **dict.fromkeys(("kind", "type", "art"), "kind"),
    **dict.fromkeys(("region", "area", "country"), "region"),
}  # fmt: skip
