"""A gateway: a device that ends tunnels."""

from __future__ import annotations

from typing import Final

from pydantic import Field

from pontifex.core.addressing import Address
from pontifex.core.choice import Choice
from pontifex.core.kinds.fields import ObjectId
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType, Reference
from pontifex.core.kinds.technology import Technology


class GatewayKind(Choice):
    """What a gateway is."""

    ROUTER = "router"
    FIREWALL = "firewall"
    SERVER = "server"
    CLOUD_GATEWAY = "cloud-gateway"
    CONTAINER_HOST = "container-host"


class Outranking(Choice):
    """Which routes of a gateway are asked before any policy rule."""

    NOTHING = "nothing"
    CONNECTED = "connected"  # the networks of the gateway's own site
    SPECIFIC = "specific"  # all but the default route


class Gateway(DesignMember):
    """A device that ends tunnels."""

    site_id: ObjectId = Field(title="Site")
    kind: GatewayKind = Field(default=GatewayKind.ROUTER, title="Kind")
    service_on: bool = Field(
        default=True,
        title="Tunnels on",
        description="The switch for all tunnels of the gateway; each has its own, too.",
    )
    technologies: tuple[Technology, ...] = Field(
        default=(), title="Technologies", description="What it can do; empty where that is not known.", max_length=5
    )
    forwarding: bool = Field(default=True, title="Forwards", description="Passes packets on between its interfaces.")
    default_router: bool = Field(
        default=True, title="Default router of its site", description="The site's hosts have it as their default router."
    )
    inside_address: Address | None = Field(
        default=None, title="Inside address", description="Where hosts and routers of the site find it."
    )
    resolvers: tuple[Address, ...] = Field(
        default=(), title="Resolvers", description="Whom the device itself asks for names.", max_length=8
    )
    outranking: Outranking = Field(
        default=Outranking.NOTHING, title="Routes asked before rules", description="They are asked before any policy rule."
    )
    keeps_state: bool = Field(
        default=True,
        title="Keeps state",
        description="Answers pass its filters and translations as their connection began; otherwise each packet by itself.",
    )
    folds_case: bool = Field(
        default=False, title="Ignores letter case", description="Compares names without regard to letter case."
    )
    most_selectors: int | None = Field(
        default=None, title="Most networks", description="How many networks a tunnel may have at one side.", ge=1, le=256
    )


GATEWAY: Final = Kind(
    ObjectType.GATEWAY,
    Gateway,
    "gateways",
    "Gateways",
    Group.PLACES,
    refers=(Reference("site_id", ObjectType.SITE, is_parent=True),),
)
