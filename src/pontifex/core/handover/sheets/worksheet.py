"""A partner's worksheet as a spreadsheet or as text: what we use, and what they fill in and send back."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from pontifex.core.handover.sheets.partner_page import PARTNER_FIELDS
from pontifex.core.handover.sheets.sheet import Sheet

_FILL_IN: Final = "What you use: fill in what is empty, and send it back. Keys go by a separate channel: never write one here."
_LABELS: Final = {field.label for field in PARTNER_FIELDS}
_REMARK: Final = "# "


def what_we_use(ours: Sheet) -> Iterator[tuple[str, str]]:
    """Yield title and value of what is known of our end, without secrets."""
    for section in ours.sections:
        yield from ((line.title, line.value) for line in section.lines if line.value and not line.is_secret)


def worksheet_rows(ours: Sheet) -> dict[str, list[list[str]]]:
    """Return the rows of a spreadsheet by the names of its sheets, the one to be filled in first."""
    return {
        "What you use": [[_FILL_IN], *([field.label, ""] for field in PARTNER_FIELDS)],
        "What we use": [list(row) for row in what_we_use(ours)],
        "What is asked": [[field.label, field.question, f"for example {field.example}"] for field in PARTNER_FIELDS],
    }


def worksheet_text(ours: Sheet) -> str:
    """Return the worksheet as text."""
    used = [f"{title}: {value}" for title, value in what_we_use(ours)]
    asked = [
        line
        for field in PARTNER_FIELDS
        for line in (f"{_REMARK}{field.question} For example {field.example}", f"{field.label}: ", "")
    ]
    return "\n".join([f"{ours.tunnel}: what we use", "", *used, "", _FILL_IN, "", *asked])


def answered_part(text: str) -> str:
    """Return what a partner has filled in of a worksheet; any other text as it is.

    What stands above, the questions and what was left empty are no answers.
    """
    _, is_ours, answers = text.partition(_FILL_IN)
    if not is_ours:
        return text
    lines = (line for line in answers.splitlines() if line.strip() and not line.startswith(_REMARK))
    return "\n".join(line for line in lines if line.strip().rstrip(":").rstrip() not in _LABELS)
