"""What stands at a site: networks, gateways and their uplinks."""

from __future__ import annotations

from enum import Enum
from typing import Annotated, Final

from pydantic import Field, StringConstraints

from pontifex.core.addressing import Address, AddressRange, Prefix
from pontifex.core.addressing.dhcp_routes import DhcpRoute
from pontifex.core.model.technology import Technology
from pontifex.core.value import Value

# No control characters: a name is one line on the screen, in the log and in a printed sheet.
ONE_LINE = r"^[^\x00-\x1f\x7f]*$"

ObjectId = Annotated[
    str,
    StringConstraints(pattern=r"^[a-z0-9]([a-z0-9-]{0,62}[a-z0-9])?$", max_length=64),
    Field(
        title="Id", description="Lower-case letters, digits and hyphens; unique among objects of its type.", examples=["ostvik"]
    ),
]
Name = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=80, pattern=ONE_LINE),
    Field(title="Name", examples=["Ostvik Terminal"]),
]
Remark = Annotated[str, StringConstraints(strip_whitespace=True, max_length=200, pattern=ONE_LINE)]
DnsName = Annotated[
    str,
    StringConstraints(
        pattern=r"^([A-Za-z0-9_]([A-Za-z0-9_-]{0,61}[A-Za-z0-9_])?\.)+[A-Za-z]([A-Za-z0-9-]{0,61}[A-Za-z0-9])?$",
        max_length=253,
    ),
    Field(title="DNS name", examples=["ostvik.dyn.example"]),
]
ALL_BELOW: Final = "*."  # in front of a domain: the domain itself, and all names below it
NameOrDomain = Annotated[
    str,
    StringConstraints(
        pattern=r"^(\*\.)?([A-Za-z0-9_]([A-Za-z0-9_-]{0,61}[A-Za-z0-9_])?\.)+[A-Za-z]([A-Za-z0-9-]{0,61}[A-Za-z0-9])?$",
        max_length=253,
    ),
    Field(title="DNS name or domain", examples=["rota.skerry.example", "*.skerry.example"]),
]
InterfaceName = Annotated[  # IFNAMSIZ of Linux allows 15 characters; other systems allow longer names
    str,
    StringConstraints(pattern=r"^[A-Za-z0-9][A-Za-z0-9._-]*$", min_length=1, max_length=15),
    Field(title="Interface", description="Its name on the device, as commands need it.", examples=["eth0"]),
]
Milliseconds = Annotated[float, Field(ge=0, le=60_000, examples=[40])]
Percent = Annotated[float, Field(ge=0, le=100, examples=[1])]
Rate = Annotated[float, Field(gt=0, le=1_000_000, examples=[500])]


class SiteKind(Enum):
    """What a site is."""

    OFFICE = "office"
    DATA_CENTRE = "data-centre"
    CLOUD = "cloud"
    VEHICLE = "vehicle"
    HOME = "home"
    PARTNER = "partner"


class NetworkRole(Enum):
    """What a network is for."""

    USER = "user"
    SERVER = "server"
    MANAGEMENT = "management"
    GUEST = "guest"
    TRANSIT = "transit"
    POOL = "pool"
    CONTAINER = "container"


class GatewayKind(Enum):
    """What a gateway is."""

    ROUTER = "router"
    FIREWALL = "firewall"
    SERVER = "server"
    CLOUD_GATEWAY = "cloud-gateway"
    CONTAINER_HOST = "container-host"


class AddressKind(Enum):
    """What kind of address an uplink has, as the outside sees it."""

    FIXED_PUBLIC = "fixed-public"
    CHANGING_PUBLIC = "changing-public"
    BEHIND_NAT = "behind-nat"
    CARRIER_NAT = "carrier-nat"


class Site(Value):
    """A place with networks and gateways."""

    id: ObjectId
    name: Name
    kind: SiteKind = Field(default=SiteKind.OFFICE, title="Kind")
    organisation: Remark = Field(default="", title="Organisation", description="Who runs it.")
    place: Remark = Field(default="", title="Place")
    region: Remark = Field(default="", title="Region", description="A tag that rules may ask for.")


