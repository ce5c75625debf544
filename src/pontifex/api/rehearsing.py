"""Rehearsals over HTTP: a tunnel is dialled in virtual time. Nothing here writes."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Path, Query
from fastapi.responses import Response

from pontifex.api.answers import REFUSALS, DesignId, answered, json_octets_answer
from pontifex.api.asking import Ask
from pontifex.services.rehearsals import AskedRehearsal, CaptureFiles, RehearsalService, RehearsalShown

router = APIRouter(prefix="/api/designs/{design_id}/tunnels/{tunnel_id}/rehearsal", tags=["rehearsals"], responses=REFUSALS)

TunnelPath = Annotated[str, Path(title="Tunnel", max_length=64, examples=["harbour-ostvik"])]
_Fault = Annotated[str, Query(max_length=80)]


def _asked(
    fault: Annotated[list[_Fault], Query(max_length=16, examples=[["30s restart left"]])] = [],  # noqa: B006 - FastAPI copies it
    step: Annotated[list[_Fault], Query(max_length=32, examples=[["start right", "save right", "start left"]])] = [],  # noqa: B006
    until: Annotated[str, Query(max_length=16, examples=["2h"])] = "",
    seed: Annotated[int, Query(ge=0, le=2**31)] = 0,
    plan: Annotated[str, Query(max_length=100, examples=["3", "devices"])] = "",
) -> AskedRehearsal:
    """What is let happen, until when to go on, and what loss and jitter follow; or the plan whose steps are walked."""
    return AskedRehearsal(tuple(fault), tuple(step), until, seed, plan)


Asked = Annotated[AskedRehearsal, Depends(_asked)]


@router.get("", responses=answered(RehearsalShown), summary="Rehearse a tunnel")
async def rehearse_tunnel(ask: Ask, design_id: DesignId, tunnel_id: TunnelPath, asked: Asked) -> Response:
    """Let both ends dial each other in virtual time, and say what went over the wire, what each logged and how far it got."""
    asking = ask.long_answer if asked.plan else ask.answer  # a plan may have very many steps
    return json_octets_answer(await asking(RehearsalService.rehearsal, design_id, tunnel_id, asked))


@router.get("/capture", responses=answered(CaptureFiles), summary="What went over the wire, as a capture with its keys")
async def capture(ask: Ask, design_id: DesignId, tunnel_id: TunnelPath, asked: Asked) -> Response:
    """Return a capture of the rehearsal (pcapng) and its session keys, which are made up for it."""
    asking = ask.long_answer if asked.plan else ask.answer
    return json_octets_answer(await asking(RehearsalService.capture, design_id, tunnel_id, asked))
