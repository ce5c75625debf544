"""One word of a text, and what was made of it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from pontifex.core.ipsec.proposal import Protocol, Transform


class WordKind(Enum):
    """What was made of a word."""

    UNDERSTOOD = "understood"
    AMBIGUOUS = "ambiguous"  # several meanings; nothing is taken until somebody chooses
    UNKNOWN = "unknown"


class Hash(Enum):
    """A hash by its family and size; whether it is meant as PRF, INTEG or both follows from what stands around it."""

    MD5 = "MD5"
    SHA1 = "SHA1"
    SHA2_256 = "SHA2-256"
    SHA2_384 = "SHA2-384"
    SHA2_512 = "SHA2-512"


@dataclass(frozen=True, slots=True)
class Word:
    """A word with its place in the text, and its meaning in the reader's terms."""

    text: str
    start: int
    kind: WordKind
    meaning: str  # for a person; for an ambiguous word, the question
    choices: tuple[str, ...] = ()  # what an ambiguous word may stand for, each in words that are understood
    transforms: tuple[Transform, ...] = ()
    hash: Hash | None = None
    section: Protocol | None = None  # the word says which SA follows
    lifetime_s: int | None = None
    pfs: bool | None = None

    @property
    def end(self) -> int:
        """The place behind the word."""
        return self.start + len(self.text)
