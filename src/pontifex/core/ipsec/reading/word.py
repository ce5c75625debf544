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


class Tag(Enum):
    """What a word that is no value does to the words around it."""

    GROUP = "group"  # a label: what follows is a group
    LIFETIME = "lifetime"
    OR = "or"
    AND = "and"
    YES = "yes"
    NO = "no"  # what stands before it isn't wanted
    NOT = "not"  # what follows it isn't wanted
    PFS = "pfs"
    PROPOSAL = "proposal"  # the next proposal begins


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
    tag: Tag | None = None
    about: Protocol | None = None  # which SA it is about, once that is known
    number: int | None = None  # a number by itself, whose meaning the words around it tell

    @property
    def end(self) -> int:
        """The place behind the word."""
        return self.start + len(self.text)

    @property
    def is_value(self) -> bool:
        """Whether it names algorithms or groups."""
        return bool(self.transforms or self.hash)
