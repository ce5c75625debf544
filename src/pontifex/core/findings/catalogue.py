"""The catalogue: every kind of finding with its severity, what follows from it, and what it rests on."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Final


class Severity(Enum):
    """How bad a finding is. The order of the members is from worst to least."""

    BLOCKER = "blocker"  # will not work
    LATER = "later"  # works, then stops
    PARTIAL = "partial"  # some of the traffic
    EXPOSURE = "exposure"  # leaks, or is weak
    ADVICE = "advice"

    @property
    def rank(self) -> int:
        """Place from the worst, from 0."""
        return list(Severity).index(self)


@dataclass(frozen=True, slots=True)
class Entry:
    """One kind of finding. The code is stable and never reused."""

    code: str
    severity: Severity
    title: str
    consequence: str
    reference: str


_BLOCKER, _LATER, _PARTIAL, _EXPOSURE, _ADVICE = Severity
_ENTRIES: Final = (
    Entry("address.overlap", _BLOCKER, "Networks collide", "Once the sites are joined, traffic for one of the networks ends up in the other, or nowhere.", "RFC 1918 section 5"),
    Entry("reach.both-wait", _BLOCKER, "Nobody calls", "The tunnel stays down: neither end starts the exchange.", "RFC 7296 section 1.2"),
    Entry("reach.nobody-can-call", _BLOCKER, "Nobody can be called", "The tunnel stays down: the first message never arrives.", "RFC 7296 section 2.23"),
    Entry("reach.no-address", _BLOCKER, "No address to call", "The tunnel stays down: the end that is to call doesn't know where.", "RFC 7296 section 1.2"),
    Entry("reach.wrong-address", _BLOCKER, "Wrong peer address", "The call goes to somebody else, or the answer is refused.", "RFC 7296 section 1.2"),
    Entry("reach.address-of-uncallable", _BLOCKER, "An address for an end that has none", "A call from the far end arrives from another address and is refused.", "RFC 7296 section 2.23"),
    Entry("reach.address-changes", _LATER, "An address for an end whose address changes", "The tunnel works until the far end gets another address.", "RFC 7296 section 2.23"),
    Entry("ike.invalid-proposal", _BLOCKER, "Invalid IKE proposal", "The far end refuses the proposal whatever it accepts itself.", "RFC 7296 section 3.3.3"),
    Entry("ike.no-common-proposal", _BLOCKER, "No common IKE proposal", "The far end answers NO_PROPOSAL_CHOSEN to the first message.", "RFC 7296 section 2.7"),
    Entry("end.identity-empty", _BLOCKER, "Empty identity", "Authentication fails: an end that says nothing of itself is not recognised.", "RFC 7296 section 3.5"),
    Entry("end.identity-type", _BLOCKER, "Identities of different type", "Authentication fails, though the two may look alike.", "RFC 7296 section 3.5"),
    Entry("end.identity-blank", _BLOCKER, "Identities differ by a blank", "Authentication fails: identities are compared letter by letter.", "RFC 7296 section 3.5"),
    Entry("end.identity-case", _BLOCKER, "Identities differ in case", "Authentication fails: identities are compared letter by letter.", "RFC 7296 section 3.5"),
    Entry("end.identity-homograph", _BLOCKER, "Identities only look alike", "Authentication fails: identities are compared letter by letter.", "RFC 7296 section 3.5"),
    Entry("end.identity-differs", _BLOCKER, "Identities differ", "Authentication fails: the far end finds no entry for this identity.", "RFC 7296 section 3.5"),
    Entry("end.key-differs", _BLOCKER, "Keys differ", "Authentication fails: the far end answers AUTHENTICATION_FAILED.", "RFC 7296 section 2.15"),
    Entry("child.invalid-proposal", _BLOCKER, "Invalid Child SA proposal", "The IKE SA comes up, but no traffic passes.", "RFC 7296 section 3.3.3"),
    Entry("child.no-common-proposal", _BLOCKER, "No common Child SA proposal", "The IKE SA comes up, but the far end answers NO_PROPOSAL_CHOSEN for the Child SA.", "RFC 7296 section 2.7"),
    Entry("child.no-common-network", _BLOCKER, "Networks don't meet", "The IKE SA comes up, but the far end answers TS_UNACCEPTABLE for the Child SA.", "RFC 7296 section 2.9"),
    Entry("child.networks-narrowed", _PARTIAL, "Networks narrowed", "The Child SA comes up for the common networks only; the rest never passes.", "RFC 7296 section 2.9"),
    Entry("crypto.must-not", _EXPOSURE, "Retired algorithm offered", "A caller can settle on an algorithm that is broken.", "RFC 8247 section 2, RFC 8221 section 5"),
    Entry("crypto.weak", _EXPOSURE, "Weak algorithm offered", "A caller can settle on an algorithm that is weaker than it should be.", "RFC 8247 section 2, RFC 8221 section 5"),
    Entry("key.weak", _EXPOSURE, "Weak key", "Whoever answers a single call in the far end's place can try keys offline until one fits.", "RFC 7296 section 2.15"),
    Entry("key.reused", _EXPOSURE, "One key for several tunnels", "Whoever learns the key at one end can stand in for each of the others.", "RFC 7296 section 2.15"),
    Entry("tunnel.not-known", _ADVICE, "Not known yet", "How far a call gets can't be foretold until this is known.", "RFC 7296 section 1.2"),
)  # fmt: skip

CATALOGUE: Final = {entry.code: entry for entry in _ENTRIES}
