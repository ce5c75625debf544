"""The design and its objects, and the changes that may be made to it.

A design is an immutable value at a revision; it may be incomplete or wrong, since engineers work through wrong states.
"""

from pontifex.core.model.apply import ChangeRefused, OperationProblem, apply_operations, touched_objects
from pontifex.core.model.design import Design, DesignContent, DesignObject, DesignSettings, ObjectType
from pontifex.core.model.difference import Difference, FieldChange, difference
from pontifex.core.model.objects import AddressKind, Gateway, GatewayKind, Network, NetworkRole, Site, SiteKind, Uplink
from pontifex.core.model.operations import Operation, Put, PutTunnel, Remove, put
from pontifex.core.model.tunnel import ANY_PEER, Identity, IdentityType, Role, Side, Tunnel, TunnelEnd

__all__ = [
    "ANY_PEER",
    "AddressKind",
    "ChangeRefused",
    "Design",
    "DesignContent",
    "DesignObject",
    "DesignSettings",
    "Difference",
    "FieldChange",
    "Gateway",
    "GatewayKind",
    "Identity",
    "IdentityType",
    "Network",
    "NetworkRole",
    "ObjectType",
    "Operation",
    "OperationProblem",
    "Put",
    "PutTunnel",
    "Remove",
    "Role",
    "Side",
    "Site",
    "SiteKind",
    "Tunnel",
    "TunnelEnd",
    "Uplink",
    "apply_operations",
    "difference",
    "put",
    "touched_objects",
]
