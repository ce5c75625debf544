"""What is answered about paths."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from pontifex.core.exits.order import ExitOrder
from pontifex.core.exits.workloads import ExitTable
from pontifex.core.model import LoggedOperation
from pontifex.core.rehearsal.leases import LeaseCourse
from pontifex.core.routing import Failure, RouteList
from pontifex.core.routing.links.capacity import OverAfter, UplinkLoad
from pontifex.core.routing.links.choice import RuleChoice
from pontifex.core.routing.rules.rules import MoveChange
from pontifex.core.routing.trace.moved_host import MovedPair
from pontifex.core.routing.wanted.generate import NeededRoute


@dataclass(frozen=True, slots=True, kw_only=True)
class ExitShown:
    """An exit with all that hangs on it, and the order in which things start and are changed."""

    table: ExitTable
    order: ExitOrder


@dataclass(frozen=True, slots=True, kw_only=True)
class WantedPair:
    """A pair of networks that an intent wants, by their places in the matrix."""

    row: int
    column: int


@dataclass(frozen=True, slots=True, kw_only=True)
class PathsMatrix:
    """Who reaches whom."""

    revision: int
    service: Annotated[str, Field(title="Traffic")]
    services: Annotated[tuple[str, ...], Field(title="Kinds of traffic that the design tells apart")]
    network_ids: Annotated[tuple[str, ...], Field(title="Networks", description="In the order of rows and columns.")]
    rows: Annotated[
        tuple[str, ...],
        Field(
            title="Rows",
            description="By source; one letter for each destination: r reaches, a asymmetric, o one way, h held, b blocked, "
            "u unprotected, . nothing to say. In capitals where it is not so for all addresses.",
        ),
    ]
    wanted: Annotated[tuple[WantedPair, ...], Field(title="Pairs that an intent wants")]


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangedCell:
    """A pair of networks that fares otherwise than at an earlier revision; empty where it wasn't, or isn't, there."""

    source_id: str
    destination_id: str
    before: str
    after: str


@dataclass(frozen=True, slots=True, kw_only=True)
class NeededRoutes:
    """The routes that the intents need, and the change that adds those that are missing."""

    routes: tuple[NeededRoute, ...]
    operations: tuple[LoggedOperation, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class LinkChoices:
    """What the rules choose, what the uplinks carry, and which failures are too much for them."""

    rules: tuple[RuleChoice, ...]
    loads: tuple[UplinkLoad, ...]
    over_after: tuple[OverAfter, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class SplitPlan:
    """What a split tunnel hands to the people's devices."""

    routes: RouteList
    leaks: Annotated[tuple[str, ...], Field(title="Families that pass beside it")]
    forgotten: Annotated[tuple[str, ...], Field(title="Ids of networks that the gateway leads to and the split forgets")]
    resolvers: Annotated[tuple[str, ...], Field(title="Which resolver answers which names", description="A line each.")]
    pool_room: Annotated[int | None, Field(title="Addresses of the pool")]
    people: Annotated[int | None, Field(title="People")]
    leases: Annotated[str, Field(title="Which leases must be renewed before it holds")]
    option: Annotated[str, Field(title="Octets of DHCP option 121", description="In hexadecimal; empty without a router.")]
    option_fits: Annotated[bool, Field(title="It fits one option")]
    trouble: Annotated[str, Field(title="What is wrong with the router", description="Empty where nothing is.")]
    course: Annotated[LeaseCourse | None, Field(title="What becomes of the leases", description="Null without a router.")]
    operations: Annotated[tuple[LoggedOperation, ...], Field(title="The change that hands these routes out")]


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleMove:
    """What a move of a rule changes, and the change that carries it out."""

    changes: Annotated[tuple[MoveChange, ...], Field(title="What goes otherwise")]
    operations: tuple[LoggedOperation, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class MovedHost:
    """What changes for a host in another network, and the change that moves it."""

    pairs: tuple[MovedPair, ...]
    operations: tuple[LoggedOperation, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Sweep:
    """Every single failure."""

    failures: Annotated[tuple[Failure, ...], Field(title="Failures", description="The one that costs most pairs first.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangedCells:
    """What fares otherwise at two revisions."""

    cells: tuple[ChangedCell, ...]
