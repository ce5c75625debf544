"""What a line says, before it is known what it changes."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Final

from pontifex.core.addressing import Address, AddressRange, Interface, Prefix, Selector

MOST_TEXT: Final = 120  # of a line, as it is shown again


@dataclass(frozen=True, slots=True)
class SourceLine:
    """Where something was read."""

    line: int  # from 1; the element's number in JSON
    text: str  # what stands there, shortened


@dataclass(frozen=True, slots=True)
class NetworkRecord:
    """A network. Fields that the line doesn't speak of are None."""

    prefix: Prefix
    site: str | None = None
    name: str | None = None
    note: str = ""  # what was taken for granted
    fields: dict[str, object] = field(default_factory=dict)  # role, vlan, zone, gateway_address …


@dataclass(frozen=True, slots=True)
class RangeRecord:
    """Addresses in a row."""

    range: AddressRange
    site: str | None = None
    name: str | None = None


@dataclass(frozen=True, slots=True)
class HostRecord:
    """A single address."""

    address: Address
    site: str | None = None
    name: str | None = None
    fields: dict[str, object] = field(default_factory=dict)  # dns_name, hardware_address


@dataclass(frozen=True, slots=True)
class InterfaceRecord:
    """An address that a gateway has itself."""

    interface: Interface
    device: str
    vlan: int | None = None


@dataclass(frozen=True, slots=True)
class RouteRecord:
    """A route of a gateway."""

    prefix: Prefix
    via: Address | None
    device: str
    metric: int


@dataclass(frozen=True, slots=True)
class RuleRecord:
    """A policy rule of a gateway."""

    position: int
    sources: tuple[Prefix, ...]
    destinations: tuple[Selector, ...]
    table: str


@dataclass(frozen=True, slots=True)
class Passed:
    """A line that says nothing for a design, and why."""

    reason: str


@dataclass(frozen=True, slots=True)
class Unread:
    """A line that can't be read, and why."""

    reason: str


Record = NetworkRecord | RangeRecord | HostRecord | InterfaceRecord | RouteRecord | RuleRecord | Passed | Unread
Read = list[tuple[SourceLine, Record]]


def shortened(text: str) -> str:
    """Return a line as it is shown again."""
    line = " ".join(text.split())
    return line if len(line) <= MOST_TEXT else line[: MOST_TEXT - 1] + "…"
