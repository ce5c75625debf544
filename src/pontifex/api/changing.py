"""What every request that changes a design brings along, and how it is answered."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Final
from uuid import UUID

from fastapi.responses import Response
from pydantic import Field

from pontifex.api.asking import Asking
from pontifex.core.as_json import json_octets
from pontifex.core.findings import AnalysisChange
from pontifex.services import ChangeResult
from pontifex.services.analyses import AnalysisService

_PATIENCE_S: Final = 0.25  # how long a change waits for what is to be said of it before it is answered without

BaseRevision = Annotated[
    int, Field(title="Base revision", description="The revision that the person saw.", ge=0, le=2**31 - 1, strict=True)
]
Incarnation = Annotated[
    str,
    Field(title="Incarnation", description="Of the design that the person saw; empty for whichever stands.", max_length=64),
]


ChangeId = Annotated[
    UUID | None,
    Field(title="Id of the change", description="Made by who makes it, to find out whether it was written; once only."),
]


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeAnswer(ChangeResult):
    """What a change did, or would do, and what it does to the analysis."""

    analysis: Annotated[
        AnalysisChange | None,
        Field(title="What it does to the analysis", description="Null when the analysis is to be read anew."),
    ] = None


async def answer_change(ask: Asking, design_id: str, written: ChangeResult) -> Response:
    """Answer a change with what it did to the analysis, if that is known soon: the change is answered in any case."""
    known = await ask.soon(_PATIENCE_S, AnalysisService.change, design_id, written.revision)
    analysis = known.octets if known else b"null"
    return Response(json_octets(written)[:-1] + b',"analysis":' + analysis + b"}", media_type="application/json")
