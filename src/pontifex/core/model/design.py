"""The design: everything that is known at one revision."""

from __future__ import annotations

from enum import Enum
from functools import cached_property
from typing import Annotated

from pydantic import Field, StringConstraints

from pontifex.core.addressing import Prefix
from pontifex.core.model.objects import Gateway, Name, Network, ObjectId, Site, Uplink
from pontifex.core.model.tunnel import Tunnel, TunnelEnd
from pontifex.core.value import Value


class ObjectType(Enum):
    """The types of object that a design holds, each in the list of that name."""

    SITE = "site"
    NETWORK = "network"
    GATEWAY = "gateway"
    UPLINK = "uplink"
    TUNNEL = "tunnel"
    SETTINGS = "settings"  # the design's own name and supernets

    @property
    def list_name(self) -> str:
        """The field of the design that lists objects of this type."""
        return f"{self.value}s"


class DesignSettings(Value):
    """What holds for the design as a whole."""

    name: Name
    supernets: tuple[Prefix, ...] = Field(
        default=(), title="Supernets", description="Address space that the organisation may use inside.", max_length=64
    )


DesignObject = Site | Network | Gateway | Uplink | Tunnel | DesignSettings


class DesignContent(DesignSettings):
    """A design without its place in a history: what a design file holds. Each list is in the order of ids."""

    key_salt: Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{32}$")] = Field(
        title="Key salt", description="Salt of the key fingerprints; keys are comparable within one design only."
    )
    sites: tuple[Site, ...] = Field(default=(), title="Sites", max_length=10_000)
    gateways: tuple[Gateway, ...] = Field(default=(), title="Gateways", max_length=10_000)
    uplinks: tuple[Uplink, ...] = Field(default=(), title="Uplinks", max_length=20_000)
    networks: tuple[Network, ...] = Field(default=(), title="Networks", max_length=200_000)
    tunnels: tuple[Tunnel, ...] = Field(default=(), title="Tunnels", max_length=10_000)


class Design(DesignContent):
    """A design at a revision. Analyses are functions of it."""

    id: ObjectId
    revision: int = Field(title="Revision", ge=0)

    @cached_property
    def by_type(self) -> dict[ObjectType, dict[str, DesignObject]]:
        """All objects, by type and id."""
        found: dict[ObjectType, dict[str, DesignObject]] = {ObjectType.SETTINGS: {SETTINGS_ID: self.settings}}
        for type_ in LISTED_TYPES:
            found[type_] = {item.id: item for item in getattr(self, type_.list_name)}
        return found

    @property
    def settings(self) -> DesignSettings:
        """The design's own name and supernets."""
        return DesignSettings(name=self.name, supernets=self.supernets)

    @cached_property
    def site_by_id(self) -> dict[str, Site]:
        """Sites by id."""
        return {site.id: site for site in self.sites}

    @cached_property
    def gateway_by_id(self) -> dict[str, Gateway]:
        """Gateways by id."""
        return {gateway.id: gateway for gateway in self.gateways}

    @cached_property
    def uplink_by_id(self) -> dict[str, Uplink]:
        """Uplinks by id."""
        return {uplink.id: uplink for uplink in self.uplinks}

    @cached_property
    def tunnel_by_id(self) -> dict[str, Tunnel]:
        """Tunnels by id."""
        return {tunnel.id: tunnel for tunnel in self.tunnels}

    def site_of(self, end: TunnelEnd) -> Site:
        """The site at which a tunnel's end stands."""
        return self.site_by_id[self.gateway_by_id[end.gateway_id].site_id]

    def uplink_of(self, end: TunnelEnd) -> Uplink | None:
        """The uplink of a tunnel's end, None when it isn't known yet."""
        return self.uplink_by_id[end.uplink_id] if end.uplink_id else None

    def content(self) -> DesignContent:
        """The design without id and revision, for a design file."""
        fields = {name: getattr(self, name) for name in DesignContent.model_fields}
        return DesignContent.of(**fields)


SETTINGS_ID = "settings"
LISTED_TYPES = (ObjectType.SITE, ObjectType.GATEWAY, ObjectType.UPLINK, ObjectType.NETWORK, ObjectType.TUNNEL)
