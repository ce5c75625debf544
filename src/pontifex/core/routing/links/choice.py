"""Which path a rule takes for the quality of its links: now, when it would move, and when it would come back."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from pontifex.core.kinds import Gateway, PathType, Rule
from pontifex.core.routing.links.quality import MEASURES, path_quality, thresholds
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.decide import unusable
from pontifex.core.routing.trace.flow import Conditions


@dataclass(frozen=True, slots=True, kw_only=True)
class Measure:
    """One measure of a path, and the limits that a rule sets for it."""

    measure: Annotated[str, Field(title="Measure", examples=["delay_ms"])]
    title: Annotated[str, Field(examples=["delay"])]
    unit: Annotated[str, Field(examples=["ms"])]
    now: Annotated[float | None, Field(title="Now", description="Null where it isn't known.")]
    leaves_above: Annotated[float | None, Field(title="The rule leaves the path above", description="Null without a limit.")]
    returns_below: Annotated[float | None, Field(title="The rule comes back below")]


@dataclass(frozen=True, slots=True, kw_only=True)
class PathChoice:
    """A path of a rule."""

    type: PathType
    id: str
    name: str
    measures: tuple[Measure, ...]
    refused: Annotated[str, Field(title="Why it can't be taken now", description="Empty when it can.")]
    taken: Annotated[bool, Field(title="Taken now")]
    unknown: Annotated[str, Field(title="Why it isn't known yet whether it comes up", description="Empty where it is known.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleChoice:
    """What a rule chooses now."""

    rule_id: str
    gateway_id: str
    name: str
    classes: Annotated[tuple[str, ...], Field(title="Classes that it is about", description="Empty for all.")]
    marked_by: Annotated[tuple[str, ...], Field(title="Where they are marked", description="Names of intents and rules.")]
    paths: tuple[PathChoice, ...]
    otherwise: Annotated[str, Field(title="What happens where none can be taken")]
    back_after_s: int


def choices(tables: Tables, conditions: Conditions) -> Iterator[RuleChoice]:
    """Yield each rule with paths, gateway by gateway in their order."""
    for gateway in tables.design.gateways:
        for clause in tables.of(gateway).clauses:
            if clause.rule.paths:
                yield _choice(tables, gateway, clause.rule, conditions)


def _choice(tables: Tables, gateway: Gateway, rule: Rule, conditions: Conditions) -> RuleChoice:
    design = tables.design
    paths: list[PathChoice] = []
    for path in rule.paths:
        refused = unusable(tables, gateway, path, conditions)
        quality = path_quality(design, path, conditions.quality)
        limits = {threshold.measure: threshold for threshold in thresholds(rule, path)}
        measures = tuple(
            Measure(
                measure=field,
                title=word,
                unit=unit,
                now=getattr(quality, field),
                leaves_above=limits[field].leaves_above if field in limits else None,
                returns_below=limits[field].returns_below if field in limits else None,
            )
            for field, _, word, unit in MEASURES
        )
        named = design.tunnel_by_id if path.type is PathType.TUNNEL else design.uplink_by_id
        taken = not refused and not any(choice.taken for choice in paths)
        name = named[path.id].name
        unknown = conditions.unknown.get(path.id, "") if path.type is PathType.TUNNEL else ""
        paths.append(
            PathChoice(type=path.type, id=path.id, name=name, measures=measures, refused=refused, taken=taken, unknown=unknown)
        )
    marking = [intent.name for intent in design.intents if intent.dscp and intent.dscp in rule.dscp]
    marking += [other.name for other in design.rules if other.marks and other.marks in rule.dscp]
    return RuleChoice(
        rule_id=rule.id,
        gateway_id=gateway.id,
        name=rule.name,
        classes=rule.dscp,
        marked_by=tuple(marking),
        paths=tuple(paths),
        otherwise=rule.on_failure.value,
        back_after_s=rule.back_after_s,
    )