class Network(Value):
    """A prefix that is used at a site."""

    id: ObjectId
    site_id: ObjectId = Field(title="Site")
    name: Name
    prefix: Prefix = Field(title="Prefix")
    role: NetworkRole = Field(default=NetworkRole.USER, title="Role")
    vlan: int | None = Field(default=None, title="VLAN", ge=1, le=4094)
    gateway_address: Address | None = Field(default=None, title="Gateway address", description="The hosts' default router.")
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
    interface: InterfaceName | None = Field(
        default=None, title="Interface", description="Of the gateway, towards this network: its name on the device."
    )
    own_table: bool = Field(
        default=False, title="Own route table", description="A cloud subnet: its hosts send only where its own routes lead."
    )
    zone: Remark = Field(
        default="",
        title="Isolated zone",
        description="Empty in the organisation's common address space. Networks of different zones never meet.",
    )


class Outranking(Enum):
    """Which routes of a gateway are asked before any policy rule."""

    NOTHING = "nothing"
    CONNECTED = "connected"  # the networks of the gateway's own site
    SPECIFIC = "specific"  # all but the default route


class Gateway(Value):
    """A device that ends tunnels."""

    id: ObjectId
    site_id: ObjectId = Field(title="Site")
    name: Name
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
        default=True, title="Hosts use it", description="The site's hosts have it as their default router."
    )
    inside_address: Address | None = Field(
        default=None, title="Inside address", description="Where hosts and routers of the site find it."
    )
    resolvers: tuple[Address, ...] = Field(
        default=(), title="Resolvers", description="Whom the device itself asks for names.", max_length=8
    )
    outranking: Outranking = Field(
        default=Outranking.NOTHING, title="Outranks rules", description="The routes that are asked before any policy rule."
    )
    keeps_state: bool = Field(
        default=True,
        title="Keeps state",
        description="Answers pass its filters and translations as their connection began; otherwise each packet by itself.",
    )
    folds_case: bool = Field(default=False, title="Folds case", description="Compares names without regard to letter case.")
    most_selectors: int | None = Field(
        default=None, title="Most networks", description="How many networks a tunnel may have at one side.", ge=1, le=256
    )


class Uplink(Value):
    """A gateway's way to the outside."""

    id: ObjectId
    gateway_id: ObjectId = Field(title="Gateway")
    name: Name
    address_kind: AddressKind = Field(default=AddressKind.FIXED_PUBLIC, title="Address kind")
    address: Address | None = Field(default=None, title="Address", description="As the outside sees it.")
    dns_name: DnsName | None = Field(default=None, title="DNS name")
    inbound_ike: bool = Field(
        default=True, title="Can be called", description="UDP from outside arrives at the gateway (500 and 4500 for IPsec)."
    )
    inbound_tcp: bool = Field(default=True, title="TCP arrives", description="TCP 443 from outside arrives at the gateway.")
    only_tcp_out: bool = Field(default=False, title="Only TCP out", description="Nothing but TCP 443 gets out.")
    rate_down_mbit_s: Rate | None = Field(default=None, title="Down, Mbit/s")
    rate_up_mbit_s: Rate | None = Field(default=None, title="Up, Mbit/s")
    delay_ms: Milliseconds | None = Field(default=None, title="Delay, ms")
    jitter_ms: Milliseconds | None = Field(default=None, title="Jitter, ms")
    loss_percent: Percent | None = Field(default=None, title="Loss, %")
    mtu: int | None = Field(default=None, title="MTU", description="Of the path to the outside, in octets.", ge=576, le=65_535)
    nat_timeout_s: int | None = Field(
        default=None, title="NAT timeout, s", description="After which a NAT on the way forgets a silent flow.", ge=1, le=86_400
    )
    interface: InterfaceName | None = Field(default=None, title="Interface", description="Its name on the device.")
    preference: int = Field(default=1, title="Order", description="1 is used first.", ge=1, le=99)

    @property
    def behind_nat(self) -> bool:
        """Tell whether a NAT stands on the way, so that ESP goes in UDP (RFC 3948) and must be kept alive."""
        return self.address_kind in (AddressKind.BEHIND_NAT, AddressKind.CARRIER_NAT)

    def callable(self, over_tcp: bool = False) -> bool:
        """Tell whether a call from outside arrives: never through a carrier's NAT, which forwards no port."""
        arrives = self.inbound_tcp if over_tcp else self.inbound_ike
        return arrives and self.address_kind is not AddressKind.CARRIER_NAT
