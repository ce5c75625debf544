"""How good links are, and whether that is good enough for a rule's path.

Delay adds up along a path; so does jitter, which is the cautious reading of RFC 5481 section 4; packets that survive one
link must survive the next (RFC 6673). What isn't known of a link counts as nothing, and is not held against it.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, fields
from typing import Final, NamedTuple

from pontifex.core.kinds import SIDES, Path, PathType, Rule, Tunnel, Uplink
from pontifex.core.model import Design


class LinkMeasure(NamedTuple):
    """One thing that is measured of links."""

    field: str  # of Quality
    limit: str  # field of a path
    word: str
    unit: str


MEASURES: Final = (
    LinkMeasure("delay_ms", "most_delay_ms", "delay", "ms"),
    LinkMeasure("jitter_ms", "most_jitter_ms", "jitter", "ms"),
    LinkMeasure("loss_percent", "most_loss_percent", "loss", "%"),
)


@dataclass(frozen=True, slots=True)
class Quality:
    """How good a link is; None for what isn't known."""

    delay_ms: float | None = None  # one way
    jitter_ms: float | None = None
    loss_percent: float | None = None
    used_mbit_s: float | None = None  # of the bandwidth, by traffic that the design doesn't know of

    def with_measure(self, field: str, value: float) -> Quality:
        """Return this quality with another value of one of its fields."""
        return Quality(*(value if measured.name == field else getattr(self, measured.name) for measured in fields(self)))

    def over(self, other: Quality) -> Quality:
        """Return this quality with the other one's values where this one has none."""
        return Quality(
            *(mine if (mine := getattr(self, field.name)) is not None else getattr(other, field.name) for field in fields(self))
        )


def uplink_quality(uplink: Uplink, supposed: Mapping[str, Quality]) -> Quality:
    """Return the quality of an uplink, with what is supposed of it."""
    designed = Quality(uplink.delay_ms, uplink.jitter_ms, uplink.loss_percent)
    return supposed.get(uplink.id, Quality()).over(designed)


def tunnel_quality(design: Design, tunnel: Tunnel, supposed: Mapping[str, Quality]) -> Quality:
    """Return the quality of a tunnel from end to end, with what is supposed of it or of the uplinks under it."""
    under = [uplink_quality(uplink, supposed) for side in SIDES if (uplink := design.uplink_of(tunnel.end(side)))]
    delays = [quality.delay_ms for quality in under if quality.delay_ms is not None]
    jitters = [quality.jitter_ms for quality in under if quality.jitter_ms is not None]
    losses = [quality.loss_percent for quality in under if quality.loss_percent is not None]
    survive = math.prod(1 - loss / 100 for loss in losses)
    designed = Quality(
        sum(delays) if delays else None, sum(jitters) if jitters else None, 100 * (1 - survive) if losses else None
    )
    return supposed.get(tunnel.id, Quality()).over(designed)


def path_quality(design: Design, path: Path, supposed: Mapping[str, Quality]) -> Quality:
    """Return the quality of what a path of a rule names."""
    if path.type is PathType.TUNNEL:
        return tunnel_quality(design, design.tunnel_by_id[path.id], supposed)
    return uplink_quality(design.uplink_by_id[path.id], supposed)


def exceeded(path: Path, quality: Quality) -> str:
    """Return which limit of a path a quality exceeds, in words; empty when it is good enough."""
    for measure, limit_field, word, unit in MEASURES:
        value, limit = getattr(quality, measure), getattr(path, limit_field)
        if value is not None and limit is not None and value > limit:
            return f"{word} {value:g} {unit}, {limit:g} allowed"
    return ""


def without_limits(path: Path) -> Path:
    """Return a path that is good enough however bad it is."""
    return path.with_valid(dict.fromkeys((measure.limit for measure in MEASURES), None))


def returning(rule: Rule, path: Path) -> Path:
    """Return a path with the limits below which a rule comes back to it."""
    limit_of = {measure.field: measure.limit for measure in MEASURES}
    return path.with_valid({limit_of[threshold.measure]: threshold.returns_below for threshold in thresholds(rule, path)})


@dataclass(frozen=True, slots=True)
class Threshold:
    """When a rule leaves a path for the sake of one measure, and when it comes back to it."""

    measure: str  # field of Quality
    leaves_above: float
    returns_below: float


def thresholds(rule: Rule, path: Path) -> Iterator[Threshold]:
    """Yield when a rule leaves a path and when it returns: the margin keeps it from going to and fro."""
    for measure, limit_field, _, _ in MEASURES:
        limit = getattr(path, limit_field)
        if limit is not None:
            yield Threshold(measure, limit, limit * (100 - rule.back_margin_percent) / 100)
