"""What an end offers, and what it takes of an offer (RFC 7296 sections 2.7, 2.9 and 3.3)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from pontifex.core.addressing import Region, Selector, common_region
from pontifex.core.addressing.selector import ANY_PORT, ANY_PROTOCOL, WITH_PORTS
from pontifex.core.ike.payloads import OfferedProposal, SecurityAssociation
from pontifex.core.ike.payloads.security_association import PROTOCOL_ESP, PROTOCOL_IKE
from pontifex.core.ike.settings import EndSettings
from pontifex.core.ike.suite.chosen import Suite, suite_of
from pontifex.core.ipsec import Agreement, Proposal, Protocol, Transform, TransformType, negotiate

KEY_EXCHANGES: Final = frozenset(type_ for type_ in TransformType if type_ is TransformType.KE or type_.is_additional)


@dataclass(frozen=True, slots=True)
class Taken:
    """What an end takes of an offer."""

    answer: SecurityAssociation
    chosen: tuple[Transform, ...]
    suite: Suite
    far_spi: bytes


@lru_cache(maxsize=256)
def _without_exchanges(proposals: tuple[Proposal, ...]) -> tuple[Proposal, ...]:
    """IKE_AUTH carries no key exchange for its Child SA (RFC 7296 section 1.2)."""
    return tuple(
        proposal.changed(transforms=tuple(transform for transform in proposal.transforms if transform.type not in KEY_EXCHANGES))
        for proposal in proposals
    )


def ike_offer(settings: EndSettings, spi: bytes = b"") -> SecurityAssociation:
    """Return the payload that offers an IKE SA; with the SPI of a rekeyed one."""
    return _offer(settings.ike_proposals, PROTOCOL_IKE, spi)


def child_offer(settings: EndSettings, spi: bytes, in_auth: bool) -> SecurityAssociation:
    """Return the payload that offers a Child SA."""
    proposals = settings.child_proposals
    return _offer(_without_exchanges(proposals) if in_auth else proposals, PROTOCOL_ESP, spi)


def _offer(proposals: Iterable[Proposal], protocol: int, spi: bytes) -> SecurityAssociation:
    return SecurityAssociation(
        tuple(OfferedProposal(number, protocol, spi, proposal) for number, proposal in enumerate(proposals, start=1))
    )


def first_method(proposals: Iterable[Proposal]) -> int | None:
    """Return the key exchange method that an initiator guesses: the first one that it offers; None where it offers none."""
    for proposal in proposals:
        for transform in proposal.by_type.get(TransformType.KE, ()):
            return None if transform.is_none else transform.id
    return None


def take(
    offer: SecurityAssociation, accepted: Sequence[Proposal], protocol: Protocol, settings: EndSettings, spi: bytes, in_auth: bool
) -> Taken | None:
    """Return what an end takes of an offer, with its own SPI in the answer; None where nothing fits."""
    number = PROTOCOL_IKE if protocol is Protocol.IKE else PROTOCOL_ESP
    fitting = [
        offered for offered in offer.proposals if offered.protocol == number and offered.is_known and offered.proposal.transforms
    ]
    leave_out = KEY_EXCHANGES if in_auth else frozenset[TransformType]()
    if not fitting or not accepted:
        return None
    outcome = negotiate([offered.proposal for offered in fitting], accepted, leave_out, settings.habit)
    if not isinstance(outcome, Agreement):
        return None
    suite = suite_of(outcome.chosen)
    if suite is None:
        return None
    met = fitting[outcome.offered]
    answer = OfferedProposal(met.number, number, spi, Proposal.from_valid({"transforms": outcome.chosen}))
    return Taken(SecurityAssociation((answer,)), outcome.chosen, suite, met.spi)


def taken_of(answer: SecurityAssociation, offer: SecurityAssociation) -> Taken | None:
    """Return what the other end has taken; None where that isn't one whole proposal of the offer (section 3.3.6)."""
    if len(answer.proposals) != 1:
        return None
    met = answer.proposals[0]
    offered = next(
        (proposal for proposal in offer.proposals if proposal.number == met.number and proposal.protocol == met.protocol), None
    )
    if offered is None or not met.is_known:
        return None
    chosen = met.proposal.transforms
    suite = suite_of(chosen)
    of_each_type = len({transform.type for transform in chosen}) == len(chosen)
    if suite is None or not of_each_type or not set(chosen) <= set(offered.proposal.transforms):
        return None
    return Taken(answer, chosen, suite, met.spi)


def sendable(region: Iterable[Selector]) -> Region:
    """Return selectors as they can be sent: each of one protocol, or of all (section 3.13.1)."""
    sent: list[Selector] = []
    for selector in region:
        low, high = selector.protocols
        if selector.protocols == ANY_PROTOCOL or low == high:
            sent.append(selector)
        else:
            sent += (
                Selector(selector.family, selector.first, selector.last, (number, number), selector.ports)
                for number in range(low, high + 1)
                if selector.ports == ANY_PORT or number in WITH_PORTS
            )
    return tuple(sent)


def narrowed(
    settings: EndSettings, networks: tuple[Region, Region], local: Region, remote: Region
) -> tuple[Region, Region] | None:
    """Return what an end takes of the networks of both sides, by those it has; None where nothing could pass (section 2.9)."""
    if exceeds(settings):
        return None
    own, far = common_region(local, networks[0]), common_region(remote, networks[1])
    return (own, far) if any(_meet(selector, other) for selector in own for other in far) else None


def exceeds(settings: EndSettings) -> bool:
    """Whether an end has more networks at one side than its device takes."""
    most = settings.most_selectors
    return most is not None and max(len(settings.local_networks), len(settings.remote_networks)) > most


def _meet(one: Selector, other: Selector) -> bool:
    """Whether a packet could be in both: of one family, and of a protocol that both name."""
    low, high = max(one.protocols[0], other.protocols[0]), min(one.protocols[1], other.protocols[1])
    limited = one.ports != ANY_PORT or other.ports != ANY_PORT
    return one.family is other.family and (any(low <= number <= high for number in WITH_PORTS) if limited else low <= high)
