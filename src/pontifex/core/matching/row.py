"""One row of the comparison of two ends."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Annotated

from pydantic import Field

from pontifex.core.catalogue import Code
from pontifex.core.frozen_model import Choice
from pontifex.core.kinds import Side
from pontifex.core.model import Operation


class Stage(Choice):
    """The stages of bringing a tunnel up and keeping it, in their order."""

    REACH = "reach"
    INIT = "init"
    AUTH = "auth"
    CHILD = "child"
    TRAFFIC = "traffic"
    REKEY = "rekey"
    RESTART = "restart"


class Relation(Enum):
    """How the two values of a row must relate."""

    EQUAL = "equal"
    MIRROR = "mirror"  # one end's local is the other's remote
    NEGOTIATED = "negotiated"
    COMPLEMENTARY = "complementary"  # one calls, the other can be called


class Verdict(Choice):
    """What a row amounts to."""

    AGREED = "agreed"
    NEGOTIATED = "negotiated"  # both ends settle on `value`
    NARROWED = "narrowed"  # works, for less than was asked
    DIFFERS = "differs"  # blocks
    DIFFERS_LATER = "differs-later"  # blocks at a rekey, restart or change of address
    UNKNOWN = "unknown"


@dataclass(frozen=True, slots=True, kw_only=True)
class Remedy:
    """A way to mend something: the very operations that the one repository for writes takes."""

    title: Annotated[str, Field(title="Title", examples=["Make Brenna's key like Harbour's"])]
    operations: Annotated[tuple[Operation, ...], Field(title="Operations")]


@dataclass(frozen=True, slots=True, kw_only=True)
class EndField:
    """A field of an end: where the cursor goes to."""

    side: Side
    field: Annotated[str, Field(title="Field of the end", examples=["local_identity"])]


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """One row: both values, how they must relate, what they amount to, and how to mend them."""

    key: Annotated[str, Field(title="Stable name of the row", examples=["identity-left"])]
    title: Annotated[str, Field(title="Title", examples=["Ostvik's identity"])]
    stage: Annotated[Stage, Field(title="Stage at which it matters")]
    relation: Relation
    left: EndField
    right: EndField
    copyable: Annotated[
        bool, Field(title="Copyable", description="One end's field may be given the value of the other's as it is.")
    ] = False
    verdict: Verdict
    value: Annotated[str, Field(title="Value that both settle on")] = ""
    reason: Annotated[str, Field(title="Reason in one clause", examples=["the keys differ"])]
    code: Annotated[Code | None, Field(title="Code of the finding", description="Null when nothing is to be mended.")] = None
    remedies: Annotated[tuple[Remedy, ...], Field(title="Remedies")] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Alternative:
    """A proposal of the left list and one of the right list that are looked at together."""

    left: Annotated[int, Field(title="Place in the left list", description="From 0.")]
    right: Annotated[int, Field(title="Place in the right list", description="From 0.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class ProposalAlignment:
    """Two lists of proposals as ladders."""

    left: Annotated[tuple[str, ...], Field(title="Left proposals")]
    right: Annotated[tuple[str, ...], Field(title="Right proposals")]
    meeting: Annotated[tuple[Alternative, ...], Field(title="Rungs that meet")]
    chosen: Annotated[Alternative | None, Field(title="The pair that is taken", description="Null when none meets.")]
    nearest: Annotated[Alternative | None, Field(title="The nearest pair when none meets")]
    unmet: Annotated[tuple[str, ...], Field(title="Types without a common transform in the nearest pair")]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownRow(Row):
    """A row with both values written for a person; a key shows as its fingerprint."""

    left_text: Annotated[str, Field(title="Left value", examples=["fqdn harbour.skerry.example"])]
    right_text: Annotated[str, Field(title="Right value", examples=["fqdn harbour.skerry.example"])]
    ladder: Annotated[ProposalAlignment | None, Field(title="Both lists of proposals as ladders")] = None
