"""What the outside sees of an address: by which uplink it leaves, or why it doesn't."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address
from pontifex.core.choice import Choice
from pontifex.core.kinds import Network
from pontifex.core.routing import Conditions, End, Flow, Tables, trace
from pontifex.core.routing.wanted.exits import somewhere_outside


class OutsideFate(Choice):
    """What becomes of what is sent to the Internet."""

    LEAVES_BY_EXIT = "leaves by the exit"
    LEAKS = "leaks"  # it leaves, and by no tunnel
    HELD = "held"  # a rule keeps it back
    LOST = "lost"
    NOT_KNOWN = "not known"


@dataclass(frozen=True, slots=True, kw_only=True)
class Outside:
    """How something goes to the Internet under some conditions."""

    fate: OutsideFate
    uplink_id: str | None
    address: Annotated[Address | None, Field(title="As the outside sees it", description="Null where it is the provider's.")]
    tunnels: Annotated[tuple[str, ...], Field(title="Ids of the tunnels on the way")]
    why: str


def outside_of(tables: Tables, conditions: Conditions, source: Address, network: Network) -> Outside:
    """Return how packets from an address of a network go to the Internet."""
    destination = somewhere_outside(tables, source.family)
    if destination is None:
        words = "the design holds nearly every address that there is"
        return Outside(fate=OutsideFate.NOT_KNOWN, uplink_id=None, address=None, tunnels=(), why=words)
    traced = trace(tables, Flow(source, destination), conditions, network)
    way = traced.forward
    uplink_id = way.hops[-1].uplink_id if way.hops else None
    fate = _FATES.get(way.end, OutsideFate.LOST)
    if fate is OutsideFate.LEAVES_BY_EXIT and not way.tunnels:
        fate = OutsideFate.LEAKS
    uplink = tables.design.uplink_by_id[uplink_id] if uplink_id else None
    return Outside(
        fate=fate,
        uplink_id=uplink_id,
        address=uplink.address if uplink else None,
        tunnels=way.tunnels,
        why=way.reason,
    )


_FATES: Final = {
    End.INTERNET: OutsideFate.LEAVES_BY_EXIT,
    End.UNPROTECTED: OutsideFate.LEAVES_BY_EXIT,
    End.HELD: OutsideFate.HELD,
    End.UNKNOWN: OutsideFate.NOT_KNOWN,
}
