"""What the interfaces of a gateway are called on the device: asked for where it isn't known, never made up."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from pontifex.core.addressing import Address, Family
from pontifex.core.kinds import ObjectType, Outranking, Path, PathType
from pontifex.core.routing.tables.tables import GatewayTable, Tables


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedInterface:
    """An interface, and what it is called."""

    type: Annotated[ObjectType, Field(description="Of what it leads into: a tunnel, an uplink or a network.")]
    id: str
    name: Annotated[str, Field(title="Name of the tunnel, uplink or network")]
    interface: Annotated[str | None, Field(title="Interface", description="Its name on the device; null where it isn't known.")]
    needed: Annotated[bool, Field(title="No commands can be written without it")]


Key = tuple[ObjectType, str]  # of a tunnel, an uplink or a network
Routers = dict[str, tuple[Address, ...]]  # by uplink, one a family


@dataclass(frozen=True, slots=True)
class Interfaces:
    """Names of interfaces by what they lead into, and providers' routers by the id of their uplink."""

    tunnels: tuple[str, ...]
    uplinks: tuple[str, ...]
    networks: tuple[str, ...]  # as far as they are known
    named: dict[Key, str]
    all: tuple[NamedInterface, ...]
    routers: Routers

    @classmethod
    def of(cls, tables: Tables, table: GatewayTable, names: dict[Key, str], routers: Routers) -> Interfaces:
        """Return the names that the design has, and beside them those that are given.

        Networks are needed only where they are asked before rules: elsewhere the kernel's own routes lead into them.
        """
        known: list[tuple[ObjectType, str, str, str | None]] = []
        known += [(ObjectType.TUNNEL, tunnel.id, tunnel.name, tunnel.end(side).interface) for tunnel, side in table.tunnels]
        uplinks = tables.uplinks_of.get(table.gateway.id, ())
        known += [(ObjectType.UPLINK, uplink.id, uplink.name, uplink.interface) for uplink in uplinks]
        known += [(ObjectType.NETWORK, network.id, network.name, network.interface) for network in table.networks]
        named = {(type_, id_): found for type_, id_, _, name in known if (found := names.get((type_, id_)) or name)}
        asked = {ObjectType.TUNNEL, ObjectType.UPLINK}
        asked |= {ObjectType.NETWORK} if table.gateway.outranking is Outranking.CONNECTED else set()
        listed_all = tuple(
            NamedInterface(type=type_, id=id_, name=name, interface=named.get((type_, id_)), needed=type_ in asked)
            for type_, id_, name, _ in known
        )
        listed = [
            tuple(dict.fromkeys(name for (type_, _), name in named.items() if type_ is wanted))
            for wanted in (ObjectType.TUNNEL, ObjectType.UPLINK, ObjectType.NETWORK)
        ]
        return cls(listed[0], listed[1], listed[2], named, listed_all, routers)

    @property
    def lacking(self) -> bool:
        """Whether a name is lacking without which no commands can be written."""
        return any(interface.needed and interface.interface is None for interface in self.all)

    def tunnel(self, id_: str) -> str:
        """Return the interface of a tunnel."""
        return self.named[ObjectType.TUNNEL, id_]

    def network(self, id_: str) -> str | None:
        """Return the interface of a network; None where it isn't known."""
        return self.named.get((ObjectType.NETWORK, id_))

    def by_uplink(self, id_: str, family: Family) -> tuple[str, str]:
        """Return the device of an uplink, and how a route goes by it."""
        device = self.named[ObjectType.UPLINK, id_]
        router = next((address for address in self.routers.get(id_, ()) if address.family is family), None)
        return device, f"{f'via {router} ' if router else ''}dev {device}"

    def by_path(self, path: Path, family: Family) -> tuple[str, str] | None:
        """Return the same of a rule's path; None for one of another gateway."""
        if (ObjectType(path.type.value), path.id) not in self.named:
            return None
        if path.type is PathType.UPLINK:
            return self.by_uplink(path.id, family)
        return self.tunnel(path.id), f"dev {self.tunnel(path.id)}"
