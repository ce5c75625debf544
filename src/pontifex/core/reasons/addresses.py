"""What findings say of the address space: networks, hosts, ranges, reservations, translations and collisions."""

from __future__ import annotations

from pontifex.core.addressing import Address, AddressRange, Prefix
from pontifex.core.choice import Choice
from pontifex.core.kinds import Host, Network, Site, Translation, Tunnel
from pontifex.core.reasons.reason import More, Named, Reason


class NetworkOf(Reason, text="{site}'s {network}"):
    site: Named[Site]
    network: Named[Network]


class HostAt(Reason, text="{host} at {site}"):
    host: Named[Host]
    site: Named[Site]


# Collisions


class MeetBy(Reason, text="; they meet by {tunnels:and}"):
    tunnels: tuple[Named[Tunnel], ...]


class NotJoinedYet(Reason, text="; no tunnel joins their sites yet"):
    pass


class SamePrefix(Reason, text="{one} and {other} are both {prefix}{meet}"):
    one: NetworkOf
    other: NetworkOf
    prefix: Prefix
    meet: MeetBy | NotJoinedYet | None


class PrefixContains(Reason, text="{outer} {outer_prefix} contains {inner} {inner_prefix}{meet}"):
    outer: NetworkOf
    outer_prefix: Prefix
    inner: NetworkOf
    inner_prefix: Prefix
    meet: MeetBy | NotJoinedYet | None


# Networks


class SetApart(Reason, text="{network} is {prefix}, in {block}, which is set apart for {use} ({reference})"):
    network: NetworkOf
    prefix: Prefix
    block: Prefix
    use: str
    reference: str


class InSharedSpace(Reason, text="{network} is {prefix}, in {block}, which carriers use before their NAT"):
    network: NetworkOf
    prefix: Prefix
    block: Prefix


class PlainGlobalId(Reason, text="{network} is {prefix}, and its global ID was hardly drawn at random"):
    network: NetworkOf
    prefix: Prefix


class PublicInside(Reason, text="{network} is {prefix}, which is public space and none of the supernets"):
    network: NetworkOf
    prefix: Prefix


class GatewayAddressOutside(Reason, text="{network} is {prefix}, and its gateway address {address} lies outside"):
    network: NetworkOf
    prefix: Prefix
    address: Address


class GatewayAddressKept(Reason, text="the gateway address {address} of {network} lies in {kept}, which the platform keeps"):
    address: Address
    network: NetworkOf
    kept: AddressRange


class TooSmall(Reason, text="{network} is to have {expected} hosts, and {prefix} has room for {room}; {spoken} are spoken for"):
    network: NetworkOf
    expected: int
    prefix: Prefix
    room: int
    spoken: int


class ReservedAndUsed(Reason, text="{prefix} is reserved for {site}, and {network} is {taken}"):
    prefix: Prefix
    site: Named[Site]
    network: NetworkOf
    taken: Prefix


class ReservedTwice(Reason, text="{reservation} is reserved for {site}, and {other} {other_prefix}"):
    reservation: Prefix
    site: Named[Site]
    other: Named[Site]
    other_prefix: Prefix


class KeptElsewhere(Reason, text="the platform of {network} keeps {kept}, and {other} is {prefix}"):
    network: NetworkOf
    kept: AddressRange
    other: NetworkOf
    prefix: Prefix


# Hosts and ranges


class PortTwice(Reason, text="{first} and {second} of {network} both publish port {port}"):
    first: Named[Host]
    second: Named[Host]
    network: Named[Network]
    port: int


class RangeOutside(Reason, text="{network} is {prefix}, and hands out {range}"):
    network: NetworkOf
    prefix: Prefix
    range: AddressRange


class RangesOverlap(Reason, text="{network} hands out {first} and {second}"):
    network: NetworkOf
    first: AddressRange
    second: AddressRange


class RangeKept(Reason, text="{network} hands out {range}, and the platform keeps {kept}"):
    network: NetworkOf
    range: AddressRange
    kept: AddressRange


class HostAddress(Reason, text="{host} {address}"):
    host: Named[Host]
    address: Address


class TheGatewayAddress(Reason, text="the gateway address {address}"):
    address: Address


class RangeTaken(Reason, text="{network} hands out addresses that are taken: {taken:some}"):
    network: NetworkOf
    taken: tuple[HostAddress | TheGatewayAddress, ...]


class HostOutside(Reason, text="the host {host} has {address}, and {network} is {prefix}"):
    host: Named[Host]
    address: Address
    network: NetworkOf
    prefix: Prefix


class PrefixEdge(Choice):
    """What an address at an edge of a prefix stands for."""

    FIRST = "the network itself"
    LAST = "all hosts of it"


class HostUnusable(Reason, text="the host {host} has {address}, which in {prefix} stands for {edge}"):
    host: Named[Host]
    address: Address
    prefix: Prefix
    edge: PrefixEdge


class HostKept(Reason, text="the host {host} has {address}, and the platform keeps {kept} of {network}"):
    host: Named[Host]
    address: Address
    kept: AddressRange
    network: NetworkOf


class HostIsGateway(Reason, text="the host {host} has {address}, which is the gateway address of {network}"):
    host: Named[Host]
    address: Address
    network: NetworkOf


class HostsShareAddress(Reason, text="the hosts {hosts:and}{more} have one address, {address}"):
    hosts: tuple[HostAt, ...]  # the first ones
    more: More | None
    address: Address


# Translations


class NoNetworkInside(Reason, text="no network there has any of {inside}"):
    inside: Prefix


class SeenAsOne(Reason, text="{networks} {inside} is seen as {outside}"):
    networks: tuple[Named[Network], ...]
    inside: Prefix
    outside: Prefix


class Answers(Reason, text="{name} answers {address} instead of {seen}"):
    name: str
    address: Address
    seen: Address


class NamesAcross(Reason, text="across {translation}, {answers:some}"):
    translation: Named[Translation]
    answers: tuple[Answers, ...]


class OutsideTaken(Reason, text="{translation} shows {inside} as {outside}, and {network} is {prefix}"):
    translation: Named[Translation]
    inside: Prefix
    outside: Prefix
    network: NetworkOf
    prefix: Prefix


class BothLeadTo(Reason, text="{one} and {other} both lead to {outside}"):
    one: Named[Translation]
    other: Named[Translation]
    outside: Prefix


class RealSelectors(
    Reason, text="{translation} shows {inside} as {outside}, and {tunnels} names the real addresses, or not what is seen"
):
    translation: Named[Translation]
    inside: Prefix
    outside: Prefix
    tunnels: tuple[Named[Tunnel], ...]
