"""What findings say of paths: routes and what is wanted, rules and their order, and what becomes of a flow."""

from __future__ import annotations

from datetime import date

from pontifex.core.addressing import Address, Prefix, Service
from pontifex.core.choice import Choice
from pontifex.core.kinds import Exit, Gateway, Host, Intent, Network, PrefixList, Rule, Tunnel, Uplink
from pontifex.core.reasons.addresses import NetworkOf
from pontifex.core.reasons.reason import More, Named, Reason

# What becomes of a flow, and of its answer


class Fate(Choice):
    """How a flow ends that doesn't arrive."""

    UNPROTECTED = "leaves unprotected"
    HELD = "is held"
    INTERNET = "leaves to the Internet"
    NOT_FURTHER = "is not known further"
    NOT_YET = "is not known yet"
    LOST = "is lost"


class ByTunnels(Reason, text=" by {tunnels:and}"):
    tunnels: tuple[Named[Tunnel], ...]


class WithinSite(Reason, text=" within the site"):
    pass


class Ends(Reason, text="{fate}: {why}"):
    fate: Fate
    why: str


class AnswerNotKnown(Reason, text="arrives{there}; of the answer it is not known yet: {why}"):
    there: ByTunnels | WithinSite
    why: str


class AnswerEnds(Reason, text="arrives{there}, and the answer {fate}: {why}"):
    there: ByTunnels | WithinSite
    fate: Fate
    why: str


class ArrivesAndReturns(Reason, text="arrives and returns{there}"):
    there: ByTunnels | WithinSite


class ReturnsElsewhere(Reason, text="arrives{there}, and returns another way{back}"):
    there: ByTunnels | WithinSite
    back: ByTunnels | WithinSite


# What is wanted


class ForService(Reason, text=" ({service})"):
    service: Service


class Wanted(Reason, text="{source} to reach {destination}{service}"):
    source: NetworkOf
    destination: NetworkOf
    service: ForService | None


class WantNotMet(Reason, text="{intent} wants {wanted}{more}, which {outcome}"):
    intent: Named[Intent]
    wanted: tuple[Wanted, ...]  # the first ones
    more: More | None
    outcome: Reason


class LeavesBy(Reason, text="leaves by {gateway} instead"):
    gateway: Named[Gateway]


class TheInternet(Reason, text="the Internet"):
    pass


class OutsideDesign(Reason, text="{prefix}, which the design doesn't hold,"):
    prefix: Prefix


class ByGateways(Reason, text=" by {gateways:some or}"):
    gateways: tuple[Named[Gateway], ...]


class ExitNotMet(Reason, text="{intent} wants {source} to reach {what}{by}; it {outcome}"):
    intent: Named[Intent]
    source: NetworkOf
    what: TheInternet | OutsideDesign
    by: ByGateways | None
    outcome: Reason


class NamesNothing(Reason, text="{intent} names {what:some and}, of which the design holds nothing"):
    intent: Named[Intent]
    what: tuple[str, ...]


# Routes


class RouteUnneeded(Reason, text="the route {prefix} leads into {tunnel}, and no intent needs it"):
    prefix: Prefix
    tunnel: Named[Tunnel]


class TunnelEndsElsewhere(Reason, text="{gateway} has the route {prefix} into {tunnel}, which doesn't end there"):
    gateway: Named[Gateway]
    prefix: Prefix
    tunnel: Named[Tunnel]


class UplinkElsewhere(Reason, text="{gateway} has the route {prefix} by {uplink}, which is another gateway's"):
    gateway: Named[Gateway]
    prefix: Prefix
    uplink: Named[Uplink]


class NextHopNowhere(Reason, text="{gateway} has the route {prefix} via {via}, and no network of the site holds that address"):
    gateway: Named[Gateway]
    prefix: Prefix
    via: Address


class RouteSuperfluous(Reason, text="{gateway} has {wider} by the same next hop as {prefix}, and nothing in between"):
    gateway: Named[Gateway]
    wider: str
    prefix: Prefix


