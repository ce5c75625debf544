"""Which of the wanted pairs can be joined, and why the others can't."""

from __future__ import annotations

from pontifex.core.connecting.request import Connect, NotConnectable
from pontifex.core.connecting.sides import JoinedSide, join
from pontifex.core.kinds import SIDES, Site
from pontifex.core.kinds.identity import LONGEST_IDENTITY
from pontifex.core.model import Design
from pontifex.core.reasons import Reason, connecting, named

Pair = tuple[Site, Site]
Outcome = tuple[JoinedSide, JoinedSide] | Reason


def joint_outcomes(design: Design, request: Connect) -> list[tuple[Pair, Outcome]]:
    """Return for each pair of sites both sides of its tunnel, or why there is none. Raise NotConnectable."""
    _check(design, request)
    there = {frozenset(design.site_of(tunnel.end(side)).id for side in SIDES): tunnel for tunnel in reversed(design.tunnels)}
    found: list[tuple[Pair, Outcome]] = []
    for left_id, right_id in request.pairs():
        left, right = design.site_by_id[left_id], design.site_by_id[right_id]
        tunnel = there.get(frozenset((left_id, right_id)))
        outcome = connecting.JoinedAlready(named(tunnel)) if tunnel else join(design, request.standard, left, right)
        found.append(((left, right), outcome))
    return _told_apart(design, found)


def _check(design: Design, request: Connect) -> None:
    unknown = [id_ for id_ in request.site_ids if id_ not in design.site_by_id]
    if unknown:
        raise NotConnectable("site_ids", f"there is no site '{unknown[0]}' in this design")
    known = design.standard_by_id.get(request.standard.id)
    if known and known != request.standard:
        raise NotConnectable("standard", f"{known.name} is set otherwise in the design; change it there first")
    if request.standard.identity_pattern is None:
        raise NotConnectable("standard", "it says nothing of identities; give it a pattern for them")
    if not request.standard.technology.is_ipsec:
        label = request.standard.technology.label
        raise NotConnectable("standard", f"sites are connected by IPsec; tunnels of {label} are added one by one")


def _told_apart(design: Design, found: list[tuple[Pair, Outcome]]) -> list[tuple[Pair, Outcome]]:
    """Refuse the tunnels of gateways that would say the same identity, since whoever answers knows them by it."""
    owners: dict[str, dict[str, Site]] = {}  # by identity, the gateways that say it
    for end in (tunnel.end(side) for tunnel in design.tunnels for side in SIDES):
        if end.local_identity:
            owners.setdefault(end.local_identity.value, {})[end.gateway_id] = design.site_of(end)
    for side in (side for _, outcome in found if not isinstance(outcome, Reason) for side in outcome):
        owners.setdefault(side.identity.value, {})[side.gateway.id] = side.site
    return [(pair, _clash(outcome, owners) or outcome) for pair, outcome in found]


def _clash(outcome: Outcome, owners: dict[str, dict[str, Site]]) -> Reason | None:
    if isinstance(outcome, Reason):
        return None
    for side in outcome:
        if len(side.identity.value) > LONGEST_IDENTITY:
            return connecting.IdentityTooLong(named(side.site), LONGEST_IDENTITY)
        for gateway_id, site in owners[side.identity.value].items():
            if gateway_id != side.gateway.id:
                return connecting.SameIdentity(named(side.site), named(site), side.identity.value)
    return None
