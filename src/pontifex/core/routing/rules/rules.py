"""The rules of one gateway as sets: what takes the traffic of each, what never happens, and what a move changes."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import islice
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.kinds import Gateway, OnFailure, PathType, Rule
from pontifex.core.routing.rules.algebra import Box, Boxes, boxes_of, common, holds, without
from pontifex.core.routing.tables.tables import ResolvedRule, Tables

_MOST_PIECES: Final = 400  # of a set that is cut up; beyond, nothing more is claimed of it
_MOST_CHANGES: Final = 60


@dataclass(frozen=True, slots=True)
class Shadow:
    """What rules above take of a rule's traffic, whatever fails."""

    rule: Rule
    by: tuple[Rule, ...]
    whole: bool  # nothing is left for it


def decides(rule: Rule) -> bool:
    """Whether a rule settles all that it matches: one that falls through leaves it to the next when its paths fail."""
    return rule.on_failure is OnFailure.HOLD


def passes_on(rule: Rule) -> bool:
    """Whether a rule only marks: it has no paths, and holds nothing."""
    return not rule.paths and rule.on_failure is OnFailure.FALL_THROUGH


def acts_alike(one: Rule, other: Rule) -> bool:
    """Whether two rules do the same with what they match."""
    fields = ("paths", "on_failure", "marks", "back_margin_percent", "back_after_s")
    return all(getattr(one, field) == getattr(other, field) for field in fields)


class RuleList:
    """The rules of a gateway in an order, as sets of traffic."""

    def __init__(self, clauses: Sequence[ResolvedRule]) -> None:
        self.clauses = tuple(clauses)
        self.rules = tuple(clause.rule for clause in clauses)

    @classmethod
    def of(cls, tables: Tables, gateway: Gateway) -> RuleList:
        """Return the rules of a gateway in their order."""
        return cls(tables.of(gateway).clauses)

    @cached_property
    def boxes(self) -> tuple[tuple[Box, ...], ...]:
        """What each rule matches."""
        return tuple(tuple(boxes_of(clause)) for clause in self.clauses)

    @cached_property
    def _index(self) -> Boxes:
        return Boxes(self.boxes)

    def meeting(self, place: int, within: range) -> list[int]:
        """Return the places of the rules, among some, that share traffic with one."""
        return self._index.meeting(self.boxes[place], within)

    def shadows(self) -> Iterator[Shadow]:
        """Yield the rules of which rules above take everything, or a part, whatever fails."""
        for place, rule in enumerate(self.rules):
            takers = [above for above in self.meeting(place, range(place)) if decides(self.rules[above])]
            if not takers:
                continue
            left: list[Box] = list(self.boxes[place])
            for above in takers:
                left = without(left, self.boxes[above])
                if len(left) > _MOST_PIECES:
                    break
            # a narrower rule above a wider one is how lists are made: that alone is nothing to tell
            crossing = [above for above in takers if not left or not holds(self.boxes[place], self.boxes[above])]
            if crossing:
                yield Shadow(rule, tuple(self.rules[above] for above in crossing), not left)

    def redundant(self) -> Iterator[tuple[Rule, Rule]]:
        """Yield rules that change nothing, each with the one below it that does the same with all of its traffic.

        Rules in between must not take any of it.
        """
        for place, rule in enumerate(self.rules):
            for below in self.meeting(place, range(place + 1, len(self.rules))):
                if passes_on(rule) or not acts_alike(rule, self.rules[below]):
                    break
                if holds(self.boxes[below], self.boxes[place]):
                    yield rule, self.rules[below]
                    break

    def tied(self) -> Iterator[tuple[Rule, Rule]]:
        """Yield pairs of rules of one order that share traffic and don't do the same: nothing but their ids decides."""
        for place, rule in enumerate(self.rules):
            end = place + 1
            while end < len(self.rules) and self.rules[end].position == rule.position:
                end += 1
            for other in self.meeting(place, range(place + 1, end)):
                if not acts_alike(rule, self.rules[other]):
                    yield rule, self.rules[other]

    def moved(self, rule_id: str, to: int) -> tuple[RuleList, list[MoveChange]]:
        """Return the list with a rule at another place, from 0, and what goes otherwise by it. Raise KeyError."""
        at = next((k for k, rule in enumerate(self.rules) if rule.id == rule_id), None)
        if at is None:
            raise KeyError(rule_id)
        clauses = list(self.clauses)
        clauses.insert(to, clauses.pop(at))
        upwards = to < at
        between = range(to, at) if upwards else range(at + 1, to + 1)
        return RuleList(clauses), list(islice(self._changes(at, between, upwards), _MOST_CHANGES))

    def _changes(self, at: int, between: range, upwards: bool) -> Iterator[MoveChange]:
        """Yield what goes otherwise when a rule changes places with those between.

        What is settled above both is not touched. What a rule above takes, and leaves to others when its paths fail, changes
        only then.
        """
        above = self.meeting(at, range(between.start if upwards else at))
        settled = [k for k in above if decides(self.rules[k])]
        for k in self.meeting(at, between):
            if passes_on(self.rules[k]) or acts_alike(self.rules[k], self.rules[at]):
                continue
            shared = common(self.boxes[at], self.boxes[k])
            nearer = [j for j in self._index.meeting(shared, range(between.start, k)) if not passes_on(self.rules[j])]
            for j in (*settled, *nearer):
                if j != at:
                    shared = without(shared, self.boxes[j])
            before, after = (self.rules[k], self.rules[at]) if upwards else (self.rules[at], self.rules[k])
            for box in shared:
                yield from self._change(box, before, after, above)

    def _change(self, box: Box, before: Rule, after: Rule, above: Sequence[int]) -> Iterator[MoveChange]:
        left = [box]
        for k in above:
            rule = self.rules[k]
            if decides(rule) or passes_on(rule):
                continue
            for part in common(left, self.boxes[k]):
                yield MoveChange(traffic=str(part), before=before.name, after=after.name, when=rule.name)
            left = without(left, self.boxes[k])
        for part in left:
            yield MoveChange(traffic=str(part), before=before.name, after=after.name, when="")


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveChange:
    """Traffic for which another rule is asked first."""

    traffic: Annotated[str, Field(title="Traffic", examples=["10.66.1.0/26 to 10.80.8.0/24 udp"])]
    before: Annotated[str, Field(title="Rule before")]
    after: Annotated[str, Field(title="Rule after")]
    when: Annotated[str, Field(title="Only when this rule falls through", description="Empty where it always changes.")]


def leaves_by_uplink(rule: Rule) -> bool:
    """Whether a rule that begins with a tunnel goes on to an uplink."""
    types = [path.type for path in rule.paths]
    return bool(types) and types[0] is PathType.TUNNEL and PathType.UPLINK in types
