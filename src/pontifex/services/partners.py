"""Use cases about partners: a link to their end of one tunnel, and what they send back."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from enum import Enum
from typing import Annotated, Final
from uuid import UUID

from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF
from pydantic import Field, TypeAdapter

from pontifex.core.errors import NotDone
from pontifex.core.handover.sheets import Sheet
from pontifex.core.handover.sheets.partner_page import (
    MOST_CHARACTERS,
    PARTNER_FIELDS,
    PartnerPage,
    form_text,
    partner_html,
)
from pontifex.core.kinds import Side
from pontifex.core.model import Design
from pontifex.services.analyses import TunnelNotFound
from pontifex.services.link_tokens import LinkTokens
from pontifex.store.partner_links import PartnerLink, PartnerLinks

_SHEET: Final = TypeAdapter(Sheet)


class LinkClosed(NotDone):
    """A link that was never ours, has ended, or was taken back."""

    status = 404
    title = "This link opens nothing"

    def __init__(self, status: int, why: str) -> None:
        super().__init__(why)
        self.code = status


class LinkState(Enum):
    """How a link stands."""

    OPEN = "open"
    ANSWERED = "answered"
    ENDED = "ended"
    REVOKED = "revoked"


@dataclass(frozen=True, slots=True, kw_only=True)
class LinkShown:
    """A link in a list. Its address is told once, when it is made."""

    id: UUID
    tunnel_id: str
    side: Side
    state: LinkState
    until: datetime
    made_by: str
    made_at: datetime
    answered_at: datetime | None
    form: Annotated[str, Field(title="What came back", description="A form, to be read line by line.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class MadeLink:
    """A link that was made just now."""

    id: UUID
    until: datetime
    path: Annotated[str, Field(title="Where it leads", description="On this server; told once.")]


class PartnerService:
    """All use cases about links for partners."""

    def __init__(self, links: PartnerLinks, master_key: bytes) -> None:
        key = HKDF(SHA256(), 32, salt=None, info=b"pontifex partner link").derive(master_key)
        self._links, self._tokens = links, LinkTokens(key, "partner link")

    def make(self, design: Design, tunnel_id: str, side: Side, days: int, person: str) -> MadeLink:
        """Make a link to one end of a tunnel. Raise TunnelNotFound."""
        if tunnel_id not in design.tunnel_by_id:
            raise TunnelNotFound(f"there is no tunnel '{tunnel_id}' in this design")
        until = datetime.now(UTC) + timedelta(days=days)
        link = self._links.make(design.id, tunnel_id, side.value, until, person)
        return MadeLink(id=link.id, until=link.until, path=f"/partner/{self._tokens.token(link.id)}")

    def links(self, design_id: str) -> list[LinkShown]:
        """Return the links of a design, the newest first."""
        return [_shown(link) for link in self._links.of_design(design_id)]

    def revoke(self, design_id: str, link_id: UUID) -> None:
        """End a link before its time. Raise LinkNotFound."""
        self._links.revoke(design_id, link_id)

    def opened(self, token: str) -> PartnerLink:
        """Return the link that a token stands for. Raise LinkClosed."""
        link_id = self._tokens.link_id(token)
        link = self._links.find(link_id) if link_id else None
        if link is None:
            raise LinkClosed(404, "It is none of ours.")
        state = _state(link)
        if state is LinkState.REVOKED:
            raise LinkClosed(410, "It was taken back.")
        if state is LinkState.ENDED:
            raise LinkClosed(410, f"It ended on {link.until:%Y-%m-%d %H:%M} UTC.")
        return link

    def page(self, link: PartnerLink, token: str, ours: bytes, partner: str) -> str:
        """Return the page of a link; `ours` is the sheet of the other end, as JSON."""
        sheet = _SHEET.validate_json(ours)
        return partner_html(PartnerPage(sheet, partner, token, link.until, link.answered_at, link.answer))

    def answer(self, link: PartnerLink, filled: dict[str, str]) -> None:
        """Keep what a partner has filled in; what no field asks for is left out."""
        known = {field.name: filled.get(field.name, "")[:MOST_CHARACTERS] for field in PARTNER_FIELDS}
        self._links.answered(link.id, {name: value.replace("\0", "") for name, value in known.items()})


def _state(link: PartnerLink) -> LinkState:
    if link.revoked_at:
        return LinkState.REVOKED
    if link.until <= datetime.now(UTC):
        return LinkState.ENDED
    return LinkState.ANSWERED if link.answered_at else LinkState.OPEN


def _shown(link: PartnerLink) -> LinkShown:
    return LinkShown(
        id=link.id,
        tunnel_id=link.tunnel_id,
        side=Side(link.side),
        state=_state(link),
        until=link.until,
        made_by=link.made_by,
        made_at=link.made_at,
        answered_at=link.answered_at,
        form=form_text(link.answer),
    )
