"""An uplink: a gateway's way to the outside."""

from __future__ import annotations

from typing import Final

from pydantic import Field

from pontifex.core.addressing import Address
from pontifex.core.choice import Choice
from pontifex.core.kinds.fields import DnsName, InterfaceName, Milliseconds, ObjectId, Percent, Rate
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType, Reference


class AddressKind(Choice):
    """What kind of address an uplink has, as the outside sees it."""

    FIXED_PUBLIC = "fixed-public"
    CHANGING_PUBLIC = "changing-public"
    BEHIND_NAT = "behind-nat"
    CARRIER_NAT = "carrier-nat"


class Uplink(DesignMember):
    """A gateway's way to the outside."""

    gateway_id: ObjectId = Field(title="Gateway")
    address_kind: AddressKind = Field(default=AddressKind.FIXED_PUBLIC, title="Address kind")
    address: Address | None = Field(default=None, title="Address", description="As the outside sees it.")
    dns_name: DnsName | None = Field(default=None, title="DNS name")
    inbound_ike: bool = Field(default=True, title="UDP 500/4500 arrives", description="Calls from outside arrive at the gateway.")
    inbound_tcp: bool = Field(default=True, title="TCP arrives", description="TCP 443 from outside arrives at the gateway.")
    only_tcp_out: bool = Field(default=False, title="Only TCP 443 gets out", description="Of what the gateway sends outside.")
    esp_passes: bool = Field(
        default=True, title="ESP passes", description="IP protocol 50, in and out, apart from UDP 500 and 4500."
    )
    fragments_pass: bool = Field(
        default=True, title="Fragments pass", description="Pieces of IP packets that are larger than the path takes."
    )
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
        """Whether a NAT stands on the way, so that ESP goes in UDP (RFC 3948) and must be kept alive."""
        return self.address_kind in (AddressKind.BEHIND_NAT, AddressKind.CARRIER_NAT)

    def callable(self, over_tcp: bool = False) -> bool:
        """Whether a call from outside arrives: never through a carrier's NAT, which forwards no port."""
        arrives = self.inbound_tcp if over_tcp else self.inbound_ike
        return arrives and self.address_kind is not AddressKind.CARRIER_NAT


UPLINK: Final = Kind(
    ObjectType.UPLINK,
    Uplink,
    "uplinks",
    "Uplinks",
    Group.PLACES,
    refers=(Reference("gateway_id", ObjectType.GATEWAY, is_parent=True),),
    searched=("dns_name", "address"),
)
