"""What isn't known yet, as questions that can be sent to whoever runs the other end."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from pontifex.core.kinds import SIDES, Side, is_set
from pontifex.core.matching.end_fields import TEXTS
from pontifex.core.matching.row import Row
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.model.written import written


@dataclass(frozen=True, slots=True, kw_only=True)
class Questions:
    """A list of questions for the keeper of each end, ready to be sent; empty when nothing is unknown there."""

    left: Annotated[str, Field(title="For the left end's keeper")]
    right: Annotated[str, Field(title="For the right end's keeper")]


def questions(ends: TunnelEnds, rows: Sequence[Row]) -> Questions:
    """Return what to ask, from the rows that are compared. What stops the comparison comes first; keys are never asked for."""
    asked: dict[Side, dict[str, str]] = {side: {} for side in SIDES}
    for row in rows:
        left, right = row.fields
        for mine, theirs in ((left, right), (right, left)):
            side, field = mine.side, mine.field
            if field in TEXTS and field not in asked[side] and not is_set(getattr(ends.end(side), field)):
                asked[side][field] = _with_ours(ends, side, TEXTS[field].question, theirs.field)
    texts = {side: _text(ends, side, asked[side]) for side in SIDES}
    return Questions(left=texts[Side.LEFT], right=texts[Side.RIGHT])


def _text(ends: TunnelEnds, side: Side, asked: Mapping[str, str]) -> str:
    if not asked:
        return ""
    head = [
        f"Tunnel {ends.tunnel.name}: what we need to know of your end ({ends.names[side]})",
        f"Our end is {ends.names[side.other]}.",
        "",
    ]
    return "\n".join([*head, *(f"{number}. {text}" for number, text in enumerate(asked.values(), start=1)), ""])


def _with_ours(ends: TunnelEnds, side: Side, question: str, field: str) -> str:
    """Add what our own end has, where that helps and is no secret."""
    value = getattr(ends.end(side.other), field)
    if TEXTS[field].secret or not TEXTS[field].said or not is_set(value):
        return question
    return f"{question} (We have: {written(value)})"
