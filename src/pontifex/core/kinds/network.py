"""A network: a prefix that is used at a site."""

from __future__ import annotations

from typing import Final

from pydantic import Field

from pontifex.core.addressing import Address, AddressRange, Prefix
from pontifex.core.addressing.dhcp_routes import DhcpRoute
from pontifex.core.choice import Choice
from pontifex.core.kinds.fields import DnsName, InterfaceName, ObjectId, Remark
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType, Reference


class NetworkRole(Choice):
    """What a network is for."""

    USER = "user"
    SERVER = "server"
    MANAGEMENT = "management"
    GUEST = "guest"
    TRANSIT = "transit"
    POOL = "pool"
    CONTAINER = "container"


class Network(DesignMember):
    """A prefix that is used at a site."""

    site_id: ObjectId = Field(title="Site")
    prefix: Prefix = Field(title="Prefix")
    role: NetworkRole = Field(default=NetworkRole.USER, title="Role")
    vlan: int | None = Field(default=None, title="VLAN", ge=1, le=4094)
    gateway_address: Address | None = Field(default=None, title="Gateway address", description="The hosts' default router.")
    zone: Remark = Field(
        default="",
        title="Isolated zone",
        description="Empty in the organisation's common address space. Networks of different zones never meet.",
    )
    dhcp_ranges: tuple[AddressRange, ...] = Field(
        default=(), title="DHCP ranges", description="Handed out to whoever asks.", max_length=16
    )
    lease_time_s: int | None = Field(default=None, title="Lease time, s", ge=60, le=2**31 - 1)
    reserved_ranges: tuple[AddressRange, ...] = Field(
        default=(), title="Kept by the platform", description="No host may have these addresses.", max_length=16
    )
    hosts_expected: int | None = Field(
        default=None, title="Hosts expected", description="How many addresses it is to have room for.", ge=0, le=2**31 - 1
    )
    dhcp_routes: tuple[DhcpRoute, ...] = Field(
        default=(), title="Routes by DHCP", description="Handed to the hosts beside the default route.", max_length=64
    )
    resolvers: tuple[Address, ...] = Field(
        default=(), title="Resolvers", description="Whom the hosts ask for names.", max_length=8
    )
    dhcp_suffix: DnsName | None = Field(
        default=None, title="Suffix by DHCP", description="The DNS suffix that its hosts are given."
    )
    interface: InterfaceName | None = Field(
        default=None, title="Interface", description="Of the gateway, towards this network: its name on the device."
    )
    own_table: bool = Field(
        default=False, title="Own route table", description="A cloud subnet: its hosts send only where its own routes lead."
    )


NETWORK: Final = Kind(
    ObjectType.NETWORK,
    Network,
    "networks",
    "Networks",
    Group.ADDRESSES,
    refers=(Reference("site_id", ObjectType.SITE, is_parent=True),),
    searched=("prefix",),
)
