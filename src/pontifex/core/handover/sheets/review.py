"""What a reviewer signs: what changes, what is found and accepted, which algorithms are in use, and what each failure costs."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.findings import Analysis, Finding
from pontifex.core.handover.sheets.written import page_environment
from pontifex.core.ipsec import Transform
from pontifex.core.ipsec.registry import Level
from pontifex.core.kinds import SIDES, ObjectType
from pontifex.core.model import Design, FieldChange, difference
from pontifex.core.routing import Failure, Tables, sweep
from pontifex.core.routing.trace.flow import failing_of

_MOST_CHANGES: Final = 400
_MOST_FAILURES: Final = 20


@dataclass(frozen=True, slots=True, kw_only=True)
class AlgorithmUse:
    """An algorithm that some end offers."""

    name: Annotated[str, Field(examples=["encryption AES-GCM-16-256"])]
    level: Level
    tunnels: tuple[str, ...]
    objection: Annotated[str, Field(title="What the policy in force says", description="Empty where it accepts it.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class Review:
    """A design at a revision, for whoever answers for it."""

    design: str
    revision: int
    since: int
    day: date
    changes: tuple[FieldChange, ...]
    open_findings: tuple[Finding, ...]
    accepted: tuple[Finding, ...]
    algorithms: tuple[AlgorithmUse, ...]
    failures: Annotated[tuple[Failure, ...], Field(title="Single failures that cost something, the worst first")]
    comes_up: Annotated[int, Field(title="Tunnels that come up")]
    tunnels: int


def review(before: Design, after: Design, analysis: Analysis) -> Review:
    """Return what there is to be signed of a design, and what has changed since an earlier state of it."""
    settled = [finding for finding in analysis.findings if finding.accepted and finding.accepted.holds]
    failing = failing_of(analysis.forecasts)
    failures = sweep(Tables(after), failing)
    return Review(
        design=after.name,
        revision=after.revision,
        since=before.revision,
        day=analysis.today,
        changes=difference(before, after).fields(_MOST_CHANGES),
        open_findings=tuple(finding for finding in analysis.findings if finding not in settled),
        accepted=tuple(settled),
        algorithms=tuple(_algorithms(after)),
        failures=tuple(failure for failure in failures if failure.lost)[:_MOST_FAILURES],
        comes_up=len(after.tunnels) - len(failing.down) - len(failing.unknown),
        tunnels=len(after.tunnels),
    )


_WORST_FIRST: Final = (Level.RETIRED, Level.WEAK, Level.OPTIONAL, Level.CURRENT)


def _algorithms(design: Design) -> Iterator[AlgorithmUse]:
    users: dict[Transform, dict[str, None]] = defaultdict(dict)
    for tunnel, side in ((tunnel, side) for tunnel in design.tunnels for side in SIDES):
        end = tunnel.end(side)
        for proposal in (*end.ike_proposals, *end.child_proposals):
            for transform in proposal.transforms:
                users[transform][tunnel.name] = None
    order = sorted(users, key=lambda transform: (_WORST_FIRST.index(transform.level), transform.type.value, transform.label))
    for transform in order:
        yield AlgorithmUse(
            name=transform.label
            if transform.label.startswith(transform.type.label)
            else f"{transform.type.label} {transform.label}",
            level=transform.level,
            tunnels=tuple(users[transform]),
            objection=design.policy.objection(transform) or "",
        )


def review_html(found: Review) -> str:
    """Return a review as a page that prints."""
    return page_environment().get_template("review.html.jinja").render(review=found, kind=_kind)


def review_markdown(found: Review) -> str:
    """Return a review as Markdown."""
    return page_environment().get_template("review.md.jinja").render(review=found, kind=_kind)


def changes_table(changes: Sequence[FieldChange]) -> list[list[str]]:
    """Return the changes as rows of a table, its head first."""
    return [
        ["object", "name", "field", "before", "after"],
        *([f"{change.type.value}/{change.id}", change.name, change.field, change.before, change.after] for change in changes),
    ]


def without_formula(cell: str) -> str:
    """Return a cell that no spreadsheet takes for a formula."""
    return f"'{cell}" if cell.startswith(("=", "+", "-", "@", "\t", "\r")) else cell


def _kind(type_: ObjectType) -> str:
    return type_.label