class NothingLeadsInto(Reason, text="neither a route nor a rule of {gateway} leads into {tunnel}"):
    gateway: Named[Gateway]
    tunnel: Named[Tunnel]


# Rules


class TakesAll(Reason, text="{rules:some and} takes all of it"):
    rules: tuple[QuotedRule, ...]


class TakesPart(Reason, text="{rules:some and} takes a part of it"):
    rules: tuple[QuotedRule, ...]


class QuotedRule(Reason, text="“{rule}”"):
    rule: Named[Rule]


class DoesTheSame(Reason, text="“{rule}” does the same with all of its traffic, and nothing in between takes any of it"):
    rule: Named[Rule]


class SameOrder(
    Reason, text="“{rule}” and “{other}” both have the order {position}, and do different things with what they share"
):
    rule: Named[Rule]
    other: Named[Rule]
    position: int


class PathElsewhere(Reason, text="“{rule}” names {paths:some and}, which {gateway} has no end of"):
    rule: Named[Rule]
    paths: tuple[str, ...]
    gateway: Named[Gateway]


class RegionUnknown(Reason, text="“{rule}” is about the region {region}, which no site has"):
    rule: Named[Rule]
    region: str


class NeverHolds(Reason, text="“{rule}” is to hold, and before it does, {uplinks:some and} takes the traffic out"):
    rule: Named[Rule]
    uplinks: tuple[Named[Uplink], ...]


class Resolved(Choice):
    """How a device resolves a name in a rule."""

    AT_START = "once, when the rule is loaded: an address that changes later is passed by"
    BY_ANSWERS = "from the answers that pass it: a host that asks elsewhere, or remembers, is passed by"


class HereItIs(Reason, text="here it is {addresses:some and}"):
    addresses: tuple[Address, ...]


class NoHostOfName(Reason, text="the design has no host of that name, and takes it for nothing"):
    pass


class RuleNames(Reason, text="“{rule}” names {name}, which {gateway} resolves {resolved}; {known}"):
    rule: Named[Rule]
    name: str
    gateway: Named[Gateway]
    resolved: Resolved
    known: HereItIs | NoHostOfName


class ClassUnmarked(
    Reason, text="“{rule}” waits for {classes:some and}, and neither an intent's hosts nor a rule mark anything so"
):
    rule: Named[Rule]
    classes: tuple[str, ...]


class LeaksOnFailure(
    Reason, text="when {tunnels:some and} {tunnels:is|are} down, what “{rule}” takes goes out by {uplink} ({by})"
):
    tunnels: tuple[Named[Tunnel], ...]
    rule: Named[Rule]
    uplink: Named[Uplink]
    by: str


class AskedBeside(Reason, text="“{rule}” sends all of {network} into a tunnel, and {resolver} is asked for names beside it"):
    rule: Named[Rule]
    network: Named[Network]
    resolver: Address


# What hangs on exits, and lists of prefixes


class SeenOtherwise(Reason, text="{host} is to leave by {exit} as {foreseen}, and the outside has seen it as {seen}"):
    host: Named[Host]
    exit: Named[Exit]
    foreseen: Address
    seen: Address


class SeenThoughHeld(Reason, text="{host} is held by {exit}, and the outside has seen it as {seen}"):
    host: Named[Host]
    exit: Named[Exit]
    seen: Address


class PortNotReached(Reason, text="from {source}, port {port} of {host} at {at} isn't reached: {outcome}"):
    source: str
    port: int
    host: Named[Host]
    at: Address
    outcome: Reason


class PortsMeet(Reason, text="{first} and {second} use the network of {exit}, and both publish port {port} there"):
    first: Named[Host]
    second: Named[Host]
    exit: Named[Exit]
    port: int


class ListIsOld(Reason, text="{list} is as of {day}; what it is about may have moved since"):
    list: Named[PrefixList]
    day: date


class ListUndated(Reason, text="nobody has said on which day {list} was true"):
    list: Named[PrefixList]
