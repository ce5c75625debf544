"""What is found about a design: forecasts and findings, both ends of a tunnel side by side, and what a name or an address is."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Query
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field

from pontifex.api.answers import REFUSALS, UNCHANGED, DesignId, answered
from pontifex.api.asking import Ask
from pontifex.core.find import Hit
from pontifex.core.findings import Analysis, FindingAt
from pontifex.core.kinds import ObjectType
from pontifex.core.matching import Match, Remedy
from pontifex.services.analyses import AnalysisService, Mending

router = APIRouter(prefix="/api/designs/{design_id}", tags=["designs"], responses=REFUSALS)


@router.get("/analysis", responses={**answered(Analysis), **UNCHANGED}, summary="Forecasts and findings")
async def read_analysis(ask: Ask, design_id: DesignId) -> Response:
    """Return the forecasts of all tunnels, the collisions of networks and all findings."""
    return await ask.revised(AnalysisService.analysis, design_id)


@router.get("/tunnels/{tunnel_id}/match", responses={**answered(Match), **UNCHANGED}, summary="Compare the ends of a tunnel")
async def read_match(
    ask: Ask,
    design_id: DesignId,
    tunnel_id: Annotated[str, Path(title="Tunnel", max_length=64, examples=["harbour-ostvik"])],
) -> Response:
    """Return the two ends of a tunnel side by side, row by row."""
    return await ask.revised(AnalysisService.match, design_id, tunnel_id)


class PlaceName(BaseModel):
    """A field of an object, by which a finding is named."""

    model_config = ConfigDict(extra="forbid")
    type: ObjectType = Field(title="Type")
    id: str = Field(title="Id", max_length=64)
    field: str = Field(title="Field", max_length=120)


class FindingName(BaseModel):
    """A finding, by what is wrong and where."""

    model_config = ConfigDict(extra="forbid")
    code: str = Field(title="Code", max_length=64)
    where: list[PlaceName] = Field(title="Its places, all of them", min_length=1)

    @property
    def at(self) -> FindingAt:
        """What the core knows it by."""
        return FindingAt(self.code, tuple((place.type, place.id, place.field) for place in self.where))


@router.post("/remedies", responses=answered(list[Remedy]), summary="What mends a finding")
async def read_remedies(ask: Ask, design_id: DesignId, finding: FindingName) -> Response:
    """Return what mends a finding, the best one first: each is the very operations that a change is made of.

    Of several findings at the same places it is the first one that anything mends.
    """
    return await ask(AnalysisService.remedies, design_id, finding.at)


class ToMend(BaseModel):
    """Findings that are to be mended by one change."""

    model_config = ConfigDict(extra="forbid")
    findings: list[FindingName] = Field(title="Findings", min_length=1, max_length=200)


@router.post("/mending", responses=answered(Mending), summary="Mend several findings at once")
async def mend_together(ask: Ask, design_id: DesignId, to_mend: ToMend) -> Response:
    """Return the one change that carries out the first remedy of each finding; nothing is written."""
    return await ask(AnalysisService.mending, design_id, [finding.at for finding in to_mend.findings])


@router.get("/find", responses=answered(list[Hit]), summary="Find or ask")
async def find_in_design(
    ask: Ask, design_id: DesignId, q: Annotated[str, Query(title="Name, prefix or address", max_length=100)]
) -> Response:
    """Return what a name, a prefix or an address is in this design."""
    return await ask(AnalysisService.find, design_id, q)
