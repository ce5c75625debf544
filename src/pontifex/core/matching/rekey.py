"""Rekey: what happens when a lifetime ends (RFC 7296 sections 1.3.2, 1.3.3 and 2.8)."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.ipsec import Agreement, Refusal, TransformType, negotiate
from pontifex.core.kinds import ANY_PEER, SIDES, AuthMethod, Side, Technology
from pontifex.core.matching.proposals import CHILD, lists_of, meeting_remedies, settled
from pontifex.core.matching.row import Judgement, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds

_TITLES: Final = {"ike_lifetime_s": "IKE SA lifetime, s", "child_lifetime_s": "Child SA lifetime, s"}
_VOLUME: Final = "child_lifetime_mib"
_MEBIBYTE_BITS: Final = 8 * 2**20


@dataclass(frozen=True, slots=True)
class FirstRekey:
    """When a Child SA is rekeyed first, and by whom."""

    side: Side
    after_s: float
    by_volume: bool  # the lifetime in octets ends first, at the full rate of the uplinks


def first_rekey(pair: TunnelEnds) -> FirstRekey | None:
    """Return the first rekey of the Child SA; None while no lifetime is known."""
    found = [rekey for side in SIDES for rekey in _rekeys_of(pair, side)]
    return min(found, key=lambda one: one.after_s, default=None)


def _rekeys_of(pair: TunnelEnds, side: Side) -> list[FirstRekey]:
    end = pair.end(side)
    found = []
    if end.child_lifetime_s:
        margin = end.rekey_margin_s or 0
        found.append(FirstRekey(side, max(end.child_lifetime_s - margin, 0), False))
    rate = _full_rate_mbit_s(pair) if end.child_lifetime_mib else None
    if end.child_lifetime_mib and rate:
        found.append(FirstRekey(side, end.child_lifetime_mib * _MEBIBYTE_BITS / (rate * 1_000_000), True))
    return found


def _full_rate_mbit_s(pair: TunnelEnds) -> float | None:
    """Return the most that passes in one direction; None while neither direction's rate is known."""
    rates = []
    for side in SIDES:
        here, there = pair.uplink(side), pair.uplink(side.other)
        if here and there and here.rate_up_mbit_s and there.rate_down_mbit_s:
            rates.append(min(here.rate_up_mbit_s, there.rate_down_mbit_s))
    return max(rates, default=None)


def minutes(seconds: float) -> str:
    """Write a time in minutes, as short as it may be."""
    return f"{seconds / 60:.0f} min" if seconds >= 60 else f"{seconds:.0f} s"


def judge_child_rekey(pair: TunnelEnds) -> Judgement:
    """Compare the groups of Child SAs: IKE_AUTH carries none, so a mismatch shows only at the first rekey."""
    kind = CHILD[Technology.IPSEC_IKEV2]
    if not isinstance(settled(pair, kind), Agreement):
        return Judgement(Verdict.AGREED, "no Child SA comes up that could be rekeyed")
    rekey = first_rekey(pair)
    side = rekey.side if rekey else pair.caller
    lists = lists_of(pair, kind)
    outcome = negotiate(lists[side], lists[side.other])
    when = f"after {minutes(rekey.after_s)}" if rekey else "when its lifetime ends, which is not known yet"
    volume = ", when its volume is used up at the full rate of the uplinks" if rekey and rekey.by_volume else ""
    if isinstance(outcome, Refusal):
        groups = " and ".join(f"{pair.names[one]} {_groups(pair, one)}" for one in SIDES)
        reason = f"{when} {pair.names[side]} rekeys the Child SA and is refused: no group is common ({groups}){volume}"
        return Judgement(
            Verdict.DIFFERS_LATER, reason, Code.CHILD_GROUP_AT_REKEY, meeting_remedies(pair, kind, outcome, side, frozenset())
        )
    group = next((transform.label for transform in outcome.chosen if transform.type is TransformType.KE), "")
    who = "both ends rekey" if _at_once(pair) else f"{pair.names[side]} rekeys first"
    return Judgement(Verdict.AGREED, f"{who}, {when}, {f'with {group}' if group else 'without a group'}{volume}")


def _at_once(pair: TunnelEnds) -> bool:
    """Whether both ends rekey at the same time."""
    due = [min((rekey.after_s for rekey in _rekeys_of(pair, side)), default=None) for side in SIDES]
    return due[0] is not None and due[0] == due[1]


def _groups(pair: TunnelEnds, side: Side) -> str:
    found = {t.label: None for p in pair.end(side).child_proposals for t in p.by_type.get(TransformType.KE, ()) if not t.is_none}
    return "/".join(found) or "none"


def _margin_of(pair: TunnelEnds, side: Side) -> int:
    return pair.end(side).rekey_margin_s or 0


