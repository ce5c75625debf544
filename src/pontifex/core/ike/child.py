"""Child SAs: the one that comes with IKE_AUTH, and how any is put into use (RFC 7296 sections 1.2, 1.3.1 and 2.9)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from pontifex.core.addressing import Region
from pontifex.core.ike import configuring
from pontifex.core.ike.configuring import networks
from pontifex.core.ike.effects import ChildInstalled, ChildSa, LogLevel
from pontifex.core.ike.ike_sa import Child, Creation, IkeSa
from pontifex.core.ike.keys import child_keys
from pontifex.core.ike.machine import Machine
from pontifex.core.ike.message import Message
from pontifex.core.ike.offers import child_offer, exceeds, narrowed, sendable, take, taken_of
from pontifex.core.ike.payloads import Notify, NotifyType, Payload, PayloadType, SecurityAssociation, TrafficSelectors
from pontifex.core.ipsec import Protocol

SPI_OCTETS = 4


@dataclass(frozen=True, slots=True)
class Agreed:
    """What a request for a Child SA comes to at the responder: the creation that goes on, and what is answered."""

    creation: Creation
    answer: tuple[Payload, ...]


def selectors(local: Region, remote: Region, *, by_initiator: bool) -> tuple[Payload, Payload]:
    """Return both Traffic Selector payloads: the initiator's side comes first, whoever sends them."""
    first, second = (local, remote) if by_initiator else (remote, local)
    return TrafficSelectors(PayloadType.TSI, sendable(first)), TrafficSelectors(PayloadType.TSR, sendable(second))


def asked_for(m: Machine, sa: IkeSa) -> Sequence[Payload]:
    """Return the payloads that ask for the first Child SA in IKE_AUTH."""
    creation = Creation(makes_ike=False, initiated=True, own_spi=m.entropy(SPI_OCTETS))
    creation.nonce_i, creation.nonce_r = sa.creation.nonce_i, sa.creation.nonce_r
    sa.creations[b""] = creation
    both = selectors(*networks(m, sa), by_initiator=True)
    return (child_offer(m.settings, creation.own_spi, in_auth=True), *both)


def first_answered(m: Machine, sa: IkeSa, message: Message) -> None:
    """Put the first Child SA into use; where it was refused, the IKE SA stands without one (section 1.2)."""
    creation = sa.creations.pop(b"")
    if message.first(SecurityAssociation) is None:
        error = message.error
        m.log(f"The other end refused the Child SA: {error.name if error else 'without a word'}.", LogLevel.ERROR)
        return
    if configuring.taken(m, sa, message) and settle(m, sa, creation, message, in_auth=True):
        install(m, sa, creation)


def settle(m: Machine, sa: IkeSa, creation: Creation, message: Message, *, in_auth: bool) -> bool:
    """Take into a creation what the responder has chosen; False, with a line in the log, where that can't be accepted."""
    offer = child_offer(m.settings, creation.own_spi, in_auth=in_auth)
    taken = taken_of(message.needed(SecurityAssociation), offer)
    local, remote = _selected(message, by_initiator=True)
    within = narrowed(m.settings, networks(m, sa), local, remote)
    if taken is None or len(taken.far_spi) != SPI_OCTETS:
        m.log("The other end took for the Child SA what wasn't offered.", LogLevel.ERROR)
    elif within is None:
        why = "this device takes fewer networks" if exceeds(m.settings) else "nothing could pass between the networks"
        m.log(f"The Child SA isn't put into use: {why}.", LogLevel.ERROR)
    else:
        creation.chosen, creation.suite, creation.far_spi = taken.chosen, taken.suite, taken.far_spi
        creation.local, creation.remote = within
        return True
    return False


def _selected(message: Message, *, by_initiator: bool) -> tuple[Region, Region]:
    """Return the networks of the reader's own side, and of the other one."""
    first = message.needed(TrafficSelectors, PayloadType.TSI).selectors
    second = message.needed(TrafficSelectors, PayloadType.TSR).selectors
    return (first, second) if by_initiator else (second, first)


def first_requested(m: Machine, sa: IkeSa, message: Message) -> Sequence[Payload]:
    """Answer what IKE_AUTH asks for of a Child SA."""
    if message.first(SecurityAssociation) is None:
        return ()
    creation = Creation(makes_ike=False, initiated=False)
    creation.nonce_i, creation.nonce_r = sa.creation.nonce_i, sa.creation.nonce_r
    given, refusal = configuring.handed_out(m, sa, message)
    if refusal:
        return (refusal,)
    agreed = agree(m, sa, creation, message, in_auth=True)
    if isinstance(agreed, Agreed):
        install(m, sa, creation)
        return (*given, *agreed.answer)
    return (agreed,)


def agree(m: Machine, sa: IkeSa, creation: Creation, message: Message, *, in_auth: bool) -> Agreed | Notify:
    """Take what fits of a request for a Child SA, into `creation`; or say why nothing does."""
    creation.own_spi = m.entropy(SPI_OCTETS)
    offer = message.needed(SecurityAssociation)
    taken = take(offer, m.settings.child_proposals, Protocol.ESP, m.settings, creation.own_spi, in_auth=in_auth)
    if taken is None or len(taken.far_spi) != SPI_OCTETS:
        m.log("The caller offers no proposal for a Child SA that this end accepts.", LogLevel.ERROR)
        return Notify(NotifyType.NO_PROPOSAL_CHOSEN)
    within = narrowed(m.settings, networks(m, sa), *_selected(message, by_initiator=False))
    if within is None:
        m.log("The networks that the caller asks for are none that this end has.", LogLevel.ERROR)
        return Notify(NotifyType.TS_UNACCEPTABLE)
    creation.chosen, creation.suite, creation.far_spi = taken.chosen, taken.suite, taken.far_spi
    creation.local, creation.remote = within
    return Agreed(creation, (taken.answer, *selectors(*within, by_initiator=False)))


def install(m: Machine, sa: IkeSa, creation: Creation) -> Child:
    """Put a Child SA into use."""
    assert creation.suite and sa.suite and sa.keys  # noqa: PT018 -- agreed on, under an IKE SA that stands
    keys = child_keys(sa.suite, sa.keys.derive, creation.suite, creation.nonces, tuple(creation.secrets))
    made = ChildSa(
        creation.own_spi, creation.far_spi, creation.local, creation.remote, creation.suite, creation.chosen, keys,
        creation.initiated, m.now,
    )  # fmt: skip
    lifetime = m.settings.child_lifetime_s or math.inf
    child = Child(made, m.now + max(lifetime - m.settings.margin_s, 1.0), m.now + lifetime)
    sa.children[made.spi_in] = child
    labels = " · ".join(transform.label for transform in creation.chosen)
    m.log(f"The Child SA is rekeyed: {labels}." if creation.replaces else f"A Child SA carries traffic: {labels}.")
    m.effects.append(ChildInstalled(made, sa.in_udp, creation.replaces))
    return child
