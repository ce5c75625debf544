"""Rekey: what happens when a lifetime ends (RFC 7296 sections 1.3.2, 1.3.3 and 2.8)."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.ipsec import Agreement, Refusal, TransformType, negotiate
from pontifex.core.kinds import SIDES, AuthMethod, Side, Technology
from pontifex.core.matching.proposals import CHILD, lists_of, meeting_remedies, settled
from pontifex.core.matching.row import Judgement, Remedy, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.reasons import init, rekey, unknown

_TITLES: Final = {"ike_lifetime_s": "IKE SA lifetime, s", "child_lifetime_s": "Child SA lifetime, s"}
_VOLUME: Final = "child_lifetime_mib"
_MEBIBYTE_BITS: Final = 8 * 2**20


@dataclass(frozen=True, slots=True)
class FirstRekey:
    """When a Child SA is rekeyed first, and by whom."""

    side: Side
    after_s: float
    by_volume: bool  # the lifetime in octets ends first, at the full rate of the uplinks


def first_rekey(ends: TunnelEnds) -> FirstRekey | None:
    """Return the first rekey of the Child SA; None while no lifetime is known."""
    found = [due for side in SIDES for due in _rekeys_of(ends, side)]
    return min(found, key=lambda rekey: rekey.after_s, default=None)


def _rekeys_of(ends: TunnelEnds, side: Side) -> list[FirstRekey]:
    end = ends.end(side)
    found = []
    if end.child_lifetime_s:
        margin = end.rekey_margin_s or 0
        found.append(FirstRekey(side, max(end.child_lifetime_s - margin, 0), False))
    rate = _full_rate_mbit_s(ends) if end.child_lifetime_mib else None
    if end.child_lifetime_mib and rate:
        found.append(FirstRekey(side, end.child_lifetime_mib * _MEBIBYTE_BITS / (rate * 1_000_000), True))
    return found


def _full_rate_mbit_s(ends: TunnelEnds) -> float | None:
    """Return the most that passes in one direction; None while neither direction's rate is known."""
    rates = []
    for side in SIDES:
        here, there = ends.uplink(side), ends.uplink(side.other)
        if here and there and here.rate_up_mbit_s and there.rate_down_mbit_s:
            rates.append(min(here.rate_up_mbit_s, there.rate_down_mbit_s))
    return max(rates, default=None)


def judge_child_rekey(ends: TunnelEnds) -> Judgement:
    """Compare the groups of Child SAs: IKE_AUTH carries none, so a mismatch shows only at the first rekey."""
    kind = CHILD[Technology.IPSEC_IKEV2]
    if not isinstance(settled(ends, kind), Agreement):
        return Judgement(Verdict.AGREED, rekey.NothingToRekey())
    first = first_rekey(ends)
    side = first.side if first else ends.caller
    lists = lists_of(ends, kind)
    outcome = negotiate(lists[side], lists[side.other])
    when = rekey.After(first.after_s) if first else rekey.WhenLifetimeEnds()
    volume = rekey.ByVolume() if first and first.by_volume else None
    if isinstance(outcome, Refusal):
        groups = tuple(rekey.GroupsOf(end, _groups(ends, end)) for end in SIDES)
        reason = rekey.RekeyRefused(when, side, groups, volume)
        return Judgement(
            Verdict.DIFFERS_LATER,
            reason,
            Code.CHILD_GROUP_AT_REKEY,
            lambda ends: meeting_remedies(ends, kind, outcome, side, frozenset()),
        )
    group = next((transform.label for transform in outcome.chosen if transform.type is TransformType.KE), "")
    who = rekey.BothRekey() if _at_once(ends) else rekey.RekeysFirst(side)
    with_group = rekey.WithGroup(group) if group else rekey.WithoutGroup()
    return Judgement(Verdict.AGREED, rekey.Rekeys(who, when, with_group, volume))


def _at_once(ends: TunnelEnds) -> bool:
    """Whether both ends rekey at the same time."""
    due = [min((renewal.after_s for renewal in _rekeys_of(ends, side)), default=None) for side in SIDES]
    return due[0] is not None and due[0] == due[1]


def _groups(ends: TunnelEnds, side: Side) -> str:
    found = {t.label: None for p in ends.end(side).child_proposals for t in p.by_type.get(TransformType.KE, ()) if not t.is_none}
    return "/".join(found) or "none"


def _margin_of(ends: TunnelEnds, side: Side) -> int:
    return ends.end(side).rekey_margin_s or 0


