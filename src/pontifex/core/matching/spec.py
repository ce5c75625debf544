"""Rows of the comparison as data: which fields of the two ends are held against each other, how, and by which judge."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Final

from pontifex.core.kinds import SIDES, Side
from pontifex.core.matching.row import Judgement, Relation, RowHeading, Stage
from pontifex.core.matching.tunnel_ends import TunnelEnds

Judge = Callable[[TunnelEnds], Judgement]


def _always(ends: TunnelEnds) -> bool:  # noqa: ARG001 -- one signature for all
    return True


def _left(ends: TunnelEnds) -> Side:  # noqa: ARG001 -- one signature for all
    return Side.LEFT


def _right(ends: TunnelEnds) -> Side:  # noqa: ARG001 -- one signature for all
    return Side.RIGHT


_BY_SIDE: Final = {Side.LEFT: _left, Side.RIGHT: _right}


@dataclass(frozen=True, slots=True)
class RowSpec(RowHeading):
    """One row: who judges it, which end it is about (of a row about both the left one), and where it applies."""

    judge: Judge
    about: Callable[[TunnelEnds], Side] = _left
    applies: Callable[[TunnelEnds], bool] = _always


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
