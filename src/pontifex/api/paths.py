"""Paths over HTTP: who reaches whom, one flow, failures, routes, rules, links, and split tunnels. Nothing here writes."""

from __future__ import annotations

from typing import Annotated, Any, Final

from fastapi import APIRouter, Depends, Path, Query
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field

from pontifex.api.answers import REFUSALS, DesignId, answered, json_octets_answer
from pontifex.api.asking import Ask
from pontifex.core.addressing import Address, Prefix
from pontifex.core.handover import LinuxPlan
from pontifex.core.kinds import SplitMode
from pontifex.core.rehearsal.exit_seen import ExitRehearsal
from pontifex.core.routing import Split, Trace
from pontifex.core.routing.links.quality_course import QualityCourse
from pontifex.services.path_answers import (
    ChangedCells,
    ExitShown,
    LinkChoices,
    MovedHost,
    NeededRoutes,
    PathsMatrix,
    RuleMove,
    SplitPlan,
    Sweep,
)
from pontifex.services.path_questions import Supposed
from pontifex.services.paths import PathsService
from pontifex.services.rehearsals import RehearsalService

router = APIRouter(prefix="/api/designs/{design_id}/paths", tags=["paths"], responses=REFUSALS)


ObjectPath = Annotated[str, Path(max_length=64, examples=["crew"])]
Text = Annotated[str, Query(max_length=160)]
Several = Annotated[list[str], Query(max_length=64)]


def _supposed(down: Several = [], slow: Several = [], all_up: bool = False) -> Supposed:  # noqa: B006 - FastAPI copies it
    """What is down, what is slow ("id:delay=80,loss=2"), and whether tunnels that fail as designed count as up."""
    return Supposed(tuple(down), tuple(slow), all_up)


Supposing = Annotated[Supposed, Depends(_supposed)]


class WantedSplit(BaseModel):
    """A split in place of the profile's own; nothing of it for the profile as it is."""

    model_config = ConfigDict(
        extra="forbid", json_schema_extra={"examples": [{"mode": "only", "networks": ["10.64.0.0/14"], "most": 8}]}
    )
    mode: SplitMode | None = Field(default=None, title="What goes through")
    networks: tuple[Prefix, ...] = Field(default=(), title="These networks", max_length=1000)
    most: int | None = Field(default=None, title="Most routes", ge=1, le=10_000)
    router: str = Field(default="", title="Router", description="That DHCP is to name for the routes.", max_length=64)
    default_inside: bool = Field(
        default=False, title="Default route inside", description="Of option 121: everything then goes through the tunnel."
    )


class WantedHostMove(BaseModel):
    """Where a host is to go."""

    _example: Final[dict[str, Any]] = {"network_id": "harbour-staff", "address": "10.64.0.9"}
    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [_example]})
    network_id: str = Field(title="Network", max_length=64)
    address: Address = Field(title="Address there")


@router.get("/matrix", responses=answered(PathsMatrix), summary="Who reaches whom")
async def read_matrix(ask: Ask, design_id: DesignId, supposing: Supposing, service: Text = "any", dscp: Text = "DF") -> Response:
    """Return which networks reach which, exactly for whole prefixes."""
    return await ask(PathsService.matrix, design_id, service, dscp, supposing)


@router.get("/trace", responses=answered(Trace), summary="One flow, there and back")
async def read_trace(
    ask: Ask,
    design_id: DesignId,
    supposing: Supposing,
    source: Annotated[str, Query(max_length=160, examples=["10.64.0.5"])],
    destination: Annotated[str, Query(max_length=160, examples=["10.65.0.9"])],
    service: Text = "any",
    dscp: Text = "DF",
) -> Response:
    """Follow a flow hop by hop; of two networks the pair of addresses that fares worst."""
    return await ask(PathsService.trace, design_id, source, destination, service, dscp, supposing)


@router.get("/sweep", responses=answered(Sweep), summary="Every single failure")
async def read_sweep(ask: Ask, design_id: DesignId, all_up: bool = False) -> Response:
    """Return what each single failure of an uplink, tunnel, gateway or site breaks."""
    return await ask(PathsService.sweep, design_id, all_up)


