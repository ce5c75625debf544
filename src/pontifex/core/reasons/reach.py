"""Reach: who calls, who can be called, and where; both ends switched on, with one technology."""

from __future__ import annotations

from pontifex.core.addressing import Address, Family
from pontifex.core.choice import Choice
from pontifex.core.kinds import Gateway, Side, Technology, Tunnel, Uplink
from pontifex.core.reasons.reason import Named, Reason


class BothHaveTechnology(Reason, text="both have {technology}"):
    technology: Technology


class CanDo(Reason, text="both gateways can do {technologies}"):
    technologies: tuple[Technology, ...]


class NoneInCommon(Reason, text="the gateways have none in common"):
    pass


class TechnologiesDiffer(Reason, text="{left_end} has {left}, {right_end} has {right}; {able}"):
    left_end: Side
    left: Technology
    right_end: Side
    right: Technology
    able: CanDo | NoneInCommon


class TechnologyLacking(Reason, text="{side}'s gateway can't do {technology}; {able}"):
    side: Side
    technology: Technology
    able: CanDo | NoneInCommon


class ServiceOff(Reason, text="{gateway} has all of its tunnels switched off; the switch of this tunnel alone changes nothing"):
    gateway: Named[Gateway]


class SwitchedOff(Reason, text="this tunnel alone is switched off at {sides:and}"):
    sides: tuple[Side, ...]


class SwitchedOn(Reason, text="this tunnel is on at both ends, and so are both gateways' tunnels"):
    pass


class HasFamily(Reason, text="{side} has {family}"):
    side: Side
    family: Family


class FamiliesDiffer(Reason, text="{families:and} outside, and nothing passes from one to the other"):
    families: tuple[HasFamily, ...]


class OnlyTcpOut(Reason, text="nothing but TCP 443 gets out of {side}, and this tunnel needs UDP"):
    side: Side


class NeitherCanBeCalled(Reason, text="neither end can be called from outside"):
    pass


class BothWait(Reason, text="both ends wait, so nobody calls"):
    pass


class BehindCarrierNat(Reason, text="it is behind its carrier's NAT"):
    pass


class NothingArrives(Reason, text="no {transport} arrives from outside"):
    transport: str


class CannotBeCalled(Reason, text="{caller} calls, but {caller:far} can't be called ({why})"):
    caller: Side
    why: BehindCarrierNat | NothingArrives


class BothCall(Reason, text="both ends call; if they do so at once, one of the two SAs is closed again (RFC 7296 section 2.8)"):
    pass


class OnlyOnTraffic(
    Reason, text="only traffic from {side} brings the tunnel up; what starts at {side:far} finds none until then"
):
    side: Side


class Calls(Reason, text="{side} calls {side:far}"):
    side: Side


class NoAddressToCall(Reason, text="{side} is to call, but has no address to call"):
    side: Side


class AcceptsAnyCaller(Reason, text="{side} accepts a call from any address"):
    side: Side


class AddressOfUncallable(Reason, text="{side} has an address for {side:far}, which has none of its own ({why})"):
    side: Side
    why: BehindCarrierNat | NothingArrives


class AddressChanges(Reason, text="{side}'s address changes; {peer} is right only until then"):
    side: Side
    peer: str


class IsUplinkOf(Reason, text="{peer} is {side}'s uplink {uplink}"):
    peer: str
    side: Side
    uplink: Named[Uplink]


class IsNotAddressOf(Reason, text="{peer} is not {side}'s address"):
    peer: str
    side: Side


class NoNatOnTheWay(Reason, text="no NAT stands on the way, so nothing has to be kept alive"):
    pass


class SpeaksBeforeNatForgets(Reason, text="{sides:and} speaks before the NAT forgets"):
    sides: tuple[Side, ...]


class SpeaksEvery(Reason, text="speaks only every {seconds} s in silence"):
    seconds: int


class SpeaksNever(Reason, text="sends nothing in silence"):
    pass


class NatForgets(Reason, text="{side} {speaks}, and the NAT before it forgets after {patience_s} s: then nobody reaches it"):
    side: Side
    speaks: SpeaksEvery | SpeaksNever
    patience_s: int


