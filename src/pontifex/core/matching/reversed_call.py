"""A site that nobody can call: whether its own call begins by itself, how long a round trip takes, and all that keeps it up."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Interface
from pontifex.core.catalogue import Code
from pontifex.core.kinds import SIDES, Role, Side
from pontifex.core.matching.inner import fresh_inner
from pontifex.core.matching.row import Judgement, Remedy, Row, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.reasons import Reason, Sentence, reach

_SLOWER_THAN: Final = 2  # times what the uplinks' delays add up to
_SLACK_MS: Final = 20  # for what the gateways take themselves


def caller_alone(ends: TunnelEnds) -> Side | None:
    """Return the one end that can call the other, which can't call back; None where both can, neither, or it isn't known."""
    able = {side: ends.can_be_called(side.other) for side in SIDES}
    alone = [side for side in SIDES if able[side] and able[side.other] is False]
    return alone[0] if alone else None


def is_reversed(ends: TunnelEnds) -> bool:
    """Whether one end alone can call."""
    return caller_alone(ends) is not None


def judge_boot(ends: TunnelEnds) -> Judgement:
    """Whether the one end that can call does so by itself once its device has started."""
    side = caller_alone(ends)
    assert side is not None  # for no other tunnel is it asked
    starts = ends.end(side).starts_at_boot
    if starts is None:
        return Judgement(Verdict.AGREED, reach.BootNotSaid(side))
    if starts:
        return Judgement(Verdict.AGREED, reach.StartsAtBoot(side))
    return Judgement(
        Verdict.DIFFERS_LATER,
        reach.NotAtBoot(side),
        Code.REACH_NOT_AT_BOOT,
        lambda ends: [ends.set_field(side, f"Let {ends.names[side]} call whenever it starts", starts_at_boot=True)],
    )


def expected_round_trip_ms(ends: TunnelEnds) -> int | None:
    """Return what the delays of both uplinks add up to, there and back; None where one isn't known."""
    delays = [uplink.delay_ms for side in SIDES if (uplink := ends.uplink(side)) and uplink.delay_ms is not None]
    return round(2 * sum(delays)) if len(delays) == len(SIDES) else None


def judge_round_trip(ends: TunnelEnds) -> Judgement:
    """Compare the round trip that was measured with what the uplinks' delays add up to."""
    expected = expected_round_trip_ms(ends)
    measured = next((end.round_trip_ms for end in (ends.left, ends.right) if end.round_trip_ms), None)
    if expected is None:
        reason = reach.RoundTripNotKnown() if measured is None else reach.RoundTripMeasured(measured)
        return Judgement(Verdict.AGREED, reason)
    if measured is None:
        return Judgement(Verdict.AGREED, reach.RoundTripExpected(expected))
    if measured > _SLOWER_THAN * expected + _SLACK_MS:
        return Judgement(Verdict.AGREED, reach.RoundTripSlow(measured, expected), Code.REACH_ROUND_TRIP)
    return Judgement(Verdict.AGREED, reach.RoundTripAsExpected(measured, expected))


@dataclass(frozen=True, slots=True, kw_only=True)
class CallFact:
    """One thing about a call that one end alone can make."""

    title: str
    says: Sentence
    is_sound: Annotated[bool, Field(title="Whether it stands as it is")]
    remedies: Annotated[tuple[Remedy, ...], Field(title="What could be done")] = ()


_OF_ROWS: Final = {  # rows of the comparison that say what such a call is made of, and what they say there
    "keepalive": "What keeps it alive",
    "dead-peer": "When the far end restarts",
    "at-boot": "With its machine",
    "round-trip": "Round trip",
}


def call_facts(ends: TunnelEnds, rows: Sequence[Row]) -> Iterator[CallFact]:
    """Yield what makes such a call and keeps it up; nothing where both ends can call, or neither."""
    side = caller_alone(ends)
    if side is None:
        return
    calls = ends.end(side).role in (Role.CALL, Role.ON_TRAFFIC)
    who = reach.OnlyCaller(side, _over(ends)) if calls else reach.OnlyCallerWaits(side, _over(ends))
    yield CallFact(title="Who can call", says=_said(ends, who), is_sound=calls)
    by_key = {row.key: row for row in rows}
    for key, title in _OF_ROWS.items():
        row = by_key.get(key)
        if row:
            sound = row.verdict is Verdict.AGREED and row.code is None
            yield CallFact(title=title, says=_said(ends, row.reason), is_sound=sound)
    inner = ends.end(side).inner_address
    address = reach.FixedInner(side, str(inner)) if inner else reach.NoFixedInner(side)
    proposed = () if inner else tuple(_inner_proposed(ends))
    yield CallFact(title="Its inner address", says=_said(ends, address), is_sound=True, remedies=proposed)


def _inner_proposed(ends: TunnelEnds) -> Iterator[Remedy]:
    """Yield a small network for both ends beside those of other tunnels; a tunnel by policy has no use for one."""
    if not all(ends.end(side).goes_by_routes for side in SIDES):
        return
    others = [end.inner_address for tunnel in ends.design.tunnels for end in (tunnel.left, tunnel.right) if end.inner_address]
    supernets = (Interface(prefix.family, prefix.network, prefix.length) for prefix in ends.design.address_space)
    like = max(others, key=lambda address: address.value) if others else next(supernets, None)
    if like:
        yield from fresh_inner(ends, like)


def _said(ends: TunnelEnds, reason: Reason) -> Sentence:
    return Sentence(reason, ends.names)


def _over(ends: TunnelEnds) -> reach.CallOver:
    if ends.over_tcp:
        return reach.CallOver.TCP
    return reach.CallOver.IKE if ends.left.technology.is_ipsec else reach.CallOver.UDP