@router.get("/difference", responses=answered(ChangedCells), summary="What fares otherwise at two revisions")
async def read_difference(
    ask: Ask,
    design_id: DesignId,
    since: Annotated[int, Query(ge=0)],
    until: Annotated[int | None, Query(ge=0, title="The later revision", description="Without it, now.")] = None,
    service: Text = "any",
    all_up: bool = False,
) -> Response:
    """Return the pairs of networks that fare otherwise at the later revision."""
    return await ask(PathsService.difference, design_id, since, until, service, all_up)


@router.get("/routes", responses=answered(NeededRoutes), summary="Routes that the intents need")
async def read_routes(ask: Ask, design_id: DesignId) -> Response:
    """Return the fewest routes that give all that is wanted, and the change that adds those that are missing."""
    return await ask(PathsService.routes, design_id)


@router.get("/links", responses=answered(LinkChoices), summary="What rules choose and uplinks carry")
async def read_links(ask: Ask, design_id: DesignId, supposing: Supposing) -> Response:
    """Return which path each rule takes, when it would move, what the uplinks carry, and which failures are too much."""
    return await ask(PathsService.links, design_id, supposing)


@router.get("/exits", responses=answered(list[ExitShown]), summary="What hangs on exits")
async def read_exits(ask: Ask, design_id: DesignId) -> Response:
    """Return which address the outside sees for each workload, what it does when tunnels are down, and the order of starts."""
    return await ask(PathsService.exits, design_id)


@router.get("/exits/{exit_id}/rehearsal", responses=answered(ExitRehearsal), summary="What the outside sees, rehearsed")
async def rehearse_exit(ask: Ask, design_id: DesignId, exit_id: ObjectPath) -> Response:
    """Dial an exit's tunnels in virtual time, and say which address an echo service sees of each workload, before and after."""
    return json_octets_answer(await ask.answer(RehearsalService.exit, design_id, exit_id))


@router.get("/rules/{rule_id}/move", responses=answered(RuleMove), summary="What a move of a rule changes")
async def read_rule_move(
    ask: Ask, design_id: DesignId, rule_id: ObjectPath, place: Annotated[int, Query(ge=0, le=20_000)]
) -> Response:
    """Return what goes otherwise with a rule at a place among its gateway's rules, from 0, and the change that puts it there."""
    return await ask(PathsService.move_rule, design_id, rule_id, place)


@router.get(
    "/rules/{rule_id}/paths/{path_id}/course",
    responses=answered(QualityCourse),
    summary="What a rule takes while a quality changes",
)
async def read_quality_course(
    ask: Ask,
    design_id: DesignId,
    rule_id: ObjectPath,
    path_id: ObjectPath,
    supposing: Supposing,
    measure: Annotated[str, Query(title="What changes", max_length=32, examples=["delay_ms"])],
    point: Several = [],  # noqa: B006 - FastAPI copies it
) -> Response:
    """Return when a rule leaves a path, and when it comes back, while a measure of it goes its course.

    The course is given by points, SECOND:VALUE in the order of time; without any it goes up, down and back.
    """
    return await ask(PathsService.quality_course, design_id, rule_id, path_id, measure, tuple(point), supposing)


@router.get("/gateways/{gateway_id}/linux", responses=answered(LinuxPlan), summary="Commands for a Linux machine")
async def read_linux_plan(ask: Ask, design_id: DesignId, gateway_id: ObjectPath) -> Response:
    """Return the routes, rules, switches and filters of a gateway as commands, with the way back."""
    return await ask(PathsService.linux, design_id, gateway_id)


@router.post("/hosts/{host_id}/move", responses=answered(MovedHost), summary="What changes for a host in another network")
async def plan_host_move(
    ask: Ask, design_id: DesignId, host_id: ObjectPath, move: WantedHostMove, supposing: Supposing
) -> Response:
    """Return for which networks it changes anything, and the change that moves the host."""
    return await ask(PathsService.move_host, design_id, host_id, move.network_id, move.address, supposing)


@router.post("/split/{profile_id}", responses=answered(SplitPlan), summary="Plan of a split tunnel")
async def plan_split(ask: Ask, design_id: DesignId, profile_id: ObjectPath, wanted: WantedSplit) -> Response:
    """Return the routes, what is forgotten and leaks, which resolver answers what, and the octets for DHCP."""
    other = Split(wanted.mode, wanted.networks) if wanted.mode else None
    return await ask(PathsService.split, design_id, profile_id, other, wanted.most, wanted.router, wanted.default_inside)