def judge_lifetime(pair: TunnelEnds, field: str) -> Judgement:
    """Say which end rekeys first. In IKEv2 each end keeps its own lifetime (RFC 7296 section 2.8)."""
    lifetimes = {side: getattr(pair.end(side), field) for side in SIDES}

    field.removesuffix("_s").replace("_", "-")
    hasty = [side for side in SIDES if _margin_of(pair, side) >= (lifetimes[side] or math.inf)]
    if hasty:
        name, lifetime = pair.names[hasty[0]], lifetimes[hasty[0]]
        reason = f"{name} would rekey {_margin_of(pair, hasty[0])} s before the end of a lifetime of {lifetime} s"
        left, right = (
            pair.end(side).changed(rekey_margin_s=lifetimes[side] // 10) if side in hasty else pair.end(side) for side in SIDES
        )
        remedy = pair.set_ends("Take a tenth of the lifetime as margin", left, right)
        return Judgement(Verdict.DIFFERS_LATER, reason, Code.REKEY_MARGIN_TOO_LONG, (remedy,))
    if None in lifetimes.values():
        return Judgement(Verdict.AGREED, "each end keeps its own; one is not known yet, which stops nothing")
    due = {side: lifetimes[side] - (pair.end(side).rekey_margin_s or 0) for side in SIDES}
    if due[Side.LEFT] == due[Side.RIGHT]:
        return Judgement(
            Verdict.AGREED, "both rekey at the same time; one of the two new SAs is closed again (RFC 7296 section 2.8.1)"
        )
    first = min(Side, key=due.__getitem__)
    return Judgement(Verdict.AGREED, f"each end keeps its own; {pair.names[first]} rekeys first, after {minutes(due[first])}")


def judge_volume(pair: TunnelEnds) -> Judgement:
    """Say when the lifetime in octets would end at the full rate of the uplinks."""
    ends = [one for side in SIDES for one in _rekeys_of(pair, side) if one.by_volume]
    if not ends:
        return Judgement(Verdict.AGREED, "each end keeps its own; how soon it ends is not known")
    first = min(ends, key=lambda one: one.after_s)
    when = f"{pair.names[first.side]}'s ends after {minutes(first.after_s)} at the full rate"
    return Judgement(Verdict.AGREED, f"each end keeps its own; {when}")


def judge_margin(pair: TunnelEnds) -> Judgement:  # noqa: ARG001 -- one signature for all
    """Say what each end's margin is for; whether it fits the lifetimes is told beside these."""
    return Judgement(Verdict.AGREED, "each end keeps its own: so long before a lifetime ends it rekeys")


def judge_phase_lifetime(pair: TunnelEnds, field: str) -> Judgement:
    """Compare lifetimes of IKEv1, which are offered and may be refused (RFC 2407 section 4.5.4, RFC 2409 section 4)."""
    lifetimes = {side: getattr(pair.end(side), field) for side in SIDES}

    field.removesuffix("_s").replace("_", "-")
    if None in lifetimes.values():
        return Judgement(Verdict.UNKNOWN, "one lifetime is not known yet, and IKEv1 compares them")
    caller, answers = pair.caller, pair.caller.other
    if lifetimes[caller] == lifetimes[answers]:
        return Judgement(Verdict.AGREED, "both have the same")
    if lifetimes[caller] < lifetimes[answers]:
        return Judgement(
            Verdict.NEGOTIATED, f"{pair.names[caller]} offers the shorter one, {lifetimes[caller]} s, which is taken"
        )
    reason = (
        f"{pair.names[caller]} offers {lifetimes[caller]} s, more than the {lifetimes[answers]} s of "
        f"{pair.names[answers]}, which may refuse it"
    )
    return Judgement(Verdict.DIFFERS, reason, Code.IKE1_LIFETIME_DIFFERS, pair.copies(_TITLES[field], field, field))


def judge_reauthentication(pair: TunnelEnds) -> Judgement:
    """Whether the end that authenticates anew can call for it (RFC 7296 section 2.8.3)."""
    anew = [side for side in SIDES if pair.end(side).reauthenticate]
    if not anew:
        return Judgement(Verdict.AGREED, "neither end asks for it; the IKE SA is rekeyed in place")
    for side in anew:
        hindrance = _cannot_call_anew(pair, side)
        if hindrance:
            remedy = pair.set_same("Let both ends rekey in place", reauthenticate=False)
            after = pair.end(side).ike_lifetime_s
            when = f"after {minutes(after)}" if after else "when the IKE SA's lifetime ends"
            return Judgement(Verdict.DIFFERS_LATER, f"{when} {hindrance}", Code.REKEY_CANNOT_REAUTHENTICATE, (remedy,))
    return Judgement(Verdict.AGREED, f"{' and '.join(pair.names[side] for side in anew)} calls anew; traffic may pause meanwhile")


def _cannot_call_anew(pair: TunnelEnds, side: Side) -> str:
    """Say what keeps an end from calling to authenticate anew; empty when nothing does."""
    name, far = pair.names[side], pair.names[side.other]
    if pair.can_be_called(side.other) is False:
        return f"{name} closes the tunnel to authenticate anew, and can't call {far}"
    if pair.end(side).peer_address == ANY_PEER:
        return f"{name} closes the tunnel to authenticate anew, and has no address to call {far} at"
    if pair.end(side.other).local_auth is AuthMethod.EAP:
        return f"{name} would call to authenticate anew, but {far} proves itself by EAP, which only a caller can"
    return ""
