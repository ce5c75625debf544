"""A host: a device, server, workload or container with an address that is known."""

from __future__ import annotations

from typing import Annotated, Final

from pydantic import Field, StringConstraints

from pontifex.core.addressing import Address
from pontifex.core.choice import Choice
from pontifex.core.kinds.fields import DnsName, ObjectId, Port
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType, Reference

HardwareAddress = Annotated[
    str,
    StringConstraints(pattern=r"^([0-9a-f]{2}:){5}[0-9a-f]{2}$", to_lower=True),
    Field(title="Hardware address", examples=["02:00:5e:10:00:07"]),
]


class HostClass(Choice):
    """What a host is."""

    DEVICE = "device"
    SERVER = "server"
    WORKLOAD = "workload"
    CONTAINER = "container"


class Assignment(Choice):
    """How a host comes by its address."""

    STATIC = "static"  # set on the host itself
    RESERVED = "reserved"  # the DHCP server keeps it for the host's hardware address (RFC 2131 section 1)


class Host(DesignMember):
    """A device, server, workload or container with an address that is known."""

    network_id: ObjectId = Field(title="Network")
    address: Address = Field(title="Address")
    host_class: HostClass = Field(default=HostClass.DEVICE, title="Class")
    assignment: Assignment = Field(default=Assignment.STATIC, title="Assignment")
    hardware_address: HardwareAddress | None = Field(default=None, title="Hardware address")
    dns_name: DnsName | None = Field(default=None, title="DNS name")
    seen_outside: Address | None = Field(
        default=None, title="Seen outside as", description="The address by which the outside sees it, as somebody looked it up."
    )
    ports: tuple[Port, ...] = Field(default=(), title="Published ports", max_length=64)


HOST: Final = Kind(
    ObjectType.HOST,
    Host,
    "hosts",
    "Hosts",
    Group.ADDRESSES,
    refers=(Reference("network_id", ObjectType.NETWORK, is_parent=True),),
    searched=("dns_name", "address"),
)
