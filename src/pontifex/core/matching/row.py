"""One row of the comparison of two ends."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from enum import Enum
from functools import cache
from typing import TYPE_CHECKING, Annotated, NamedTuple

from pydantic import Field

from pontifex.core.catalogue import Code
from pontifex.core.choice import Choice
from pontifex.core.kinds import SIDES, Side
from pontifex.core.model import Operation
from pontifex.core.reasons import Names, Reason, capitalised

if TYPE_CHECKING:
    from pontifex.core.matching.tunnel_ends import TunnelEnds


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


RowRemedies = Callable[["TunnelEnds"], Iterable[Remedy]]  # what mends a row, worked out when somebody asks


class Judgement(NamedTuple):
    """A verdict, why, the code of the finding that it is, what mends it, and the value that both ends settle on."""

    verdict: Verdict
    reason: Reason
    code: Code | None = None
    remedies: RowRemedies | None = None
    value: str = ""


@dataclass(frozen=True, slots=True)
class RowHeading:
    """What a row is about: `own` is a field of one end, `far` what is held against it at the other.

    In the title {this} and {far} stand for the names of the two ends.
    """

    key: str
    title: str
    stage: Stage
    relation: Relation
    own: str
    far: str

    @property
    def is_copyable(self) -> bool:
        """Whether one end's field may be given the value of the other's as it is."""
        return self.relation is not Relation.COMPLEMENTARY and _bare(self.own) == _bare(self.far)


@cache
def _bare(field: str) -> str:
    """Return a field without whose it is: one end's local networks are the other's remote ones."""
    for prefix in ("local_", "remote_"):
        field = field.removeprefix(prefix)
    return field


@cache
def _end_fields(own: str, far: str, this: Side) -> tuple[EndField, EndField]:
    left, right = (EndField(side=side, field=own if side is this else far) for side in SIDES)
    return left, right


class Row(NamedTuple):
    """A judged row. Most rows of a design agree and are never shown: what is only shown is made when it is asked for."""

    heading: RowHeading
    judgement: Judgement
    this: Side  # whose own field it is about
    names: Names

    @property
    def key(self) -> str:
        """Stable name of the row."""
        return self.heading.key

    @property
    def title(self) -> str:
        """Its title, with the names of the ends."""
        return capitalised(self.heading.title.format(this=self.names[self.this], far=self.names[self.this.other]))

    @property
    def stage(self) -> Stage:
        """The stage at which it matters."""
        return self.heading.stage

    @property
    def fields(self) -> tuple[EndField, EndField]:
        """The fields of the left and the right end."""
        return _end_fields(self.heading.own, self.heading.far, self.this)

    @property
    def verdict(self) -> Verdict:
        """What it amounts to."""
        return self.judgement.verdict

    @property
    def value(self) -> str:
        """What both ends settle on."""
        return self.judgement.value

    @property
    def reason(self) -> Reason:
        """Why."""
        return self.judgement.reason

    @property
    def clause(self) -> str:
        """Why, in one clause."""
        return self.judgement.reason.clause(self.names)

    @property
    def code(self) -> Code | None:
        """The finding that it is; None when nothing is to be mended."""
        return self.judgement.code


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
class ShownRow:
    """One row for a person: both values, how they must relate, what they amount to, and how to mend them."""

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
    left_text: Annotated[str | None, Field(title="Left value", description="Null while it isn't set.")]
    right_text: Annotated[str | None, Field(title="Right value", description="Null while it isn't set.")]
    ladder: Annotated[ProposalAlignment | None, Field(title="Both lists of proposals as ladders")] = None
