"""Handing over: plans and their runs, sheets, and devices held against what is intended."""

from __future__ import annotations

from typing import Annotated, Any, Final
from uuid import UUID

from fastapi import APIRouter, Path, Query, Request
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field
from starlette.concurrency import run_in_threadpool

from pontifex.api.answers import CONFLICT, REFUSALS, DesignId, Designs, Person, answered, json_answer, json_octets_answer
from pontifex.api.asking import Ask
from pontifex.api.rehearsing import TunnelPath
from pontifex.api.space import ObjectPath
from pontifex.core.handover.observed import MOST_CHARACTERS
from pontifex.core.handover.readings import Drift, Reading
from pontifex.core.handover.run import TickResult
from pontifex.core.handover.sheets import Sheet
from pontifex.core.kinds import Side
from pontifex.core.kinds.fields import ONE_LINE
from pontifex.core.kinds.template import MOST_TEMPLATE
from pontifex.services.handover import (
    DeviceDrift,
    HandoverService,
    OpenForm,
    PlanShown,
    Rendered,
    ReviewForm,
    SheetForm,
    WorksheetForm,
)
from pontifex.services.runs import ProbePhase, RunService, RunShown, RunSummary
from pontifex.store.hand_over import NewTick
from pontifex.work import Answer

router = APIRouter(prefix="/api/designs/{design_id}", tags=["handing over"], responses=REFUSALS)

Since = Annotated[
    str,
    Query(
        title="From",
        description="A revision; devices, for what was read of them; or what is taken down: a type and an id.",
        max_length=100,
        examples=["3", "devices", "tunnel/harbour-tarn"],
    ),
]
RunId = Annotated[UUID, Path(title="Run")]
_READING: Final[dict[str, Any]] = {
    "text": '{"gateway_id": "ostvik-gateway", "taken_at": "2026-11-27T02:00:00Z", "source": "sheet", "running": {}}'
}


_SEEN: Final[dict[str, Any]] = {"tries": "ping 10.64.8.10 from 10.65.0.10", "phase": "before", "text": "no answer"}


class ReadingText(BaseModel):
    """A reading of a device, as its file."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [_READING]})
    text: str = Field(title="Text", max_length=4_000_000)


class NewRun(BaseModel):
    """A plan that is to be walked."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"since": "3"}]})
    since: str = Field(title="From", description="A revision, or what is taken down.", max_length=100)


class StepTick(BaseModel):
    """What came of a step."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"seen": 0, "result": "done"}]})
    seen: int = Field(title="Seen", description="How many lines of the log the person has seen.", ge=0, le=100_000)
    result: TickResult
    remark: str = Field(default="", title="Remark", max_length=400, pattern=ONE_LINE)


class PlanProgress(BaseModel):
    """How far a plan has come that somebody waits for."""

    done: int = Field(title="Done")
    of: int = Field(title="Of so many")


def _runs(request: Request) -> RunService:
    service: RunService = request.app.state.runs
    return service


@router.get("/plan", responses=answered(PlanShown), summary="Plan of a change, proved at each step")
async def read_plan(ask: Ask, design_id: DesignId, since: Since) -> Response:
    """Return the steps from an earlier revision to the design as it stands, or of taking something down."""
    return json_octets_answer(await ask.long_answer(HandoverService.plan, design_id, since))


@router.get("/plan/progress", responses=answered(PlanProgress), summary="How far a plan has come")
async def read_plan_progress(ask: Ask, designs: Designs, design_id: DesignId) -> Response:
    """Return how far a plan that somebody waits for has come; nothing of nothing where nobody does."""
    await run_in_threadpool(designs.standing, design_id)
    found = ask.progress(HandoverService.plan, design_id)
    return json_answer(PlanProgress(done=found.done if found else 0, of=found.of if found else 0))


@router.get("/runs", responses=answered(list[RunSummary]), summary="Plans that are walked")
async def read_runs(request: Request, designs: Designs, design_id: DesignId) -> Response:
    """Return the runs of a design, the newest first."""
    await run_in_threadpool(designs.standing, design_id)
    return json_answer(await run_in_threadpool(_runs(request).runs, design_id))


@router.post("/runs", status_code=201, responses=answered(RunShown, 201), summary="Begin to walk a plan")
async def start_run(ask: Ask, request: Request, design_id: DesignId, person: Person, new: NewRun) -> Response:
    """Keep the plan as it is now, with a log for its steps."""
    planned = await ask.long_answer(HandoverService.plan, design_id, new.since)
    return json_answer(await run_in_threadpool(_runs(request).start, design_id, planned.octets, person), 201)


@router.get("/runs/{run_id}", responses=answered(RunShown), summary="A run with its log")
async def read_run(request: Request, design_id: DesignId, run_id: RunId) -> Response:
    """Return the plan as it was made, how far it has come, and what was said of each step."""
    return json_answer(await run_in_threadpool(_runs(request).run, design_id, run_id))


@router.post("/runs/{run_id}/steps/{step}", responses={**answered(RunShown), **CONFLICT}, summary="Say what came of a step")
async def tick_step(
    request: Request,
    design_id: DesignId,
    run_id: RunId,
    step: Annotated[int, Path(ge=1, le=100_000)],
    person: Person,
    tick: StepTick,
) -> Response:
    """Write a line into the log: done, failed, or undone; the device is taken to have what the step enters."""
    new = NewTick(step=step, result=tick.result.value, remark=tick.remark)
    return json_answer(await run_in_threadpool(_runs(request).tick, design_id, run_id, tick.seen, new, person))


class ProbeSeen(BaseModel):
    """What somebody has seen of a pair."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [_SEEN]})
    tries: str = Field(title="What was tried", max_length=200)
    phase: ProbePhase
    text: str = Field(
        title="What was seen",
        description="Typed, or pasted from ping or traceroute.",
        max_length=MOST_CHARACTERS,
        pattern=r"^[^\x00]*$",
    )


