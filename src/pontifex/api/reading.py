"""Reading proposals from what somebody wrote."""

from __future__ import annotations

from typing import Annotated, Any, Final

from fastapi import APIRouter, Path
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field

from pontifex.api.answers import REFUSALS, DesignId, answered, json_octets_answer
from pontifex.api.asking import Ask
from pontifex.core.addressing.dhcp_routes import DhcpRoutesError, decode_dhcp_routes, parse_octets
from pontifex.core.forms.form import MOST_CHARACTERS as MOST_OF_A_FORM
from pontifex.core.ipsec import Protocol
from pontifex.core.ipsec.reading.reader import MOST_CHARACTERS
from pontifex.core.kinds import Side
from pontifex.services.forms import FormPlan, FormService
from pontifex.services.path_questions import UnreadableQuestion
from pontifex.services.reading import ProposalsRead, proposals_read

router = APIRouter(prefix="/api", tags=["reading"], responses=REFUSALS)

_EXAMPLE: Final[dict[str, Any]] = {"text": "AES-256 / SHA2-256 / DH group 14", "protocol": "ike"}


class ProposalText(BaseModel):
    """A text to be read."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [_EXAMPLE]})
    text: Annotated[str, Field(title="Text", max_length=MOST_CHARACTERS)]
    protocol: Protocol = Field(title="Protocol", description="What the text is about, unless it says so itself.")


@router.post("/proposals/read", responses=answered(ProposalsRead), summary="Read proposals from text")
async def read_text(ask: Ask, text: ProposalText) -> Response:
    """Say word by word what is understood, ambiguous and unknown, and return the proposals that follow."""
    return json_octets_answer(await ask.answer_of(proposals_read, text.text, text.protocol))


class FormText(BaseModel):
    """What a partner has filled in, and which end it is about."""

    model_config = ConfigDict(extra="forbid")
    side: Side = Field(title="Whose end", description="The end that the partner sets.")
    text: Annotated[str, Field(title="Text", max_length=MOST_OF_A_FORM)]


@router.post(
    "/designs/{design_id}/tunnels/{tunnel_id}/form", responses=answered(FormPlan), summary="Read a partner's form into one end"
)
async def read_form(
    ask: Ask, design_id: DesignId, tunnel_id: Annotated[str, Path(title="Tunnel", max_length=64)], form: FormText
) -> Response:
    """Say of each line what it becomes or what is to be asked, and return the change that fills the end; nothing is written."""
    return await ask(FormService.plan, design_id, tunnel_id, form.side, form.text)


class Octets(BaseModel):
    """The octets of a DHCP option."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"octets": "18 0a 41 00 0a 40 00 01"}]})
    octets: str = Field(title="Octets", description="In hexadecimal.", max_length=4096)


class RoutesRead(BaseModel):
    """The routes in the octets of DHCP option 121."""

    routes: list[str] = Field(title="Routes", examples=[["10.65.0.0/24 via 10.64.0.1"]])


@router.post("/dhcp-routes", summary="Read the octets of DHCP option 121")
def read_dhcp_routes(option: Octets) -> RoutesRead:
    """Return the routes that clients are handed (RFC 3442)."""
    try:
        return RoutesRead(routes=[str(route) for route in decode_dhcp_routes(parse_octets(option.octets))])
    except DhcpRoutesError as error:
        raise UnreadableQuestion("octets", error.reason) from None
