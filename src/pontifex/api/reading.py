"""Reading proposals from what somebody wrote."""

from __future__ import annotations

from typing import Annotated, Any, Final

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from pontifex.api.answers import REFUSALS
from pontifex.core.addressing.dhcp_routes import DhcpRoutesError, decode_dhcp_routes, parse_octets
from pontifex.core.ipsec import Proposal, Protocol
from pontifex.core.ipsec.reading import WordKind, read_proposals
from pontifex.core.ipsec.reading.reader import MOST_CHARACTERS
from pontifex.services.path_questions import UnreadableQuestion

router = APIRouter(prefix="/api", tags=["reading"], responses=REFUSALS)

_EXAMPLE: Final[dict[str, Any]] = {"text": "AES-256 / SHA2-256 / DH group 14", "protocol": "ike"}


class ProposalText(BaseModel):
    """A text to be read."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [_EXAMPLE]})
    text: Annotated[str, Field(title="Text", max_length=MOST_CHARACTERS)]
    protocol: Protocol = Field(title="Protocol", description="What the text is about, unless it says so itself.")


class WordRead(BaseModel):
    """One word, and what was made of it."""

    text: str = Field(title="Word")
    start: int = Field(title="Place in the text", description="In code points, from 0.")
    kind: WordKind
    meaning: str = Field(title="Meaning", description="For an ambiguous word, the question.")
    choices: list[str] = Field(title="Choices", description="What an ambiguous word may be replaced by.")


class ProposalsRead(BaseModel):
    """What was understood of a text; every word of it is there."""

    words: list[WordRead]
    ike: list[Proposal] = Field(title="IKE proposals")
    child: list[Proposal] = Field(title="Child SA proposals")


@router.post("/proposals/read", summary="Read proposals from text")
def read_text(text: ProposalText) -> ProposalsRead:
    """Say word by word what is understood, ambiguous and unknown, and return the proposals that follow."""
    reading = read_proposals(text.text, text.protocol)
    return ProposalsRead(
        words=[
            WordRead(text=word.text, start=word.start, kind=word.kind, meaning=word.meaning, choices=list(word.choices))
            for word in reading.words
        ],
        ike=list(reading.ike),
        child=list(reading.child),
    )


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
