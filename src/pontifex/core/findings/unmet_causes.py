"""Why something that is wanted isn't met, and the object at which that is."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.kinds import ObjectType
from pontifex.core.routing.all_flows.matrix import Reach
from pontifex.core.routing.trace.decide import Cause
from pontifex.core.routing.trace.flow_path import End, FlowPath
from pontifex.core.routing.wanted.intents import UnmetWants

# what ends the way there, and the way back
_THERE: Final = {
    Cause.ISOLATED: Code.ROUTE_ISOLATED,
    Cause.UPLINK: Code.ROUTE_LEAVES_UNPROTECTED,
    Cause.NO_ROUTE: Code.ROUTE_MISSING,
    Cause.OWN_TABLE: Code.ROUTE_MISSING,
    Cause.NO_ROUTER: Code.ROUTE_OTHER_ROUTER,
    Cause.FORWARDING: Code.ROUTE_FORWARDING_OFF,
    Cause.LOOP: Code.ROUTE_LOOP,
    Cause.NEXT_HOP: Code.ROUTE_NEXT_HOP,
    Cause.SELECTORS: Code.ROUTE_SELECTORS_REFUSE,
    Cause.PEERING: Code.ROUTE_NOT_TRANSITIVE,
    Cause.FILTER: Code.FILTER_BLOCKS,
    Cause.CLOUD_RULE: Code.CLOUD_RULE_BLOCKS,
    Cause.RULE: Code.ROUTE_HELD,
    Cause.NEIGHBOUR: Code.ROUTE_NOT_KNOWN,
}
_BACK: Final = {
    **_THERE,
    Cause.UPLINK: Code.ROUTE_NO_RETURN,
    Cause.NO_ROUTE: Code.ROUTE_NO_RETURN,
    Cause.OWN_TABLE: Code.ROUTE_NO_RETURN,
    Cause.STATE: Code.FILTER_ASYMMETRIC,
    Cause.CLOUD_RULE: Code.CLOUD_ANSWER_BLOCKED,
}


@dataclass(frozen=True, slots=True)
class UnmetCause:
    """What is wrong, and the object at which it is."""

    code: Code
    type: ObjectType
    id: str


def unmet_cause(unmet: UnmetWants) -> UnmetCause | None:
    """Return why something isn't met, by the trace that shows it; None where that is told elsewhere."""
    forward, back = unmet.trace.forward, unmet.trace.back
    intent = ObjectType.INTENT, unmet.block.intent.id
    if unmet.reach is Reach.ASYMMETRIC:
        return UnmetCause(Code.ROUTE_ASYMMETRIC, *intent)
    way, codes = (back, _BACK) if forward.end is End.ARRIVES and back else (forward, _THERE)
    code = codes.get(way.cause) if way.cause else None
    return UnmetCause(code, *(_place(way) or intent)) if code else None


def _place(way: FlowPath) -> tuple[ObjectType, str] | None:
    """Return the object that a way ends at; None where it has come to none."""
    if way.last_rule_id:
        return ObjectType.RULE, way.last_rule_id
    if way.last_tunnel_id:
        return ObjectType.TUNNEL, way.last_tunnel_id
    if way.last_network_id:
        return ObjectType.NETWORK, way.last_network_id
    gateways = [hop.gateway_id for hop in way.hops if hop.gateway_id]
    return (ObjectType.GATEWAY, gateways[-1]) if gateways else None
