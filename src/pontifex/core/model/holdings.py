"""What takes up address space beside networks: hosts, claims on space that is free yet, and translations."""

from __future__ import annotations

from enum import Enum
from typing import Annotated, Self

from pydantic import Field, StringConstraints, model_validator
from pydantic_core import PydanticCustomError

from pontifex.core.addressing import Address, Prefix
from pontifex.core.model.objects import DnsName, Name, ObjectId, Remark
from pontifex.core.value import Value

HardwareAddress = Annotated[
    str,
    StringConstraints(pattern=r"^([0-9a-f]{2}:){5}[0-9a-f]{2}$", to_lower=True),
    Field(title="Hardware address", examples=["02:00:5e:10:00:07"]),
]
Port = Annotated[int, Field(ge=1, le=65_535)]


class HostClass(Enum):
    """What a host is."""

    DEVICE = "device"
    SERVER = "server"
    WORKLOAD = "workload"
    CONTAINER = "container"


class Assignment(Enum):
    """How a host comes by its address."""

    STATIC = "static"  # set on the host itself
    RESERVED = "reserved"  # the DHCP server keeps it for the host's hardware address (RFC 2131 section 1)


class Host(Value):
    """A device, server, workload or container with an address that is known."""

    id: ObjectId
    network_id: ObjectId = Field(title="Network")
    name: Name
    address: Address = Field(title="Address")
    host_class: HostClass = Field(default=HostClass.DEVICE, title="Class")
    assignment: Assignment = Field(default=Assignment.STATIC, title="Assignment")
    hardware_address: HardwareAddress | None = Field(default=None, title="Hardware address")
    dns_name: DnsName | None = Field(default=None, title="DNS name")
    ports: tuple[Port, ...] = Field(default=(), title="Published ports", max_length=64)


class Claim(Value):
    """Address space that is held for a site, and not used yet."""

    id: ObjectId
    site_id: ObjectId = Field(title="Site")
    name: Name
    prefix: Prefix = Field(title="Prefix")
    remark: Remark = Field(default="", title="Remark")


class TranslationKind(Enum):
    """How addresses are translated."""

    ONE_TO_ONE = "one-to-one"  # each address to the one at the same place of the other prefix (RFC 2663 section 4.1.1)
    BEHIND_ONE = "behind-one"  # all to one address, told apart by port (RFC 2663 section 4.1.2)


class TranslatedSide(Enum):
    """Whose addresses a gateway translates."""

    OWN = "own"  # a network on the gateway's side of the tunnel, as the far side sees it
    FAR = "far"  # a network beyond the tunnel, as the gateway's side sees it


class Translation(Value):
    """A gateway shows one side of its tunnels other addresses than the other side uses (RFC 3022)."""

    id: ObjectId
    gateway_id: ObjectId = Field(title="Gateway")
    name: Name
    tunnel_id: ObjectId | None = Field(default=None, title="Tunnel", description="Empty for all tunnels of the gateway.")
    side: TranslatedSide = Field(default=TranslatedSide.OWN, title="Whose addresses")
    kind: TranslationKind = Field(default=TranslationKind.ONE_TO_ONE, title="Kind")
    inside: Prefix = Field(title="Real")
    outside: Prefix = Field(title="Seen as")

    @model_validator(mode="after")
    def _sizes_fit(self) -> Self:
        if self.inside.family is not self.outside.family:
            raise PydanticCustomError("translation", "a translation stays within one address family")
        if self.kind is TranslationKind.ONE_TO_ONE and self.inside.length != self.outside.length:
            sizes = {"inside": str(self.inside), "outside": str(self.outside)}
            raise PydanticCustomError(
                "translation", "one-to-one needs two prefixes of one size, not {inside} and {outside}", sizes
            )
        if self.kind is TranslationKind.BEHIND_ONE and self.outside.length != self.outside.family.bits:
            single = {"outside": str(self.outside), "bits": self.outside.family.bits}
            raise PydanticCustomError("translation", "behind one address needs a single one, a /{bits}, not {outside}", single)
        return self

    def seen(self, address: int) -> int:
        """Return what a real address is seen as; both as unsigned integers."""
        if self.kind is TranslationKind.BEHIND_ONE:
            return self.outside.network
        return address - self.inside.network + self.outside.network
