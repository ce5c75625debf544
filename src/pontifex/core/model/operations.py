"""The operations that a change is made of: put an object, or remove one."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from pontifex.core.addressing import Prefix
from pontifex.core.model.design import SETTINGS_ID, DesignObject, DesignSettings, ObjectType
from pontifex.core.model.holdings import Claim, Host, Translation
from pontifex.core.model.intents import Filter, Intent
from pontifex.core.model.objects import Gateway, Network, ObjectId, Site, Uplink
from pontifex.core.model.paths import Profile, Route, Rule
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


class PutHost(Value):
    """Add a host, or replace the one with its id."""

    op: Literal["put-host"] = "put-host"
    object: Host


class PutClaim(Value):
    """Add a claim, or replace the one with its id."""

    op: Literal["put-claim"] = "put-claim"
    object: Claim


class PutTranslation(Value):
    """Add a translation, or replace the one with its id."""

    op: Literal["put-translation"] = "put-translation"
    object: Translation


class PutRoute(Value):
    """Add a route, or replace the one with its id."""

    op: Literal["put-route"] = "put-route"
    object: Route


class PutRule(Value):
    """Add a rule, or replace the one with its id."""

    op: Literal["put-rule"] = "put-rule"
    object: Rule


class PutFilter(Value):
    """Add a filter, or replace the one with its id."""

    op: Literal["put-filter"] = "put-filter"
    object: Filter


class PutIntent(Value):
    """Add an intent, or replace the one with its id."""

    op: Literal["put-intent"] = "put-intent"
    object: Intent


class PutProfile(Value):
    """Add a profile, or replace the one with its id."""

    op: Literal["put-profile"] = "put-profile"
    object: Profile


class PutSettings(Value):
    """Replace what holds for the design as a whole."""

    op: Literal["put-settings"] = "put-settings"
    object: DesignSettings


class RenumberNetwork(Value):
    """Move a network to another prefix of its family and length, with everything that names it."""

    op: Literal["renumber-network"] = "renumber-network"
    id: ObjectId
    prefix: Prefix = Field(title="New prefix")


class Translate(Value):
    """Put a translation, and let the ends of the tunnels that it is about name what is seen."""

    op: Literal["translate"] = "translate"
    object: Translation


class Remove(Value):
    """Remove an object. With `cascade`, what hangs on it goes as well; without, the change is refused if anything does."""

    op: Literal["remove"] = "remove"
    type: ObjectType = Field(title="Type", description="Any type but 'settings'.", examples=["network"])
    id: ObjectId
    cascade: bool = Field(default=False, title="With what hangs on it")


Put = (
    PutSite
    | PutNetwork
    | PutGateway
    | PutUplink
    | PutTunnel
    | PutHost
    | PutClaim
    | PutTranslation
    | PutRoute
    | PutRule
    | PutFilter
    | PutIntent
    | PutProfile
    | PutSettings
)
LoggedOperation = Annotated[Put | Remove, Field(discriminator="op")]  # what every change comes down to
AnyOperation = Put | Remove | RenumberNetwork | Translate
Operation = Annotated[AnyOperation, Field(discriminator="op")]

_PUT_BY_OBJECT: dict[type, Any] = {
    Site: PutSite,
    Network: PutNetwork,
    Gateway: PutGateway,
    Uplink: PutUplink,
    Tunnel: PutTunnel,
    Host: PutHost,
    Claim: PutClaim,
    Translation: PutTranslation,
    Route: PutRoute,
    Rule: PutRule,
    Filter: PutFilter,
    Intent: PutIntent,
    Profile: PutProfile,
    DesignSettings: PutSettings,
}
_TYPE_BY_PUT = {
    PutSite: ObjectType.SITE,
    PutNetwork: ObjectType.NETWORK,
    PutGateway: ObjectType.GATEWAY,
    PutUplink: ObjectType.UPLINK,
    PutTunnel: ObjectType.TUNNEL,
    PutHost: ObjectType.HOST,
    PutClaim: ObjectType.CLAIM,
    PutTranslation: ObjectType.TRANSLATION,
    PutRoute: ObjectType.ROUTE,
    PutRule: ObjectType.RULE,
    PutFilter: ObjectType.FILTER,
    PutIntent: ObjectType.INTENT,
    PutProfile: ObjectType.PROFILE,
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