class AskedAndNotAccepted(Reason, text="{asking} has requested it, and {asking:far} has not accepted"):
    asking: Side


class NotRequested(Reason, text="neither side has requested it"):
    pass


class PeeringAgreed(Reason, text="one side has requested it, the other accepted"):
    pass


class WhenCalled(Choice):
    """When an end that has noticed a restart calls again."""

    AT_ONCE = "at once"
    WITH_TRAFFIC = "with the next packet"


class RestartNoticed(Reason, text="{side} notices after about {seconds} s and calls again {when}"):
    side: Side
    seconds: int
    when: WhenCalled


class RestartNotNoticed(Reason, text="{side} doesn't notice when {side:far} restarts, and sends into a dead tunnel"):
    side: Side


class CallsAgain(Reason, text="{side} calls again"):
    side: Side


class NobodyCallsAgain(Reason, text="{side} calls once, and not again when the tunnel is lost"):
    side: Side


class ForgetsOldSas(Reason, text="what is left over from before a caller's restart goes with its first call"):
    pass


class KeepsOldSas(
    Reason, text="{sides:and} {sides:keeps|keep} older IKE SAs of a caller beside its new one, until nobody answers there"
):
    sides: tuple[Side, ...]


class MovesAlong(Reason, text="both ends go on when an address changes"):
    pass


class CallsAnewWhenMoved(
    Reason, text="{sides:and} {sides:doesn't|don't} go on when an address changes: the tunnel is lost, and called for anew"
):
    sides: tuple[Side, ...]


class MoveNotSaid(
    Reason, text="not said of {sides:and}; taken for off: a tunnel whose address changes is lost, and called for anew"
):
    sides: tuple[Side, ...]


class ListenerTwice(Reason, text="{other} waits on {transport} {port} of {uplink} already"):
    other: Named[Tunnel]
    transport: str
    port: int
    uplink: Named[Uplink]


class SameNat(
    Reason, text="{side} comes from {address}, as the caller of {others} does, and {side:far} tells them apart by that address"
):
    side: Side
    address: Address
    others: str


class SameNatByIdentity(
    Reason,
    text="{side} comes from {address}, as the caller of {others} does; "
    "{side:far} tells them apart by their identities, and can call neither",
):
    side: Side
    address: Address
    others: str


# A site that nobody can call


class CallOver(Choice):
    """What carries a call."""

    IKE = "UDP 500 and 4500"
    UDP = "UDP"
    TCP = "TCP 443"


class OnlyCaller(Reason, text="only {side} can call, over {over}, and does; nobody can call it"):
    side: Side
    over: CallOver


class OnlyCallerWaits(Reason, text="only {side} can call, over {over}, and it waits; nobody can call it"):
    side: Side
    over: CallOver


class BootNotSaid(Reason, text="{side} is taken to call whenever its device starts; nobody has said otherwise"):
    side: Side


class StartsAtBoot(Reason, text="{side} calls whenever its device starts"):
    side: Side


class NotAtBoot(Reason, text="{side} doesn't call by itself when its device has started, and nobody can call it"):
    side: Side


class RoundTripNotKnown(Reason, text="the delay of an uplink isn't known, so nobody can say how long it takes"):
    pass


class RoundTripMeasured(Reason, text="it takes {measured} ms; the delay of an uplink isn't known to compare it with"):
    measured: int


class RoundTripExpected(Reason, text="about {expected} ms are to be expected; measure it once it is up"):
    expected: int


class RoundTripAsExpected(Reason, text="it takes {measured} ms, where about {expected} ms were to be expected"):
    measured: int
    expected: int


class RoundTripSlow(Reason, text="it takes {measured} ms, and about {expected} ms were to be expected: the way is another one"):
    measured: int
    expected: int


class FixedInner(Reason, text="{side} is always {inner} inside the tunnel"):
    side: Side
    inner: str


class NoFixedInner(Reason, text="{side} has no inner address; its networks are reached as they are, its device by their gateway"):
    side: Side
