"""What was understood of a text, to be shown word by word."""

from __future__ import annotations

from pydantic import BaseModel, Field

from pontifex.core.ipsec import Proposal, Protocol
from pontifex.core.ipsec.reading import WordKind, read_proposals


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


def proposals_read(text: str, protocol: Protocol) -> ProposalsRead:
    """Read proposals from a text; every word of it is there."""
    reading = read_proposals(text, protocol)
    return ProposalsRead(
        words=[
            WordRead(text=word.text, start=word.start, kind=word.kind, meaning=word.meaning, choices=list(word.choices))
            for word in reading.words
        ],
        ike=list(reading.ike),
        child=list(reading.child),
    )
