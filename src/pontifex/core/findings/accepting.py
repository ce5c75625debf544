"""Findings that somebody lives with until a day."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from datetime import date

from pontifex.core.findings.finding import Accepted, Finding, FindingKey
from pontifex.core.kinds import Acceptance
from pontifex.core.model import Design


def with_acceptances(design: Design, found: Iterable[Finding], today: date) -> tuple[Finding, ...]:
    """Return findings, each with what is accepted of it; what was accepted until a day before today is due again."""
    by_key = {
        FindingKey(acceptance.code, acceptance.at_type, acceptance.at_id, acceptance.at_field): acceptance
        for acceptance in design.acceptances
    }
    if not by_key:
        return tuple(found)
    return tuple(
        replace(finding, accepted=_accepted(by_key[finding.key], today)) if finding.key in by_key else finding
        for finding in found
    )


def _accepted(acceptance: Acceptance, today: date) -> Accepted:
    return Accepted(
        id=acceptance.id,
        reason=acceptance.reason,
        until=acceptance.until,
        accepted_by=acceptance.accepted_by,
        holds=acceptance.until >= today,
    )
