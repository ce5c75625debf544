"""Use cases about handing over: plans, sheets, and devices held against what is intended. Nothing here writes."""

from __future__ import annotations

import csv
import json
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from enum import Enum
from io import StringIO
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.errors import FieldRefused, NotFound
from pontifex.core.handover import CantBeKept, files_text, linux_files
from pontifex.core.handover.plan import ChangePlan, OnProgress, change_plan
from pontifex.core.handover.plan.leftovers import Leftover, leftovers
from pontifex.core.handover.readings import Drift, Reading, as_running, drift
from pontifex.core.handover.renderings import TemplateRefused, ike_model, render_template, routing_model, template_variables
from pontifex.core.handover.renderings.template import Variable
from pontifex.core.handover.sheets import Sheet, sheet, sheet_html, sheet_markdown
from pontifex.core.handover.sheets.pdf import pdf_of
from pontifex.core.handover.sheets.review import (
    Review,
    changes_table,
    review,
    review_html,
    review_markdown,
    without_formula,
)
from pontifex.core.handover.sheets.worksheet import worksheet_rows, worksheet_text
from pontifex.core.kinds import ObjectType, Side
from pontifex.core.model import ChangeRefused, Design, Remove, apply_operations
from pontifex.core.routing import Tables
from pontifex.services.analyses import AnalysisService, TunnelNotFound
from pontifex.services.day import utc_day
from pontifex.services.designs import RevisionNotFound
from pontifex.services.kept import KeptDesigns
from pontifex.services.spreadsheet import written_spreadsheet
from pontifex.store.hand_over import HandOverRecords

_MOST_JUDGED: Final = 5_000_000  # tunnels on the way of a plan
AS_READ: Final = "devices"  # a plan from what devices run
_TARGET: Final = "a type and an id of the design, such as tunnel/harbour-ostvik"


class GatewayNotFound(NotFound):
    """The design has no gateway of this id."""

    title = "No such gateway"


class SheetForm(Enum):
    """How a sheet is written out."""

    HTML = "html"
    MARKDOWN = "md"
    PDF = "pdf"


class WorksheetForm(Enum):
    """How a partner's worksheet is written out."""

    XLSX = "xlsx"
    TEXT = "txt"


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanShown:
    """A plan, and what it leads from and to."""

    revision: int
    title: Annotated[str, Field(title="What it is", examples=["From revision 12 to revision 14"])]
    since: Annotated[str, Field(title="Asked for", description="A revision, the devices, or what is taken down.")]
    proved: Annotated[bool, Field(title="Proved", description="What works before and after works after every step.")]
    plan: ChangePlan
    leftovers: Annotated[
        tuple[Leftover, ...], Field(title="What stays of what is taken down", description="No step takes it out.")
    ]


@dataclass(frozen=True, slots=True)
class AskedChange:
    """What a plan leads from and to."""

    before: Design
    after: Design
    title: str


class ReviewForm(Enum):
    """How a review is written out; as a table, it is what changes alone."""

    HTML = "html"
    MARKDOWN = "md"
    PDF = "pdf"
    CSV = "csv"


def _as_csv(found: Review) -> str:
    written = StringIO()
    csv.writer(written).writerows([[without_formula(cell) for cell in row] for row in changes_table(found.changes)])
    return written.getvalue()


_REVIEWS: Final[dict[ReviewForm, Callable[[Review], bytes]]] = {
    ReviewForm.HTML: lambda found: review_html(found).encode(),
    ReviewForm.MARKDOWN: lambda found: review_markdown(found).encode(),
    ReviewForm.PDF: lambda found: pdf_of(review_html(found)),
    ReviewForm.CSV: lambda found: _as_csv(found).encode(),
}


class OpenForm(Enum):
    """A published data model in which a gateway's part of the design is written, or the files of a Linux machine."""

    RFC_9061 = "rfc9061"
    IETF_ROUTING = "ietf-routing"
    LINUX_FILES = "linux-files"


