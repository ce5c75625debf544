"""What two ends do, written from the standards' text alone: RFC 7296, 4301, 4303, 3948, 8247 and 9370.

Nothing of the product is used here, so that an error in one of the two shows as a difference. Plain and slow on purpose:
every choice is found by trying all, and what passes is tried packet by packet.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from ipaddress import ip_address, ip_network
from itertools import product

from tests.truth.ends import ENCR, ESN, INTEG, KE, PRF, SIDE_NAMES, EndData, Networks, PairData, Proposal, Transform

# combined-mode ciphers: RFC 5282, RFC 7634, RFC 5529
_COMBINED = {14, 15, 16, 18, 19, 20, 25, 26, 27, 28}
_ADDITIONAL = tuple(f"ADDKE{place}" for place in range(1, 8))
_KEEPALIVE_S, _NAT_PATIENCE_S = 20, 120  # RFC 3948 section 4, RFC 4787 section 4.3
_NUMBERS = {"icmp": 1, "tcp": 6, "udp": 17}
_WITH_PORTS = {6, 17, 132}


@dataclass(frozen=True)
class Packet:
    """A packet between the two sides, as the left sends it or gets it."""

    left: str  # address at the left
    right: str
    protocol: int
    left_port: int  # 0 where the protocol has none
    right_port: int


@dataclass(frozen=True)
class Outcome:
    """What happens. Stages are the first that fails, and the first that fails later; None where none does."""

    fails: str | None
    later: str | None = None
    offers: str | None = None
    extra_round_trip: bool = False
    ike: frozenset[Transform] = frozenset()
    ike_by_responder: frozenset[Transform] = frozenset()
    child: frozenset[Transform] = frozenset()
    passes: frozenset[Packet] = frozenset()
    rekeys: frozenset[str] = frozenset()
    rekey_after_s: int = 0
    calls_again: bool = True


def _other(side: str) -> str:
    return "right" if side == "left" else "left"


# Reach


def _arrives(end: EndData) -> bool:
    return end.udp_arrives and end.address_kind != "carrier-nat"


def _known_as(end: EndData) -> set[str]:
    """What the outside may know an end by; behind a carrier's NAT it shares its address with strangers."""
    return set() if end.address_kind == "carrier-nat" else {text for text in (end.address, end.name) if text}


def _calls(pair: PairData, side: str) -> bool:
    """An end calls when its role says so, it has somebody to call, and the call arrives."""
    return pair.end(side).role != "wait" and pair.end(side).peer != "any" and _arrives(pair.end(_other(side)))


def _reaches(pair: PairData) -> bool:
    ends = [pair.end(side) for side in SIDE_NAMES]
    if not all(end.enabled and end.service_on for end in ends) or any(end.only_tcp_out for end in ends):
        return False
    families = {ip_address(end.address).version for end in ends if end.address}
    if len(families) > 1 or not any(_calls(pair, side) for side in SIDE_NAMES):
        return False
    # an end with an address for the other takes calls from there alone
    return all(pair.end(side).peer in _known_as(pair.end(_other(side))) | {"any"} for side in SIDE_NAMES)


def _unknown(pair: PairData) -> bool:
    """Whether an address is needed that nobody has said, so that the outcome can't be told."""
    return any(not (end.address or end.name) for end in (pair.left, pair.right))


def _address_changes(pair: PairData) -> bool:
    return any(
        pair.end(_other(side)).address_kind == "changing-public"
        and pair.end(side).peer not in ("any", pair.end(_other(side)).name)
        for side in SIDE_NAMES
    )


def _nat_forgets(pair: PairData) -> bool:
    """RFC 3948 section 4: something has to be sent before the NAT's mapping ends."""
    for end in (pair.left, pair.right):
        if end.address_kind in ("behind-nat", "carrier-nat"):
            every = min((number for number in (end.keepalive_s, end.dead_peer_s) if number), default=None)
            if every is None or every >= (end.nat_timeout_s or _NAT_PATIENCE_S):
                return True
    return False


# Proposals, RFC 7296 section 3.3


def _of(proposal: Proposal, type_: str) -> list[Transform]:
    return [candidate for candidate in proposal if candidate[0] == type_]


def _optional(transforms: list[Transform]) -> bool:
    """A type may be left out where it isn't there, or NONE is among its transforms (section 3.3.3)."""
    return not transforms or any(transform[1] == 0 for transform in transforms)


