"""The operations that a change is made of: put an object, or remove one."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from pontifex.core.addressing import Prefix
from pontifex.core.model.design import SETTINGS_ID, DesignObject, DesignSettings, ObjectType
from pontifex.core.model.objects import Gateway, Network, ObjectId, Site, Uplink
from pontifex.core.model.tunnel import Tunnel
from pontifex.core.value import Value


class PutSite(Value):
    """Add a site, or replace the one with its id."""

    op: Literal["put-site"] = "put-site"
    object: Site


class PutNetwork(Value):
    """Add a network, or replace the one with its id."""

    op: Literal["put-network"] = "put-network"
    object: Network


class PutGateway(Value):
    """Add a gateway, or replace the one with its id."""

    op: Literal["put-gateway"] = "put-gateway"
    object: Gateway


class PutUplink(Value):
    """Add an uplink, or replace the one with its id."""

    op: Literal["put-uplink"] = "put-uplink"
    object: Uplink


class PutTunnel(Value):
    """Add a tunnel, or replace the one with its id."""

    op: Literal["put-tunnel"] = "put-tunnel"
    object: Tunnel


class PutSettings(Value):
    """Replace what holds for the design as a whole."""

    op: Literal["put-settings"] = "put-settings"
    object: DesignSettings


class RenumberNetwork(Value):
    """Move a network to another prefix of its family and length, with its gateway address and the selectors that name it."""

    op: Literal["renumber-network"] = "renumber-network"
    id: ObjectId
    prefix: Prefix = Field(title="New prefix")


class Remove(Value):
    """Remove an object. With `cascade`, what hangs on it goes as well; without, the change is refused if anything does."""

    op: Literal["remove"] = "remove"
    type: ObjectType = Field(title="Type", description="Any type but 'settings'.", examples=["network"])
    id: ObjectId
    cascade: bool = Field(default=False, title="With what hangs on it")


Put = PutSite | PutNetwork | PutGateway | PutUplink | PutTunnel | PutSettings
LoggedOperation = Annotated[Put | Remove, Field(discriminator="op")]  # what every change comes down to
AnyOperation = Put | Remove | RenumberNetwork
Operation = Annotated[AnyOperation, Field(discriminator="op")]

_PUT_BY_OBJECT: dict[type, Any] = {
    Site: PutSite,
    Network: PutNetwork,
    Gateway: PutGateway,
    Uplink: PutUplink,
    Tunnel: PutTunnel,
    DesignSettings: PutSettings,
}
_TYPE_BY_PUT = {
    PutSite: ObjectType.SITE,
    PutNetwork: ObjectType.NETWORK,
    PutGateway: ObjectType.GATEWAY,
    PutUplink: ObjectType.UPLINK,
    PutTunnel: ObjectType.TUNNEL,
    PutSettings: ObjectType.SETTINGS,
}


def put(item: DesignObject) -> Put:
    """Return the operation that puts an object."""
    operation: Put = _PUT_BY_OBJECT[type(item)](object=item)
    return operation


def target(operation: Put | Remove) -> tuple[ObjectType, str]:
    """Return type and id of the object that an operation puts or removes."""
    if isinstance(operation, Remove):
        return operation.type, operation.id
    item = operation.object
    return _TYPE_BY_PUT[type(operation)], SETTINGS_ID if isinstance(item, DesignSettings) else item.id
