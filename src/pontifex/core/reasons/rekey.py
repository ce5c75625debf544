"""Rekey: what happens when a lifetime ends."""

from __future__ import annotations

from pontifex.core.kinds import Side
from pontifex.core.reasons.reason import Reason


class NothingToRekey(Reason, text="no Child SA comes up that could be rekeyed"):
    pass


class After(Reason, text="after {seconds:minutes}"):
    seconds: float


class WhenLifetimeEnds(Reason, text="when its lifetime ends, which is not known yet"):
    pass


class ByVolume(Reason, text=", when its volume is used up at the full rate of the uplinks"):
    pass


class GroupsOf(Reason, text="{side} {groups}"):
    side: Side
    groups: str


class RekeyRefused(Reason, text="{when} {side} rekeys the Child SA and is refused: no group is common ({groups:and}){volume}"):
    when: After | WhenLifetimeEnds
    side: Side
    groups: tuple[GroupsOf, ...]
    volume: ByVolume | None


class BothRekey(Reason, text="both ends rekey"):
    pass


class RekeysFirst(Reason, text="{side} rekeys first"):
    side: Side


class WithGroup(Reason, text="with {group}"):
    group: str


class WithoutGroup(Reason, text="without a group"):
    pass


class Rekeys(Reason, text="{who}, {when}, {group}{volume}"):
    who: BothRekey | RekeysFirst
    when: After | WhenLifetimeEnds
    group: WithGroup | WithoutGroup
    volume: ByVolume | None


class MarginTooLong(Reason, text="{side} would rekey {margin_s} s before the end of a lifetime of {lifetime_s} s"):
    side: Side
    margin_s: int
    lifetime_s: int


class OneLifetimeNotKnown(Reason, text="each end keeps its own; one is not known yet, which stops nothing"):
    pass


class RekeyAtOnce(Reason, text="both rekey at the same time; one of the two new SAs is closed again (RFC 7296 section 2.8.1)"):
    pass


class FirstRekeyOf(Reason, text="each end keeps its own; {side} rekeys first, after {seconds:minutes}"):
    side: Side
    seconds: int


class VolumeNotKnown(Reason, text="each end keeps its own; how soon it ends is not known"):
    pass


class VolumeEnds(Reason, text="each end keeps its own; {side}'s ends after {seconds:minutes} at the full rate"):
    side: Side
    seconds: float


class MarginKept(Reason, text="each end keeps its own: so long before a lifetime ends it rekeys"):
    pass


class RekeyedInPlace(Reason, text="neither end asks for it; the IKE SA is rekeyed in place"):
    pass


class CallsAnew(Reason, text="{sides:and} calls anew; traffic may pause meanwhile"):
    sides: tuple[Side, ...]


class CannotCall(Reason, text="{side} closes the tunnel to authenticate anew, and can't call {side:far}"):
    side: Side


class HasNobodyToCall(Reason, text="{side} closes the tunnel to authenticate anew, and has no address to call {side:far} at"):
    side: Side


class EapOnlyWhenCalling(
    Reason, text="{side} would call to authenticate anew, but {side:far} proves itself by EAP, which only a caller can"
):
    side: Side


class WhenIkeLifetimeEnds(Reason, text="when the IKE SA's lifetime ends"):
    pass


class CannotReauthenticate(Reason, text="{when} {hindrance}"):
    when: After | WhenIkeLifetimeEnds
    hindrance: CannotCall | HasNobodyToCall | EapOnlyWhenCalling


class RenegotiationNotKnown(Reason, text="not known; each end keeps its own time, which stops nothing"):
    pass


class RenegotiatesFirst(Reason, text="each end keeps its own; {side} renegotiates first, after {seconds} s"):
    side: Side
    seconds: int
