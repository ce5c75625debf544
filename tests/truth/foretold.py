"""What the product says of two ends, in the oracle's words."""

from __future__ import annotations

from datetime import date

from pontifex.core.addressing import Selector, parse_address
from pontifex.core.ipsec import Agreement, Habit, negotiate
from pontifex.core.kinds import SIDES, Side, Technology
from pontifex.core.matching import Row, Stage, StageState, TunnelEnds, Verdict, compare, forecast
from pontifex.core.matching.networks import common_networks, protocols_of
from pontifex.core.matching.proposals import CHILD, IKE, settled
from pontifex.core.matching.rekey import first_rekey
from tests.truth.ends import PairData, Transform, design_of
from tests.truth.oracle import Outcome, Packet, packets

TODAY = date(2026, 11, 2)
_LATER = (Stage.REACH, Stage.REKEY, Stage.RESTART)


def product_says(data: PairData) -> Outcome | None:
    """Return what the forecast and the rows come to; None where they say that it isn't known."""
    design = design_of(data)
    (tunnel,) = design.tunnels
    pair = TunnelEnds(design, tunnel, TODAY)
    rows = compare(pair)
    foretold = forecast(tunnel, rows)
    states = {stage_forecast.stage: stage_forecast.state for stage_forecast in foretold.stages}
    if foretold.state is StageState.UNKNOWN:
        return None
    fails = next((stage.value for stage in Stage if states[stage] is StageState.FAILS), None)
    if fails == "reach":
        return Outcome("reach")
    offers = pair.caller.value
    ike = settled(pair, IKE[Technology.IPSEC_IKEV2])
    if fails == "init" or not isinstance(ike, Agreement):
        return Outcome(fails or "init", offers=offers)
    lists = {side: pair.end(side).ike_proposals for side in SIDES}
    own = negotiate(lists[pair.caller], lists[pair.caller.other], frozenset(), Habit.RESPONDER)
    by_responder = _chosen(own) if isinstance(own, Agreement) else frozenset()
    begun = (offers, ike.extra_round_trip, _chosen(ike), by_responder)
    child = settled(pair, CHILD[Technology.IPSEC_IKEV2])
    if fails or not isinstance(child, Agreement):
        return Outcome(fails, None, *begun)
    later = _later_stage(rows)
    first = first_rekey(pair)
    assert first
    passing = frozenset(packet for packet in packets(data) if _passes(pair, packet))
    after = int(first.after_s)
    again = any(row.key == "dead-peer" and row.verdict is Verdict.AGREED for row in rows)
    return Outcome(None, later, *begun, _chosen(child), passing, _rekeying(rows, pair), after, again)


def _later_stage(rows: tuple[Row, ...]) -> str | None:
    stages = {row.stage for row in rows if row.verdict is Verdict.DIFFERS_LATER}
    return next((stage.value for stage in _LATER if stage in stages), None)


def _chosen(outcome: Agreement) -> frozenset[Transform]:
    return frozenset((transform.type.value, transform.id, transform.key_length) for transform in outcome.chosen)


def _rekeying(rows: tuple[Row, ...], pair: TunnelEnds) -> frozenset[str]:
    """Who rekeys first, as the product's own engine has it: both where they are due at once."""
    due = {side: max((pair.end(side).child_lifetime_s or 0) - (pair.end(side).rekey_margin_s or 0), 0) for side in SIDES}
    first = first_rekey(pair)
    assert first
    return frozenset(side.value for side in SIDES if side is first.side or due[side] == first.after_s)


def _passes(pair: TunnelEnds, packet: Packet) -> bool:
    left = (packet.left, packet.protocol, packet.left_port)
    right = (packet.right, packet.protocol, packet.right_port)
    if parse_address(packet.left)[0] is not parse_address(packet.right)[0]:
        return False
    return _named(common_networks(pair, Side.LEFT), *left) and _named(common_networks(pair, Side.RIGHT), *right)


def _named(boxes: tuple[Selector, ...], address: str, protocol: int, port: int) -> bool:
    family, value = parse_address(address)
    return any(
        box.family is family
        and box.first <= value <= box.last
        and protocol in protocols_of(box)
        and box.ports[0] <= port <= box.ports[1]
        for box in boxes
    )
