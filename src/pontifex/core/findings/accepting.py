"""Findings that somebody lives with until a day, and what mends several at once."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from datetime import date

from pontifex.core.findings.finding import Accepted, Finding, FindingKey
from pontifex.core.kinds import Acceptance
from pontifex.core.model import Design, Difference, apply_operations, difference


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


def mended_together(
    design: Design, keys: Iterable[FindingKey], found: Callable[[Design], Iterable[Finding]]
) -> tuple[Difference, int]:
    """Return the one change that mends findings by the first remedy of each, and how many it mends.

    Each is looked for in the design as the remedies before it have left it, so that none undoes another; `found` is
    asked once for each of these states.
    """
    now, count = design, 0
    known = {finding.key: finding for finding in found(now)}
    for key in keys:
        named = known.get(key)
        if named and named.remedies:
            now, count = apply_operations(now, named.remedies[0].operations), count + 1
            known = {finding.key: finding for finding in found(now)}
    return difference(design, now), count