@dataclass(frozen=True, slots=True, kw_only=True)
class Rendered:
    """What a template becomes for a gateway, or why it can't be rendered."""

    text: str
    refused: Annotated[str, Field(title="Why not", description="Empty where it was rendered.")]
    line: Annotated[int | None, Field(title="In this line", description="Of the template, from 1.")]
    variables: Annotated[tuple[Variable, ...], Field(title="What a template may ask for")]


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceDrift:
    """A device, and how many of its settings aren't as intended."""

    gateway_id: str
    device: str
    organisation: str
    taken_at: Annotated[datetime | None, Field(title="Read at", description="Null where it was never read.")]
    source: str
    settings: Annotated[int, Field(title="Settings")]
    off: Annotated[int, Field(title="Settings that aren't as intended")]
    not_read: Annotated[int, Field(title="Settings that weren't read")]


class HandoverService:
    """All use cases about handing over that only look."""

    def __init__(self, kept: KeptDesigns, analyses: AnalysisService, records: HandOverRecords, on_progress: OnProgress) -> None:
        self._kept, self._analyses, self._records = kept, analyses, records
        self._on_progress = on_progress

    def plan(self, design_id: str, since: str) -> PlanShown:
        """Return the plan from an earlier revision to the design as it stands, or of taking something down.

        Raise RevisionNotFound, FieldRefused for what is neither, or TooLarge.
        """
        change = self.change(design_id, since)
        found = self.planned(change)
        left = leftovers(change.before, change.after)
        revision = change.before.revision if "/" in since else change.after.revision
        return PlanShown(revision=revision, title=change.title, since=since, proved=found.proved, plan=found, leftovers=left)

    def planned(self, change: AskedChange) -> ChangePlan:
        """Return the plan of a change. Raise TooLarge."""
        return change_plan(change.before, change.after, utc_day(), _MOST_JUDGED, self._on_progress)

    def change(self, design_id: str, since: str) -> AskedChange:
        """Return what a plan leads from and to. Raise as `plan` does."""
        design = self._kept.get(design_id)
        if "/" in since:
            return AskedChange(design, self._without(design, since), f"Take down {_name(design, since)}")
        if since == AS_READ:
            readings = map(Reading.model_validate, self._records.readings(design_id).values())
            title = f"From what the devices run, as far as they were read, to revision {design.revision}"
            return AskedChange(as_running(design, readings), design, title)
        before = self._earlier(design, since)
        return AskedChange(before, design, f"From revision {before.revision} to revision {design.revision}")

    def _earlier(self, design: Design, since: str) -> Design:
        if not since.isascii() or not since.isdigit() or len(since) > 9:
            raise FieldRefused("since", f"'{since[:40]}' is neither a revision nor {_TARGET}")
        if int(since) > design.revision:
            raise RevisionNotFound(f"there is no revision {since}; the design is at {design.revision}")
        return self._kept.repository.at(design, int(since))

    def _without(self, design: Design, target: str) -> Design:
        kind, _, id_ = target.partition("/")
        if kind not in {object_type.value for object_type in ObjectType} - {ObjectType.SETTINGS.value}:
            raise FieldRefused("since", f"'{target[:40]}' is neither a revision nor {_TARGET}")
        try:
            return apply_operations(design, [Remove(type=ObjectType(kind), id=id_, cascade=True)])
        except ChangeRefused as refused:
            raise FieldRefused("since", str(refused)) from None

    def sheet(self, design_id: str, tunnel_id: str, side: Side) -> Sheet:
        """Return what is to be entered at an end of a tunnel. Raise TunnelNotFound."""
        design = self._kept.get(design_id)
        if tunnel_id not in design.tunnel_by_id:
            raise TunnelNotFound(f"there is no tunnel '{tunnel_id}' in this design")
        return sheet(design, tunnel_id, side, self._analyses.of(design))

    def keeper(self, design_id: str, tunnel_id: str, side: Side) -> bytes:
        """Return who runs an end, as text: the organisation of its site, or the site's own name. Raise TunnelNotFound."""
        design = self._kept.get(design_id)
        if tunnel_id not in design.tunnel_by_id:
            raise TunnelNotFound(f"there is no tunnel '{tunnel_id}' in this design")
        site = design.site_of(design.tunnel_by_id[tunnel_id].end(side))
        return (site.organisation or site.name).encode()

    def written_sheet(self, design_id: str, tunnel_id: str, side: Side, form: SheetForm) -> bytes:
        """Return a sheet as a page or as Markdown. Raise TunnelNotFound."""
        found = self.sheet(design_id, tunnel_id, side)
        if form is SheetForm.MARKDOWN:
            return sheet_markdown(found).encode()
        return sheet_html(found).encode() if form is SheetForm.HTML else pdf_of(sheet_html(found))

    def worksheet(self, design_id: str, tunnel_id: str, side: Side, form: WorksheetForm) -> bytes:
        """Return the worksheet on which a partner fills in an end, beside what the other end uses. Raise TunnelNotFound."""
        ours = self.sheet(design_id, tunnel_id, side.other)
        return worksheet_text(ours).encode() if form is WorksheetForm.TEXT else written_spreadsheet(worksheet_rows(ours))

    def review(self, design_id: str, since: str, form: ReviewForm) -> bytes:
        """Return what a reviewer signs, with what has changed since a revision. Raise RevisionNotFound, FieldRefused."""
        design = self._kept.get(design_id)
        found = review(self._earlier(design, since), design, self._analyses.of(design))
        return _REVIEWS[form](found)

    def open_form(self, design_id: str, gateway_id: str, form: OpenForm) -> bytes:
        """Return a gateway's part of the design by a published model, as JSON; or files, one after the other.

        Raise GatewayNotFound, or FieldRefused for what such files can't say.
        """
        design = self._gateway_of(design_id, gateway_id)
        if form is OpenForm.LINUX_FILES:
            try:
                return files_text(linux_files(Tables(design), gateway_id)).encode()
            except CantBeKept as error:
                raise FieldRefused("form", str(error)) from None
        model = ike_model if form is OpenForm.RFC_9061 else routing_model
        return json.dumps(model(design, gateway_id), indent=2, ensure_ascii=False).encode()

    def rendered(self, design_id: str, gateway_id: str, text: str) -> Rendered:
        """Render a template for a gateway; what is wrong with it is told with its line. Raise GatewayNotFound."""
        design = self._gateway_of(design_id, gateway_id)
        try:
            found = render_template(text, design, gateway_id)
        except TemplateRefused as refused:
            return Rendered(text="", refused=refused.reason, line=refused.line, variables=template_variables())
        return Rendered(text=found, refused="", line=None, variables=template_variables())

    def _gateway_of(self, design_id: str, gateway_id: str) -> Design:
        design = self._kept.get(design_id)
        if gateway_id not in design.gateway_by_id:
            raise GatewayNotFound(f"there is no gateway '{gateway_id}' in this design")
        return design

    def drifts(self, design_id: str, read_alone: bool) -> tuple[DeviceDrift, ...]:
        """Return how each device stands against what is intended; of those that were read alone where that is asked."""
        design = self._kept.get(design_id)
        readings = self._records.readings(design_id)
        found = []
        for gateway in (candidate for candidate in design.gateways if candidate.id in readings or not read_alone):
            held = drift(design, gateway.id, _reading(readings.get(gateway.id)))
            found.append(
                DeviceDrift(
                    gateway_id=gateway.id,
                    device=gateway.name,
                    organisation=design.site_by_id[gateway.site_id].organisation,
                    taken_at=held.taken_at,
                    source=held.source,
                    settings=len(held.lines),
                    off=held.count,
                    not_read=held.not_read,
                )
            )
        return tuple(found)

    def drift(self, design_id: str, gateway_id: str) -> Drift:
        """Return one device setting by setting. Raise GatewayNotFound."""
        design = self._gateway_of(design_id, gateway_id)
        return drift(design, gateway_id, _reading(self._records.reading(design_id, gateway_id)))


def _reading(document: object) -> Reading | None:
    return Reading.model_validate(document) if document else None


def _name(design: Design, target: str) -> str:
    kind, _, id_ = target.partition("/")
    item = design.by_type[ObjectType(kind)].get(id_)
    return f"{ObjectType(kind).label} {getattr(item, 'name', '') or id_}"
