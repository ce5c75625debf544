"""One row of the comparison of two ends."""

from __future__ import annotations

from enum import Enum

from pydantic import Field

from pontifex.core.frozen_model import Choice, FrozenModel
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


class Remedy(FrozenModel):
    """A way to mend something: the very operations that the one repository for writes takes."""

    title: str = Field(title="Title", examples=["Make Brenna's key like Harbour's"])
    operations: tuple[Operation, ...] = Field(title="Operations")


class EndField(FrozenModel):
    """A field of an end: where the cursor goes to."""

    side: Side
    field: str = Field(title="Field of the end", examples=["local_identity"])


class Row(FrozenModel):
    """One row: both values, how they must relate, what they amount to, and how to mend them."""

    key: str = Field(title="Stable name of the row", examples=["identity-left"])
    title: str = Field(title="Title", examples=["Ostvik's identity"])
    stage: Stage = Field(title="Stage at which it matters")
    relation: Relation
    left: EndField
    right: EndField
    verdict: Verdict
    value: str = Field(default="", title="Value that both settle on")
    reason: str = Field(title="Reason in one clause", examples=["the keys differ"])
    code: str = Field(default="", title="Code of the finding", description="Empty when nothing is to be mended.")
    remedies: tuple[Remedy, ...] = Field(default=(), title="Remedies")


class Alternative(FrozenModel):
    """A proposal of the left list and one of the right list that are looked at together."""

    left: int = Field(title="Place in the left list", description="From 0.")
    right: int = Field(title="Place in the right list", description="From 0.")


class ProposalAlignment(FrozenModel):
    """Two lists of proposals as ladders."""

    left: tuple[str, ...] = Field(title="Left proposals")
    right: tuple[str, ...] = Field(title="Right proposals")
    meeting: tuple[Alternative, ...] = Field(title="Rungs that meet")
    chosen: Alternative | None = Field(title="The pair that is taken", description="Null when none meets.")
    nearest: Alternative | None = Field(title="The nearest pair when none meets")
    unmet: tuple[str, ...] = Field(title="Types without a common transform in the nearest pair")


class ShownRow(Row):
    """A row with both values written for a person; a key shows as its fingerprint."""

    left_text: str = Field(title="Left value", examples=["fqdn harbour.skerry.example"])
    right_text: str = Field(title="Right value", examples=["fqdn harbour.skerry.example"])
    ladder: ProposalAlignment | None = Field(default=None, title="Both lists of proposals as ladders")
