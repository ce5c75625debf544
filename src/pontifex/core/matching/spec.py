"""Rows of the comparison as data: which fields of the two ends are held against each other, how, and by which judge."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache, partial
from typing import Final

from pontifex.core.kinds import SIDES, Side
from pontifex.core.matching.judgement import Judgement
from pontifex.core.matching.row import EndField, Relation, Row, Stage
from pontifex.core.matching.tunnel_ends import TunnelEnds

Judge = Callable[[TunnelEnds], Judgement]
_SIDES_OF_FIELDS: Final = ("local_", "remote_")


def _always(ends: TunnelEnds) -> bool:  # noqa: ARG001 -- one signature for all
    return True


def _left(ends: TunnelEnds) -> Side:  # noqa: ARG001 -- one signature for all
    return Side.LEFT


def _right(ends: TunnelEnds) -> Side:  # noqa: ARG001 -- one signature for all
    return Side.RIGHT


_BY_SIDE: Final = {Side.LEFT: _left, Side.RIGHT: _right}


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

    def row(self, ends: TunnelEnds, judgement: Judgement, this: Side) -> Row:
        """Return the row of a judgement; `this` is the side whose own field it is about."""
        left, right = (self.own, self.far) if this is Side.LEFT else (self.far, self.own)
        title = self.title.format(this=ends.names[this], far=ends.names[this.other]) if "{" in self.title else self.title
        return Row(
            key=self.key,
            title=title,
            stage=self.stage,
            relation=self.relation,
            left=_end_field(Side.LEFT, left),
            right=_end_field(Side.RIGHT, right),
            copyable=self.is_copyable,
            verdict=judgement.verdict,
            value=judgement.value,
            reason=judgement.reason,
            code=judgement.code,
            remedies=judgement.remedies,
        )


@dataclass(frozen=True, slots=True)
class RowSpec(RowHeading):
    """One row: who judges it, which end it is about (of a row about both the left one), and where it applies."""

    judge: Judge
    about: Callable[[TunnelEnds], Side] = _left
    applies: Callable[[TunnelEnds], bool] = _always


def _bare(field: str) -> str:
    """Return a field without whose it is: one end's local networks are the other's remote ones."""
    for prefix in _SIDES_OF_FIELDS:
        field = field.removeprefix(prefix)
    return field


@cache
def _end_field(side: Side, field: str) -> EndField:
    return EndField(side=side, field=field)


def both(
    key: str,
    title: str,
    stage: Stage,
    relation: Relation,
    field: str,
    judge: Judge,
    applies: Callable[[TunnelEnds], bool] = _always,
) -> RowSpec:
    """Return the row about one field that both ends have."""
    return RowSpec(key, title, stage, relation, field, field, judge, applies=applies)


def each(
    key: str,
    title: str,
    stage: Stage,
    relation: Relation,
    own: str,
    far: str,
    judge: Callable[..., Judgement],
    applies: Callable[..., bool] | None = None,
) -> tuple[RowSpec, RowSpec]:
    """Return the two rows about a field of each end and what the other one has for it."""
    left, right = (
        RowSpec(
            f"{key}-{side.value}",
            title,
            stage,
            relation,
            own,
            far,
            partial(judge, side=side),
            _BY_SIDE[side],
            partial(applies, side=side) if applies else _always,
        )
        for side in SIDES
    )
    return left, right
