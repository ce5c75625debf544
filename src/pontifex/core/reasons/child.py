"""Child and Traffic: which networks both ends have, what decides what goes in, inner addresses and sizes of packets."""

from __future__ import annotations

from pontifex.core.addressing import Address, Prefix, Region, Selector
from pontifex.core.choice import Choice
from pontifex.core.kinds import Network, Side, Site, Tunnel
from pontifex.core.reasons.reason import Named, Reason


class NetworksAgreed(Reason, text="both ends have the same networks"):
    pass


class NoNetworkCommon(Reason, text="{side} and {side:far} have no address of {side}'s in common"):
    side: Side


class NothingNarrowed(Reason, text="{side} has {own}, {side:far} has {theirs}, and IKEv1 narrows nothing"):
    side: Side
    own: tuple[Selector, ...]
    theirs: tuple[Selector, ...]


class AllTrafficAtOneEnd(Reason, text="{at} has all traffic for {side}, {at:far} only {common}: the rest never passes"):
    at: Side
    side: Side
    common: Region


class OnlyAt(Reason, text="{networks} only at {side}"):
    networks: Region
    side: Side


class NetworksNarrowed(Reason, text="never passes: {lost}"):
    lost: tuple[OnlyAt, ...]


class TooManyNetworks(Reason, text="{at} has {count} networks for {side}, and its gateway takes {most}"):
    at: Side
    count: int
    side: Side
    most: int


class FollowsFromNetworks(Reason, text="follows from the networks of both sides"):
    pass


class HasNetworks(Reason, text="{side} has {networks}"):
    side: Side
    networks: Region


class NothingPasses(Reason, text="nothing can pass: {here}, {there}, and no packet is of both"):
    here: HasNetworks
    there: HasNetworks


class NetworksAt(Reason, text="{networks} at {side}"):
    networks: tuple[Selector, ...]
    side: Side


class PartnerLacking(Reason, text="never passes: {lone:and}; the far side has nothing of that family and protocol"):
    lone: tuple[NetworksAt, ...]


class PartnersFound(Reason, text="each network has a partner of its family and protocol on the far side"):
    pass


class TakenByNarrower(Reason, text="what goes from {side} to {networks} is taken by {other}, whose networks are narrower"):
    side: Side
    networks: Region
    other: Named[Tunnel]


class DecidedBy(Choice):
    """What decides which of two tunnels gets the packets that both name."""

    LAST_ENTERED = "whichever was entered last"
    ORDER = "the order of policies, or the last SA,"


class NetworksTwice(Reason, text="{other} has {networks} beyond it, too: {by} decides which of them gets the packets"):
    other: Named[Tunnel]
    networks: Region
    by: DecidedBy


class NonePushed(Reason, text="{side} pushes none; {side:far} goes by its own list"):
    side: Side


class PushedAgreed(Reason, text="{side} is told what it is to reach"):
    side: Side


class PushedDiffers(Reason, text="{side} pushes {pushed}, {side:far} is to reach {wanted}"):
    side: Side
    pushed: tuple[Selector, ...]
    wanted: tuple[Selector, ...]


# Traffic


class ModeNotKnown(Reason, text="not known at each end, which stops nothing while the networks agree"):
    pass


class RoutesDecide(Reason, text="routes decide what goes in at both ends"):
    pass


class NetworksDecide(Reason, text="the networks decide what goes in at both ends"):
    pass


class ModesMeet(Reason, text="{side} routes into the tunnel; {side:far} lets in only what its networks name"):
    side: Side


class InnerNetworkTakes(Reason, text="the tunnel's own network {inner} takes the traffic of {site}'s {network} {prefix}"):
    inner: Prefix
    site: Named[Site]
    network: Named[Network]
    prefix: Prefix


class NoInnerNetwork(Reason, text="the tunnel has no inner network of its own"):
    pass


class OneInnerAddress(Reason, text="one end alone has an inner address, which is enough where the other goes by its networks"):
    pass


class InnerAddressTwice(Reason, text="both ends have {address} as their inner address"):
    address: Address


class InnerNetworksDiffer(Reason, text="the inner addresses lie in different networks ({first} and {second})"):
    first: Prefix
    second: Prefix


class InnerAddressesAgreed(Reason, text="both lie in {prefix}, which no network of either site touches"):
    prefix: Prefix


class IsSetTo(Reason, text="{side} has {octets}"):
    side: Side
    octets: int


class Unit(Choice):
    """What a size limits."""

    PACKETS = "packets"
    SEGMENTS = "segments"


class PacketsTooLarge(Reason, text="{ends:and}, but only {unit} of up to {most} octets fit: larger ones stall"):
    ends: tuple[IsSetTo, ...]
    unit: Unit
    most: int


class SizeFits(Reason, text="{unit} of up to {most} octets fit in either direction"):
    unit: Unit
    most: int


class SizeNotSet(Reason, text="not set; {unit} of up to {most} octets fit in either direction"):
    unit: Unit
    most: int


class SizeUndecided(Reason, text="follows from the cipher, on which the ends don't agree yet"):
    pass


class OnAtBothEnds(Reason, text="on at both ends"):
    pass


class OffAtBothEnds(Reason, text="off at both ends"):
    pass


class ReadsGarbage(Reason, text="compression is on at {side} alone, and the other end reads garbage"):
    side: Side


class GoAsTheyAre(Reason, text="on at {side} alone, so packets go as they are"):
    side: Side


class EspInUdp(Reason, text="ESP goes in UDP"):
    pass


class EspAlone(Reason, text="ESP goes as it is, and passes both uplinks"):
    pass


class EspStopsAtNat(
    Reason, text="NAT traversal is off at {side}, and the NAT on the way passes no ESP: it comes up, and carries nothing"
):
    side: Side


class EspStopsAtUplink(Reason, text="ESP doesn't pass the uplink of {side}: it comes up, and carries nothing"):
    side: Side
