"""Findings as SARIF 2.1.0, the open format in which pipelines take the results of checks (OASIS)."""

from __future__ import annotations

from importlib.metadata import version
from typing import Any, Final

from pontifex.core.catalogue import CATALOGUE, Severity
from pontifex.core.findings import Analysis, Finding

_SCHEMA: Final = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"
_LEVELS: Final = {
    Severity.BLOCKER: "error",
    Severity.LATER: "error",
    Severity.PARTIAL: "warning",
    Severity.EXPOSURE: "warning",
    Severity.ADVICE: "note",
}


def sarif(analysis: Analysis, file: str) -> dict[str, Any]:
    """Return the findings of a design file as a log of one run (SARIF 2.1.0 section 3.13)."""
    codes = sorted({finding.code for finding in analysis.findings}, key=lambda code: code.value)
    driver = {"name": "pontifex", "version": version("pontifex"), "rules": [_rule(code) for code in codes]}
    places = {code: place for place, code in enumerate(codes)}
    results = [_result(finding, places[finding.code], file) for finding in analysis.findings]
    return {"$schema": _SCHEMA, "version": "2.1.0", "runs": [{"tool": {"driver": driver}, "results": results}]}


def _rule(code: Any) -> dict[str, Any]:
    entry = CATALOGUE[code]
    return {
        "id": code.value,
        "shortDescription": {"text": entry.title},
        "fullDescription": {"text": entry.consequence},
        "help": {"text": f"Reference: {entry.reference}"},
        "defaultConfiguration": {"level": _LEVELS[entry.severity]},
    }


def _result(finding: Finding, place: int, file: str) -> dict[str, Any]:
    found: dict[str, Any] = {
        "ruleId": finding.code.value,
        "ruleIndex": place,
        "level": _LEVELS[finding.severity],
        "message": {"text": str(finding.why)},
        "locations": [
            {
                "physicalLocation": {"artifactLocation": {"uri": file}},
                "logicalLocations": [
                    {"name": where.name, "fullyQualifiedName": f"{where.type.value}/{where.id}/{where.field}", "kind": "object"}
                    for where in finding.where
                ],
            }
        ],
    }
    if finding.accepted and finding.accepted.holds:
        found["suppressions"] = [{"kind": "external", "justification": finding.accepted.reason}]
    return found
