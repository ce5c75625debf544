"""What a change does to an analysis: small, where the analysis is large."""

from __future__ import annotations

from collections.abc import Set
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from pontifex.core.findings.check import Analysis
from pontifex.core.findings.finding import Finding
from pontifex.core.findings.overlaps import Overlap
from pontifex.core.matching import Forecast


@dataclass(frozen=True, slots=True, kw_only=True)
class AddedFinding:
    """A finding that is new, and where it stands in the list afterwards."""

    place: Annotated[int, Field(title="Place in the list afterwards", description="From 0.")]
    finding: Finding


@dataclass(frozen=True, slots=True, kw_only=True)
class AnalysisChange:
    """What leads from the analysis of the revision before to the one after it."""

    forecasts: Annotated[tuple[Forecast, ...], Field(title="Forecasts that are new or different")]
    overlaps: Annotated[
        tuple[Overlap, ...] | None, Field(title="Collisions of networks", description="Null when they stand as before.")
    ]
    removed: Annotated[
        tuple[int, ...], Field(title="Places of findings that are gone", description="In the list before, from 0.")
    ]
    added: Annotated[tuple[AddedFinding, ...], Field(title="New findings", description="In the order of their places.")]
    overlaps_count: Annotated[int, Field(title="How many collisions there are")]
    findings_count: Annotated[int, Field(title="How many findings there are")]


def analysis_change(before: Analysis, after: Analysis) -> AnalysisChange:
    """Return what leads from one analysis to the next. What was taken over from memory is the very same object."""
    stood = {id(forecast) for forecast in before.forecasts}
    kept = {id(finding) for finding in before.findings} & {id(finding) for finding in after.findings}
    places = _places_in(before, kept)
    added = tuple(
        AddedFinding(place=place, finding=finding)
        for place, finding in enumerate(after.findings)
        if id(finding) not in kept and not _taken(places, finding)
    )
    return AnalysisChange(
        forecasts=tuple(forecast for forecast in after.forecasts if id(forecast) not in stood),
        overlaps=None if after.overlaps == before.overlaps else after.overlaps,
        removed=tuple(sorted(place for same in places.values() for place, _ in same)),
        added=added,
        overlaps_count=after.overlaps_count,
        findings_count=after.findings_count,
    )


_Places = dict[tuple[str, str], list[tuple[int, Finding]]]


def _places_in(analysis: Analysis, kept: Set[int]) -> _Places:
    """Return where the findings stand that aren't the very same in another analysis."""
    found: _Places = {}
    for place, finding in enumerate(analysis.findings):
        if id(finding) not in kept:
            found.setdefault((finding.code, finding.where[0].id), []).append((place, finding))
    return found


def _taken(places: _Places, wanted: Finding) -> bool:
    """Take a finding out of those that stood before; tell whether it was there."""
    candidates = places.get((wanted.code, wanted.where[0].id), [])
    for at, (_, candidate) in enumerate(candidates):
        if candidate == wanted:
            del candidates[at]
            return True
    return False
