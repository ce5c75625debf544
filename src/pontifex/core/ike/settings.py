"""What one end is configured with: all that its machine knows before the other end speaks."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date

from pontifex.core.addressing import Address, AddressRange, Prefix, Region
from pontifex.core.certificates import Certificate, SigningKey
from pontifex.core.ipsec import Habit, Proposal
from pontifex.core.kinds import AuthMethod, EapMethod, Identity, NatTraversal
from pontifex.core.login import Login


@dataclass(frozen=True, slots=True)
class Proof:
    """How an end proves what it is: by a shared secret, or by a signature and the certificates that go with it."""

    secret: bytes = field(default=b"", repr=False)
    key: SigningKey | None = field(default=None, repr=False)
    certificates: tuple[Certificate, ...] = ()


@dataclass(frozen=True, slots=True)
class HandedOut:
    """What an end gives its callers for their time inside."""

    pool: Prefix
    kept: frozenset[Address] = frozenset()  # addresses of the pool that nobody is given,
    kept_ranges: tuple[AddressRange, ...] = ()  # and such ranges
    resolvers: tuple[Address, ...] = ()
    domains: tuple[str, ...] = ()  # whose names are asked there

    def may_give(self, address: Address) -> bool:
        """Whether an address is one that callers are given."""
        in_range = any(
            address_range.family is address.family and address_range.first <= address.value <= address_range.last
            for address_range in self.kept_ranges
        )
        return self.pool.holds(address) and address not in self.kept and not in_range


@dataclass(frozen=True, slots=True, kw_only=True)
class EndSettings:
    """One end of a tunnel as its device has it. Times are in seconds; 0 is off."""

    ike_proposals: tuple[Proposal, ...]
    child_proposals: tuple[Proposal, ...]
    identity: Identity | None
    expected: Identity | None
    folds_case: bool = False
    method: AuthMethod = AuthMethod.PRE_SHARED_KEY
    expected_method: AuthMethod = AuthMethod.PRE_SHARED_KEY
    proof: Proof = field(repr=False)
    eap_method: EapMethod | None = None
    account: Login | None = None  # that this end calls with
    accepted: Login | None = None  # that it has made for the other one
    trust_anchors: tuple[Certificate, ...] = ()
    local_networks: Region = ()
    remote_networks: Region = ()
    most_selectors: int | None = None
    asks_address: bool = False  # of the end that it calls
    hands_out: HandedOut | None = None
    redials: bool = True  # when an SA is lost
    ike_lifetime_s: float = 0
    child_lifetime_s: float = 0
    margin_s: float = 0
    reauthenticate: bool = False
    dead_peer_s: float = 0
    keepalive_s: float = 0
    nat_traversal: NatTraversal = NatTraversal.AS_NEEDED
    habit: Habit = Habit.INITIATOR
    asks_cookies: bool = False
    fragments: bool = True
    mobike: bool = False  # goes on when an address changes (RFC 4555)
    forgets_others: bool = True  # at INITIAL_CONTACT
    most_octets: int = 1232  # of a message that isn't to be fragmented: 1280 without the headers of IPv6 and UDP (RFC 7383)
    today: Callable[[float], date] = field(repr=False)  # the day by the end's own clock, at a time of the rehearsal