def _valid(proposal: Proposal, ike: bool) -> bool:
    ciphers = {transform[1] in _COMBINED for transform in _of(proposal, ENCR)}
    if len(ciphers) != 1:  # combined-mode ciphers stand in proposals of their own (section 3.3)
        return False
    (combined,) = ciphers
    integrity = _of(proposal, INTEG)
    if combined and any(transform[1] != 0 for transform in integrity):
        return False
    if not combined and _optional(integrity):  # RFC 8221 section 4: no encryption without integrity
        return False
    if ike and (not _of(proposal, PRF) or _optional(_of(proposal, KE)) or _of(proposal, ESN)):
        return False
    if not ike and (_of(proposal, PRF) or not _of(proposal, ESN)):
        return False
    return (
        _distinct([_of(proposal, type_) for type_ in _ADDITIONAL if any(transform[1] for transform in _of(proposal, type_))])
        is not None
    )


def _distinct(choices: list[list[Transform]]) -> tuple[Transform, ...] | None:
    """The first choice of one transform of each list with no method twice (RFC 9370 section 2.2.1)."""
    for chosen in product(*choices):
        methods = [candidate[1] for candidate in chosen if candidate[1]]
        if len(set(methods)) == len(methods):
            return chosen
    return None


def _met(preferred: Proposal, other: Proposal, skipped: frozenset[str]) -> frozenset[Transform] | None:
    """What two proposals settle on, in the order of the first; None where they don't meet."""
    choices: list[list[Transform]] = []
    for type_ in (ENCR, PRF, INTEG, KE, ESN, *_ADDITIONAL):
        if type_ in skipped:
            continue
        mine, theirs = _of(preferred, type_), _of(other, type_)
        if type_ in (ENCR, PRF, ESN):
            common = [candidate for candidate in mine if candidate in theirs]
            if (mine or theirs) and not common:
                return None
        else:
            # NONE, and no transform of the type at all, are the same
            mine, theirs = mine or [(type_, 0, None)], theirs or [(type_, 0, None)]
            common = [candidate for candidate in mine if candidate in theirs]
            if not common:
                return None
        choices.append(common)
    first = [choice[0] for choice in choices if choice and choice[0][0] not in _ADDITIONAL]
    more = _distinct([choice for choice in choices if choice and choice[0][0] in _ADDITIONAL])
    return None if more is None else frozenset(candidate for candidate in (*first, *more) if candidate[1] or candidate[0] == ESN)


def negotiated(
    offer: tuple[Proposal, ...], policy: tuple[Proposal, ...], skipped: frozenset[str], by_responder: bool = False
) -> frozenset[Transform] | None:
    """Section 2.7: one proposal of the offer; which one is preferred is the responder's affair."""
    outer, inner = (policy, offer) if by_responder else (offer, policy)
    for preferred, other in product(outer, inner):
        chosen = _met(preferred, other, skipped)
        if chosen is not None:
            return chosen
    return None


# Authentication, RFC 7296 sections 2.15 and 3.5


def _well_formed(identity: tuple[str, str]) -> bool:
    kind, value = identity
    if kind == "any":
        return True
    if kind in ("ipv4-addr", "ipv6-addr"):
        return ip_address(value).version == (4 if kind == "ipv4-addr" else 6)
    return bool(value)


def _identified(pair: PairData) -> bool:
    for side in SIDE_NAMES:
        sent, expected = pair.end(side).local_id, pair.end(_other(side)).remote_id
        if not _well_formed(sent) or not _well_formed(expected):
            return False
        if expected[0] == "any" or sent == expected:
            continue
        folded = pair.end(_other(side)).ignores_case and sent[0] in ("fqdn", "rfc822-addr")
        if not (folded and sent[0] == expected[0] and sent[1].lower() == expected[1].lower()):
            return False
    return True


# Traffic selectors, RFC 7296 section 2.9 and RFC 4301 section 4.4.1


def _selects(networks: tuple[Networks, ...], address: str, protocol: int, port: int) -> bool:
    for candidate in networks:
        network = ip_network(candidate.prefix)
        if ip_address(address).version != network.version or ip_address(address) not in network:
            continue
        if candidate.protocol and _NUMBERS[candidate.protocol] != protocol:
            continue
        if candidate.port and (protocol not in _WITH_PORTS or int(candidate.port) != port):
            continue
        return True
    return False


