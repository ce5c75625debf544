"""The design and its objects, and the changes that may be made to it.

A design is an immutable value at a revision; it may be incomplete or wrong, since engineers work through wrong states.
"""

from pontifex.core.model.apply import ChangeRefused, OperationProblem, apply_operations, touched_objects
from pontifex.core.model.design import Design, DesignContent, DesignObject, DesignSettings, ObjectType
from pontifex.core.model.difference import Difference, FieldChange, difference
from pontifex.core.model.end import ANY_PEER, Role, TunnelEnd, is_name
from pontifex.core.model.holdings import Assignment, Claim, Host, HostClass, TranslatedSide, Translation, TranslationKind
from pontifex.core.model.identity import AcceptedAccount, Account, AccountKind, AuthMethod, EapMethod, Identity, IdentityType
from pontifex.core.model.intents import Filter, FilterDirection, Intent
from pontifex.core.model.members import Member, MemberType
from pontifex.core.model.new_route import new_route
from pontifex.core.model.objects import (
    AddressKind,
    Gateway,
    GatewayKind,
    Network,
    NetworkRole,
    Outranking,
    Site,
    SiteKind,
    Uplink,
)
from pontifex.core.model.occupied import occupied_prefixes
from pontifex.core.model.operations import (
    AnyOperation,
    LoggedOperation,
    Operation,
    Put,
    PutTunnel,
    Remove,
    RenumberNetwork,
    Translate,
    put,
)
from pontifex.core.model.paths import (
    NameResolution,
    OnFailure,
    Path,
    PathType,
    Profile,
    Route,
    RouteOrigin,
    Rule,
    SplitMode,
    SuffixResolver,
)
from pontifex.core.model.renumber import Move, naming_tunnels
from pontifex.core.model.technology import DataCipher, Digest, ExchangeMode, KeyPair, Mode, Technology, Transport
from pontifex.core.model.translating import crossed, reselected
from pontifex.core.model.tunnel import SIDES, Side, Tunnel

__all__ = [
    "ANY_PEER",
    "SIDES",
    "AcceptedAccount",
    "Account",
    "AccountKind",
    "AddressKind",
    "AnyOperation",
    "Assignment",
    "AuthMethod",
    "ChangeRefused",
    "Claim",
    "DataCipher",
    "Design",
    "DesignContent",
    "DesignObject",
    "DesignSettings",
    "Difference",
    "Digest",
    "EapMethod",
    "ExchangeMode",
    "FieldChange",
    "Filter",
    "FilterDirection",
    "Gateway",
    "GatewayKind",
    "Host",
    "HostClass",
    "Identity",
    "IdentityType",
    "Intent",
    "KeyPair",
    "LoggedOperation",
    "Member",
    "MemberType",
    "Mode",
    "Move",
    "NameResolution",
    "Network",
    "NetworkRole",
    "ObjectType",
    "OnFailure",
    "Operation",
    "OperationProblem",
    "Outranking",
    "Path",
    "PathType",
    "Profile",
    "Put",
    "PutTunnel",
    "Remove",
    "RenumberNetwork",
    "Role",
    "Route",
    "RouteOrigin",
    "Rule",
    "Side",
    "Site",
    "SiteKind",
    "SplitMode",
    "SuffixResolver",
    "Technology",
    "Translate",
    "TranslatedSide",
    "Translation",
    "TranslationKind",
    "Transport",
    "Tunnel",
    "TunnelEnd",
    "Uplink",
    "apply_operations",
    "crossed",
    "difference",
    "is_name",
    "naming_tunnels",
    "new_route",
    "occupied_prefixes",
    "put",
    "reselected",
    "touched_objects",
]
