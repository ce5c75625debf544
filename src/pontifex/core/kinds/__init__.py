"""The kinds of object in a design: one file for each, with its model and beside it what there is to know about the kind.

`KINDS` is the registry: operations, references, search, grids, differences, imports and tables are derived from it.
"""

from typing import Any, Final

from pontifex.core.kinds.acceptance import ACCEPTANCE, Acceptance
from pontifex.core.kinds.cloud_network import CLOUD_NETWORK, CloudNetwork
from pontifex.core.kinds.cloud_rule import CLOUD_RULE, CloudRule, PacketDirection, RuleLevel
from pontifex.core.kinds.dial_in import DialInEnd, DialWhen, InsideBy, InsideTest, Proxy, TrafficRule, TrafficWay
from pontifex.core.kinds.exit import EXIT, Exit
from pontifex.core.kinds.fields import Name, ObjectId, is_set
from pontifex.core.kinds.filter import FILTER, Filter, FilterDirection
from pontifex.core.kinds.gateway import GATEWAY, Gateway, GatewayKind, Outranking
from pontifex.core.kinds.host import HOST, Assignment, Host, HostClass
from pontifex.core.kinds.identity import AcceptedAccount, Account, AccountKind, AuthMethod, EapMethod, Identity, IdentityType
from pontifex.core.kinds.intent import INTENT, Intent
from pontifex.core.kinds.kind import NO_GRID, DesignMember, Group, Kind, ObjectType, Reference, Removal
from pontifex.core.kinds.member import Member, MemberType
from pontifex.core.kinds.network import NETWORK, Network, NetworkRole
from pontifex.core.kinds.platform import PLATFORM, Ability, Platform, PlatformFamily
from pontifex.core.kinds.prefix_list import PREFIX_LIST, PrefixList
from pontifex.core.kinds.prefix_reservation import PREFIX_RESERVATION, PrefixReservation
from pontifex.core.kinds.profile import PROFILE, Profile, SplitMode, SuffixResolver
from pontifex.core.kinds.route import ROUTE, Route, RouteOrigin
from pontifex.core.kinds.rule import RULE, NameResolution, OnFailure, Path, PathType, Rule
from pontifex.core.kinds.site import SITE, Site, SiteKind
from pontifex.core.kinds.standard import STANDARD, Standard
from pontifex.core.kinds.technology import (
    DataCipher,
    Digest,
    ExchangeMode,
    InitialContact,
    KeyPair,
    Mode,
    NatTraversal,
    Technology,
    Transport,
)
from pontifex.core.kinds.template import TEMPLATE, Template
from pontifex.core.kinds.translation import TRANSLATION, TranslatedSide, Translation, TranslationKind
from pontifex.core.kinds.tunnel import SIDES, TUNNEL, Side, Tunnel
from pontifex.core.kinds.tunnel_end import ANY_PEER, Role, TunnelEnd, is_name, peer_address
from pontifex.core.kinds.uplink import UPLINK, AddressKind, Uplink

# In the order in which a design file lists them; what others refer to comes first.
KINDS: Final[tuple[Kind[Any], ...]] = (
    SITE,
    GATEWAY,
    UPLINK,
    NETWORK,
    STANDARD,
    TUNNEL,
    HOST,
    PREFIX_RESERVATION,
    TRANSLATION,
    ROUTE,
    PREFIX_LIST,
    RULE,
    FILTER,
    EXIT,
    CLOUD_NETWORK,
    CLOUD_RULE,
    INTENT,
    PLATFORM,
    PROFILE,
    ACCEPTANCE,
    TEMPLATE,
)
KIND_BY_TYPE: Final = {kind.name: kind for kind in KINDS}
KIND_BY_MODEL: Final = {kind.model: kind for kind in KINDS}


def kind_of(item: DesignMember) -> Kind[Any]:
    """Return the kind of an object."""
    return KIND_BY_MODEL[type(item)]


__all__ = [
    "ANY_PEER",
    "KINDS",
    "KIND_BY_MODEL",
    "KIND_BY_TYPE",
    "NO_GRID",
    "SIDES",
    "Ability",
    "Acceptance",
    "AcceptedAccount",
    "Account",
    "AccountKind",
    "AddressKind",
    "Assignment",
    "AuthMethod",
    "CloudNetwork",
    "CloudRule",
    "DataCipher",
    "DesignMember",
    "DialInEnd",
    "DialWhen",
    "Digest",
    "EapMethod",
    "ExchangeMode",
    "Exit",
    "Filter",
    "FilterDirection",
    "Gateway",
    "GatewayKind",
    "Group",
    "Host",
    "HostClass",
    "Identity",
    "IdentityType",
    "InitialContact",
    "InsideBy",
    "InsideTest",
    "Intent",
    "KeyPair",
    "Kind",
    "Member",
    "MemberType",
    "Mode",
    "Name",
    "NameResolution",
    "NatTraversal",
    "Network",
    "NetworkRole",
    "ObjectId",
    "ObjectType",
    "OnFailure",
    "Outranking",
    "PacketDirection",
    "Path",
    "PathType",
    "Platform",
    "PlatformFamily",
    "PrefixList",
    "PrefixReservation",
    "Profile",
    "Proxy",
    "Reference",
    "Removal",
    "Role",
    "Route",
    "RouteOrigin",
    "Rule",
    "RuleLevel",
    "Side",
    "Site",
    "SiteKind",
    "SplitMode",
    "Standard",
    "SuffixResolver",
    "Technology",
    "Template",
    "TrafficRule",
    "TrafficWay",
    "TranslatedSide",
    "Translation",
    "TranslationKind",
    "Transport",
    "Tunnel",
    "TunnelEnd",
    "Uplink",
    "is_name",
    "is_set",
    "kind_of",
    "peer_address",
]
