"""Many sites at once: bringing them in line by line, connecting them, and the standards that their tunnels follow."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field
from starlette.concurrency import run_in_threadpool

from pontifex.api.answers import CONFLICT, REFUSALS, DesignId, Designs, Keys, Person, answered
from pontifex.api.asking import Ask
from pontifex.api.changing import BaseRevision, ChangeAnswer, ChangeId, Incarnation, answer_change
from pontifex.api.space import ObjectPath
from pontifex.core.connecting import Connect
from pontifex.core.connecting.proposed import ProposedValue
from pontifex.core.kinds import ObjectId, Standard
from pontifex.core.starting import NextStep, SitesPlan, StartText
from pontifex.services.adding import add
from pontifex.services.connecting import (
    ConnectingService,
    ConnectOffer,
    ConnectPreview,
    SiteLineOffer,
    StandardEffect,
    StandardInUse,
)
from pontifex.store import DesignState

router = APIRouter(prefix="/api/designs/{design_id}", tags=["connecting"], responses=REFUSALS)


class _Based(BaseModel):
    model_config = ConfigDict(extra="forbid")
    base_revision: BaseRevision
    incarnation: Incarnation = ""
    change_id: ChangeId = None

    def base(self, design_id: str) -> DesignState:
        """Return the state that the person saw."""
        return DesignState(design_id, self.base_revision, self.incarnation)


class NewSites(_Based):
    """Sites to be added, a line each."""

    start: StartText


class NewConnections(_Based):
    """Sites to be connected."""

    connect: Connect


class Following(BaseModel):
    """Tunnels that are to follow a standard."""

    model_config = ConfigDict(extra="forbid")
    standard: Standard
    tunnel_ids: list[ObjectId] = Field(title="Tunnels", min_length=1, max_length=10_000)


@router.get("/sites/{site_id}/another", responses=answered(SiteLineOffer), summary="Another site like one that is there")
async def read_another(ask: Ask, design_id: DesignId, site_id: ObjectPath) -> Response:
    """Return the line that would add another site like one, with networks of the same sizes from free space."""
    return await ask(ConnectingService.another, design_id, site_id)


@router.get("/next-steps", responses=answered(list[NextStep]), summary="What to do next")
async def read_next_steps(ask: Ask, design_id: DesignId) -> Response:
    """Return what has been begun in a design and lacks something, in the order of the work."""
    return await ask(ConnectingService.next_steps, design_id)


@router.post("/sites-plan", responses=answered(SitesPlan), summary="What lines of sites become")
async def plan_sites(ask: Ask, design_id: DesignId, start: StartText) -> Response:
    """Say of each line which site and networks it becomes, or why it can't be taken; nothing is written."""
    return await ask(ConnectingService.sites, design_id, start)


@router.post("/sites", responses={**answered(ChangeAnswer), **CONFLICT}, summary="Add sites, a line each")
async def add_sites(ask: Ask, designs: Designs, keys: Keys, person: Person, design_id: DesignId, new: NewSites) -> Response:
    """Add the sites of all lines that can be taken, as one change."""
    planned = await ask.answer(ConnectingService.adding, design_id, new.start)
    written = await run_in_threadpool(add, designs, keys, new.base(design_id), planned.octets, person, new.change_id)
    return await answer_change(ask, design_id, written)


@router.get("/connections/offer", responses=answered(ConnectOffer), summary="What connecting begins with")
async def offer(ask: Ask, design_id: DesignId) -> Response:
    """Return a standard of current practice, and a free block for inner addresses."""
    return await ask(ConnectingService.offer, design_id)


@router.post("/connections-plan", responses=answered(ConnectPreview), summary="What connecting sites comes down to")
async def plan_connections(ask: Ask, design_id: DesignId, request: Connect) -> Response:
    """Return the tunnels that would be made, or why not, with what would be foretold of them; nothing is written."""
    return await ask(ConnectingService.preview, design_id, request)


@router.post("/connections", responses={**answered(ChangeAnswer), **CONFLICT}, summary="Connect sites")
async def connect_sites(
    ask: Ask, designs: Designs, keys: Keys, person: Person, design_id: DesignId, new: NewConnections
) -> Response:
    """Make the tunnels with keys of their own in the vault, their routes, and what is wanted, as one change."""
    planned = await ask.answer(ConnectingService.connection, design_id, new.connect)
    written = await run_in_threadpool(add, designs, keys, new.base(design_id), planned.octets, person, new.change_id)
    return await answer_change(ask, design_id, written)


@router.get("/standards", responses=answered(list[StandardInUse]), summary="Standards and who follows them")
async def read_standards(ask: Ask, design_id: DesignId) -> Response:
    """Return each standard with the tunnels that follow it, and where these depart from it."""
    return await ask(ConnectingService.standards, design_id)


@router.post("/standards/effect", responses=answered(StandardEffect), summary="What a changed standard does")
async def standard_effect(ask: Ask, design_id: DesignId, standard: Standard) -> Response:
    """Return the change of the standard with all tunnels that follow it, and what becomes of each forecast."""
    return await ask(ConnectingService.effect, design_id, standard)


@router.post("/standards/follow", responses=answered(StandardEffect), summary="What it does to follow a standard")
async def follow_standard(ask: Ask, design_id: DesignId, following: Following) -> Response:
    """Return the change that sets tunnels by a standard, and what becomes of each forecast."""
    return await ask(ConnectingService.follow, design_id, following.standard, following.tunnel_ids)


@router.get(
    "/tunnels/{tunnel_id}/proposed", responses=answered(list[ProposedValue]), summary="Values that follow from the design"
)
async def proposed(ask: Ask, design_id: DesignId, tunnel_id: Annotated[str, Path(title="Tunnel", max_length=64)]) -> Response:
    """Return values that the ends of a tunnel could be given: networks of the sites, identities by the standard, public keys."""
    return await ask(ConnectingService.proposed, design_id, tunnel_id)


@router.get("/tunnels/{tunnel_id}/standard", responses=answered(Standard), summary="A standard made of a tunnel")
async def standard_of_tunnel(
    ask: Ask, design_id: DesignId, tunnel_id: Annotated[str, Path(title="Tunnel", max_length=64)]
) -> Response:
    """Return a new standard of what both ends of a tunnel agree on; nothing is written."""
    return await ask(ConnectingService.made_of, design_id, tunnel_id)