@router.post("/runs/{run_id}/probes", responses=answered(RunShown), summary="Say what was seen of a pair")
async def see_probe(request: Request, design_id: DesignId, run_id: RunId, person: Person, seen: ProbeSeen) -> Response:
    """Keep what was seen before the first step or after the last, held against what the trace says."""
    found = await run_in_threadpool(_runs(request).see, design_id, run_id, seen.tries, seen.phase, seen.text, person)
    return json_answer(found)


@router.get("/tunnels/{tunnel_id}/sheets/{side}", responses=answered(Sheet), summary="What is entered at an end")
async def read_sheet(ask: Ask, design_id: DesignId, tunnel_id: TunnelPath, side: Side) -> Response:
    """Return every value of an end, in the order in which devices ask, without any secret."""
    return await ask(HandoverService.sheet, design_id, tunnel_id, side)


_TYPES: Final = {
    "html": "text/html; charset=utf-8",
    "md": "text/markdown; charset=utf-8",
    "pdf": "application/pdf",
    "csv": "text/csv; charset=utf-8",
    "txt": "text/plain; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}


@router.get("/tunnels/{tunnel_id}/sheets/{side}/{form}", response_class=Response, summary="A sheet as a page or Markdown")
async def read_written_sheet(ask: Ask, design_id: DesignId, tunnel_id: TunnelPath, side: Side, form: SheetForm) -> Response:
    """Return a sheet as a page that prints, or as Markdown."""
    written = await ask.answer(HandoverService.written_sheet, design_id, tunnel_id, side, form)
    return Response(written.octets, media_type=_TYPES[form.value], headers={"Cache-Control": "no-store"})


@router.get("/tunnels/{tunnel_id}/worksheets/{side}/{form}", response_class=Response, summary="A partner's worksheet")
async def read_worksheet(ask: Ask, design_id: DesignId, tunnel_id: TunnelPath, side: Side, form: WorksheetForm) -> Response:
    """Return what a partner fills in of an end, beside what the other end uses; without any secret."""
    return worksheet_answer(await ask.answer(HandoverService.worksheet, design_id, tunnel_id, side, form), form)


def worksheet_answer(written: Answer, form: WorksheetForm) -> Response:
    """Return a worksheet as a file."""
    headers = {"Cache-Control": "no-store", "Content-Disposition": f'attachment; filename="worksheet.{form.value}"'}
    return Response(written.octets, media_type=_TYPES[form.value], headers=headers)


@router.get("/review/{form}", response_class=Response, summary="What a reviewer signs")
async def read_review(ask: Ask, design_id: DesignId, form: ReviewForm, since: Since = "0") -> Response:
    """Return what changes since a revision, findings open and accepted, algorithms in use, and what each failure costs."""
    written = await ask.answer(HandoverService.review, design_id, since, form)
    return Response(written.octets, media_type=_TYPES[form.value], headers={"Cache-Control": "no-store"})


@router.get("/drift", responses=answered(list[DeviceDrift]), summary="Devices against what is intended")
async def read_drifts(
    ask: Ask, design_id: DesignId, read: Annotated[bool, Query(title="Of those that were read alone")] = False
) -> Response:
    """Return for each gateway how many settings aren't as intended, by its last reading."""
    return await ask(HandoverService.drifts, design_id, read)


@router.get("/gateways/{gateway_id}/drift", responses=answered(Drift), summary="A device setting by setting")
async def read_drift(ask: Ask, design_id: DesignId, gateway_id: ObjectPath) -> Response:
    """Return intended, running and after a restart of each setting, with what mends it either way."""
    return await ask(HandoverService.drift, design_id, gateway_id)


class TemplatePreview(BaseModel):
    """A template to be tried for a gateway."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"text": "hostname {{ gateway.name }}"}]})
    text: str = Field(title="Text", max_length=MOST_TEMPLATE)


@router.post("/gateways/{gateway_id}/rendering", responses=answered(Rendered), summary="Try a template")
async def try_template(ask: Ask, design_id: DesignId, gateway_id: ObjectPath, template: TemplatePreview) -> Response:
    """Return what a template becomes for a gateway, or in which line it is wrong. Writes nothing."""
    return await ask(HandoverService.rendered, design_id, gateway_id, template.text)


@router.get("/gateways/{gateway_id}/models/{form}", response_class=Response, summary="A gateway by a published model")
async def read_open_form(ask: Ask, design_id: DesignId, gateway_id: ObjectPath, form: OpenForm) -> Response:
    """Return a gateway's IPsec (RFC 9061), or its interfaces and routes (RFC 8343, 8344, 8349), as JSON by RFC 7951.

    Or, as text, the files by which a Linux machine finds its routes, rules and tables again after a restart.
    """
    written = await ask.answer(HandoverService.open_form, design_id, gateway_id, form)
    media_type = _TYPES["txt"] if form is OpenForm.LINUX_FILES else "application/yang-data+json"
    return Response(written.octets, media_type=media_type, headers={"Cache-Control": "no-store"})


@router.post("/readings", status_code=201, responses={**answered(Reading, 201), **CONFLICT}, summary="Keep a reading of a device")
async def keep_reading(request: Request, designs: Designs, design_id: DesignId, person: Person, reading: ReadingText) -> Response:
    """Keep what a device runs and keeps, as somebody read it. One that isn't newer than the last is refused."""

    def kept() -> Reading:
        return _runs(request).keep_reading(designs.get(design_id), reading.text, person)

    return json_answer(await run_in_threadpool(kept), 201)