def judge_lifetime(ends: TunnelEnds, field: str) -> Judgement:
    """Say which end rekeys first. In IKEv2 each end keeps its own lifetime (RFC 7296 section 2.8)."""
    lifetimes = {side: getattr(ends.end(side), field) for side in SIDES}
    hasty = [side for side in SIDES if _margin_of(ends, side) >= (lifetimes[side] or math.inf)]
    if hasty:
        reason = rekey.MarginTooLong(hasty[0], _margin_of(ends, hasty[0]), lifetimes[hasty[0]])
        tenths = {side: lifetimes[side] // 10 for side in hasty}
        return Judgement(Verdict.DIFFERS_LATER, reason, Code.REKEY_MARGIN_TOO_LONG, lambda ends: [_with_margins(ends, tenths)])
    if None in lifetimes.values():
        return Judgement(Verdict.AGREED, rekey.OneLifetimeNotKnown())
    due = {side: lifetimes[side] - (ends.end(side).rekey_margin_s or 0) for side in SIDES}
    if due[Side.LEFT] == due[Side.RIGHT]:
        return Judgement(Verdict.AGREED, rekey.RekeyAtOnce())
    first = min(Side, key=due.__getitem__)
    return Judgement(Verdict.AGREED, rekey.FirstRekeyOf(first, due[first]))


def _with_margins(ends: TunnelEnds, margins: Mapping[Side, int]) -> Remedy:
    left, right = (ends.end(side).changed(rekey_margin_s=margins[side]) if side in margins else ends.end(side) for side in SIDES)
    return ends.set_ends("Take a tenth of the lifetime as margin", left, right)


def judge_volume(ends: TunnelEnds) -> Judgement:
    """Say when the lifetime in octets would end at the full rate of the uplinks."""
    due = [renewal for side in SIDES for renewal in _rekeys_of(ends, side) if renewal.by_volume]
    if not due:
        return Judgement(Verdict.AGREED, rekey.VolumeNotKnown())
    first = min(due, key=lambda rekey: rekey.after_s)
    return Judgement(Verdict.AGREED, rekey.VolumeEnds(first.side, first.after_s))


def judge_margin(ends: TunnelEnds) -> Judgement:  # noqa: ARG001 -- one signature for all
    """Say what each end's margin is for; whether it fits the lifetimes is told beside these."""
    return Judgement(Verdict.AGREED, rekey.MarginKept())


def judge_phase_lifetime(ends: TunnelEnds, field: str) -> Judgement:
    """Compare lifetimes of IKEv1, which are offered and may be refused (RFC 2407 section 4.5.4, RFC 2409 section 4)."""
    lifetimes = {side: getattr(ends.end(side), field) for side in SIDES}
    if None in lifetimes.values():
        return Judgement(Verdict.UNKNOWN, unknown.LifetimeNotKnown())
    caller, answers = ends.caller, ends.caller.other
    if lifetimes[caller] == lifetimes[answers]:
        return Judgement(Verdict.AGREED, init.BothHaveTheSame())
    if lifetimes[caller] < lifetimes[answers]:
        return Judgement(Verdict.NEGOTIATED, init.ShorterLifetimeTaken(caller, lifetimes[caller]))
    reason = init.LifetimeRefused(caller, lifetimes[caller], lifetimes[answers])
    return Judgement(Verdict.DIFFERS, reason, Code.IKE1_LIFETIME_DIFFERS, lambda ends: ends.copies(_TITLES[field], field, field))


def judge_reauthentication(ends: TunnelEnds) -> Judgement:
    """Whether the end that authenticates anew can call for it (RFC 7296 section 2.8.3)."""
    anew = [side for side in SIDES if ends.end(side).reauthenticate]
    if not anew:
        return Judgement(Verdict.AGREED, rekey.RekeyedInPlace())
    for side in anew:
        hindrance = _cannot_call_anew(ends, side)
        if hindrance:
            after = ends.end(side).ike_lifetime_s
            reason = rekey.CannotReauthenticate(rekey.After(after) if after else rekey.WhenIkeLifetimeEnds(), hindrance)
            return Judgement(
                Verdict.DIFFERS_LATER,
                reason,
                Code.REKEY_CANNOT_REAUTHENTICATE,
                lambda ends: [ends.set_same("Let both ends rekey in place", reauthenticate=False)],
            )
    return Judgement(Verdict.AGREED, rekey.CallsAnew(tuple(anew)))


_Hindrance = rekey.CannotCall | rekey.HasNobodyToCall | rekey.EapOnlyWhenCalling


def _cannot_call_anew(ends: TunnelEnds, side: Side) -> _Hindrance | None:
    """Return what keeps an end from calling to authenticate anew; None when nothing does."""
    if ends.can_be_called(side.other) is False:
        return rekey.CannotCall(side)
    if ends.takes_any(side):
        return rekey.HasNobodyToCall(side)
    if ends.end(side.other).local_auth is AuthMethod.EAP:
        return rekey.EapOnlyWhenCalling(side)
    return None
