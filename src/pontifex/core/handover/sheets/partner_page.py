"""The page on which a partner reads what we use and fills in what they do: it needs neither an account nor a script.

What is filled in becomes a form like any other: lines with labels, which are read line by line before anything is changed.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Final

from pontifex.core.handover.sheets.sheet import Sheet
from pontifex.core.handover.sheets.written import page_environment

MOST_CHARACTERS: Final = 4000  # of one field


@dataclass(frozen=True, slots=True)
class PartnerField:
    """Something that a partner fills in: the label of its line, and what is asked."""

    name: str
    label: str
    question: str
    example: str


PARTNER_FIELDS: Final = (
    PartnerField("gateway", "Our gateway", "Which public address or DNS name does your gateway have?", "203.0.113.77"),
    PartnerField("identity", "Our identity", "Which identity does it send, letter by letter?", "gate.partner.example"),
    PartnerField("networks", "Our networks", "Which of your networks are to be reached?", "10.90.4.0/24, 10.90.5.0/25"),
    PartnerField("phase1", "Phase 1", "Which encryption, integrity, group and lifetime?", "AES-256, SHA-256, group 14, 28800 s"),
    PartnerField("phase2", "Phase 2", "Which encryption, integrity, PFS group, lifetime?", "AES-256, SHA-256, group 14, 3600 s"),
    PartnerField("proof", "Authentication", "How do both prove themselves?", "pre-shared key"),
    PartnerField("role", "Role", "Does your end call, or wait to be called?", "initiator"),
    PartnerField("checks", "DPD", "How often do you check that our end is alive, in seconds?", "30 s"),
    PartnerField("remark", "Remark", "Anything else?", "change window on Thursdays"),
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class PartnerPage:
    """What the page shows."""

    ours: Sheet  # the end of whoever asks
    partner: str
    token: str
    until: datetime
    answered_at: datetime | None
    filled: Mapping[str, str]


def partner_html(page: PartnerPage) -> str:
    """Return the page."""
    return page_environment().get_template("partner.html.jinja").render(page=page, fields=PARTNER_FIELDS)


def closed_html(why: str) -> str:
    """Return the page of a link that opens nothing, or nothing any more."""
    return page_environment().get_template("closed.html.jinja").render(why=why)


def key_html(secret: str | None, *, is_wrong: bool = False) -> str:
    """Return the page that asks for the spoken code, or shows the key."""
    return page_environment().get_template("key.html.jinja").render(secret=secret, is_wrong=is_wrong)


def form_text(filled: Mapping[str, str]) -> str:
    """Return what was filled in as a form, a line for each field; breaks within one become commas."""
    lines = ((field.label, ", ".join(filled.get(field.name, "").split("\n"))) for field in PARTNER_FIELDS)
    return "\n".join(f"{label}: {' '.join(value.split())}" for label, value in lines if value.strip(" ,\r\t"))
