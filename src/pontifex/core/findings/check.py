"""All findings of a design, and the analysis that a screen shows at once."""

from __future__ import annotations

from pydantic import Field

from pontifex.core.findings.finding import Finding
from pontifex.core.findings.overlaps import Overlap, overlap_findings, overlaps
from pontifex.core.findings.tunnels import algorithm_findings, key_findings, row_findings
from pontifex.core.matching import Forecast, Pair, compare, forecast
from pontifex.core.model import Design
from pontifex.core.value import Value


class Analysis(Value):
    """What is known of a design at a revision: forecasts, collisions and findings."""

    revision: int
    forecasts: tuple[Forecast, ...] = Field(title="Forecasts", description="One a tunnel, in the order of the tunnels.")
    overlaps: tuple[Overlap, ...] = Field(title="Collisions of networks")
    findings: tuple[Finding, ...] = Field(title="Findings", description="The worst first.")


def analyse(design: Design) -> Analysis:
    """Run every check on a design. The same design gives the same analysis, in the same order."""
    rows = [compare(Pair(design, tunnel)) for tunnel in design.tunnels]
    collisions = overlaps(design)
    found = overlap_findings(design, collisions)
    for tunnel, compared in zip(design.tunnels, rows, strict=True):
        found += row_findings(tunnel, compared)
        found += algorithm_findings(design, tunnel)
    found += key_findings(design)
    found.sort(key=lambda one: (one.severity.rank, one.code, one.where[0].id))
    return Analysis.of(
        revision=design.revision,
        forecasts=tuple(map(forecast, design.tunnels, rows)),
        overlaps=collisions,
        findings=tuple(found),
    )


def findings(design: Design) -> tuple[Finding, ...]:
    """Return all findings of a design, the worst first."""
    return analyse(design).findings