def packets(pair: PairData) -> Iterator[Packet]:
    """Packets that may tell networks apart: between the first and last addresses of all, of each protocol and port."""
    lists = (pair.left.local, pair.left.remote, pair.right.local, pair.right.remote)
    addresses = {
        str(end)
        for some in lists
        for networks in some
        for end in (ip_network(networks.prefix)[1], ip_network(networks.prefix)[-2])
    }
    services = [
        (1, 0, 0),
        (6, 40_000, 443),
        (6, 443, 40_000),
        (6, 1, 2),
        (17, 40_000, 53),
        (17, 53, 40_000),
        (6, 443, 443),
        (17, 53, 53),
    ]
    for left, right in product(sorted(addresses), repeat=2):
        if left != right:
            yield from (Packet(left, right, protocol, own, far) for protocol, own, far in services)


def passes(pair: PairData, packet: Packet) -> bool:
    """Both ends must have it in their policies, the same way round."""
    left = packet.left, packet.protocol, packet.left_port
    right = packet.right, packet.protocol, packet.right_port
    if ip_address(packet.left).version != ip_address(packet.right).version:
        return False
    return (
        _selects(pair.left.local, *left)
        and _selects(pair.right.remote, *left)
        and _selects(pair.right.local, *right)
        and _selects(pair.left.remote, *right)
    )


# Rekey, RFC 7296 sections 1.3.2, 1.3.3 and 2.8


def _first_rekey(pair: PairData) -> tuple[frozenset[str], int]:
    due = {side: max(pair.end(side).child_lifetime_s - pair.end(side).margin_s, 0) for side in SIDE_NAMES}
    soonest = min(due.values())
    return frozenset(side for side in SIDE_NAMES if due[side] == soonest), soonest


def _rekey_fails(pair: PairData, rekeys: frozenset[str]) -> bool:
    side = "left" if "left" in rekeys else "right"
    if negotiated(pair.end(side).child, pair.end(_other(side)).child, frozenset()) is None:
        return True
    if any(end_data.margin_s >= min(end_data.child_lifetime_s, end_data.ike_lifetime_s) for end_data in (pair.left, pair.right)):
        return True
    # section 2.8.3: who authenticates anew closes the IKE SA and makes a new one, so it must be able to call
    return any(
        pair.end(side).reauthenticate and (pair.end(side).peer == "any" or not _arrives(pair.end(_other(side))))
        for side in SIDE_NAMES
    )


def _later(pair: PairData, rekeys: frozenset[str]) -> str | None:
    callers = [pair.end(side) for side in SIDE_NAMES if _calls(pair, side)]
    if _address_changes(pair) or _nat_forgets(pair):
        return "reach"
    if _rekey_fails(pair, rekeys):
        return "rekey"
    return None if any(caller.dead_peer_s for caller in callers) else "restart"


def foretell(pair: PairData) -> Outcome:
    """What happens when both ends are switched on."""
    if not _reaches(pair):
        return Outcome("reach")
    offers = next(side for side in SIDE_NAMES if _calls(pair, side))
    caller, answers = pair.end(offers), pair.end(_other(offers))
    if not all(_valid(proposal, True) for proposal in (*caller.ike, *answers.ike)):
        return Outcome("init", offers=offers)
    ike = negotiated(caller.ike, answers.ike, frozenset())
    if ike is None:
        return Outcome("init", offers=offers)
    by_responder = negotiated(caller.ike, answers.ike, frozenset(), by_responder=True) or frozenset()
    guess = next(candidate for candidate in caller.ike[0] if candidate[0] == KE)  # section 1.2: the first group is guessed
    found = Outcome(None, None, offers, guess not in ike, ike, by_responder)
    if pair.left.key != pair.right.key or not _identified(pair):
        return _failing(found, "auth")
    if not all(_valid(proposal, False) for proposal in (*caller.child, *answers.child)):
        return _failing(found, "child")
    # section 1.2: IKE_AUTH carries no key exchange; RFC 9370 section 2.2.4: nor additional ones
    child = negotiated(caller.child, answers.child, frozenset({KE, *_ADDITIONAL}))
    passing = frozenset(packet for packet in packets(pair) if passes(pair, packet))
    if child is None or not passing:
        return _failing(found, "child")
    rekeys, after_s = _first_rekey(pair)
    again = any(_calls(pair, side) and pair.end(side).dead_peer_s for side in SIDE_NAMES)
    later = _later(pair, rekeys)
    return Outcome(None, later, offers, found.extra_round_trip, ike, by_responder, child, passing, rekeys, after_s, again)


def _failing(found: Outcome, stage: str) -> Outcome:
    return Outcome(stage, None, found.offers, found.extra_round_trip, found.ike, found.ike_by_responder)


def can_tell(pair: PairData) -> bool:
    """Whether everything is known that decides; where it isn't, the product has to say that it isn't known."""
    return not _unknown(pair)
