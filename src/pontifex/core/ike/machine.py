"""What the handlers of a machine share: its settings, its SAs, the time, and the effects that they leave."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from pontifex.core.entropy import Entropy
from pontifex.core.ike.effects import (
    ChildRemoved,
    Configured,
    Effect,
    IkeEnded,
    IkeEstablished,
    IkeKeyed,
    Logged,
    LogLevel,
    Send,
)
from pontifex.core.ike.ike_sa import FIRST_RETRY_S, Child, IkeSa, IkeSaState, Purpose, Request
from pontifex.core.ike.keys import IkeKeys, ike_keys
from pontifex.core.ike.message import ExchangeType, Message, write_message
from pontifex.core.ike.payloads import Payload
from pontifex.core.ike.protection import directions, seal
from pontifex.core.ike.settings import EndSettings
from pontifex.core.ike.suite.chosen import Suite
from pontifex.core.ipsec import Transform

NONCE_OCTETS: Final = 32
RETRY_CREATION_S: Final = 10.0  # after TEMPORARY_FAILURE (RFC 7296 section 2.25)


class Machine:
    """One end of a tunnel: its settings, its SAs, and what its handlers leave as effects."""

    def __init__(self, settings: EndSettings, entropy: Entropy) -> None:
        self.settings = settings
        self.entropy = entropy
        self.now = 0.0
        self.sas: dict[bytes, IkeSa] = {}  # by the SPI that this end chose
        self.effects: list[Effect] = []
        self.configured: Configured | None = None  # what this end was given last

    def log(self, text: str, level: LogLevel = LogLevel.INFO) -> None:
        """Write a line into the log."""
        self.effects.append(Logged(text, level))

    def send(self, sa: IkeSa, message: Message, datagrams: Sequence[bytes]) -> None:
        """Send the datagrams of a message."""
        sa.sent_at = self.now
        self.effects.extend(Send(sa.local, sa.remote, octets, message) for octets in datagrams)

    def written(self, sa: IkeSa, message: Message) -> tuple[bytes, ...]:
        """Return the datagrams of a message: in clear before there are keys, sealed from then on."""
        if sa.sending is None or message.header.exchange == ExchangeType.IKE_SA_INIT:
            return (write_message(message.header, message.payloads),)
        most = self.settings.most_octets if sa.fragments else None
        return seal(sa.sending, message.header, message.payloads, self.entropy, most)

    def ask(
        self, sa: IkeSa, purpose: Purpose, exchange: ExchangeType, payloads: Sequence[Payload], about: bytes = b""
    ) -> tuple[bytes, ...]:
        """Send a request, and wait for its answer. One at a time: the window is 1 (RFC 7296 section 2.3)."""
        message = sa.message(exchange, False, sa.next_id, payloads)
        datagrams = self.written(sa, message)
        sa.request = Request(purpose, message, datagrams, self.now + FIRST_RETRY_S, about=about)
        sa.next_id += 1
        self.send(sa, message, datagrams)
        return datagrams

    def key(self, sa: IkeSa, suite: Suite, chosen: Sequence[Transform], seed: bytes) -> IkeKeys:
        """Give an IKE SA its keys."""
        sa.suite = suite
        sa.keys = keys = ike_keys(suite, seed, sa.creation.nonces, sa.spi_i, sa.spi_r)
        by_initiator, by_responder = directions(suite, keys)
        sa.sending, sa.receiving = (by_initiator, by_responder) if sa.initiated else (by_responder, by_initiator)
        self.effects.append(
            IkeKeyed(sa.spi_i, sa.spi_r, tuple(chosen), keys.encryption_i, keys.encryption_r, keys.integrity_i, keys.integrity_r)
        )
        return keys

    def establish(self, sa: IkeSa, rekeyed: bool = False) -> None:
        """Let an IKE SA stand from now on."""
        sa.phase = IkeSaState.ESTABLISHED
        lifetime = self.settings.ike_lifetime_s
        if lifetime:
            sa.rekey_at = self.now + max(lifetime - self.settings.margin_s, 1.0)
            sa.ends_at = self.now + lifetime
        sa.heard_at = self.now
        assert sa.suite  # it has keys
        self.effects.append(IkeEstablished(sa.spi_i, sa.spi_r, sa.suite, rekeyed))

    def remove_child(self, sa: IkeSa, child: Child) -> None:
        """Take a Child SA out of use."""
        if sa.children.pop(child.sa.spi_in, None):
            self.effects.append(ChildRemoved(child.sa.spi_in))

    def end(self, sa: IkeSa, reason: str, level: LogLevel = LogLevel.INFO) -> None:
        """Take an IKE SA out of use, and all its Child SAs."""
        if sa.phase is IkeSaState.ENDED:
            return
        for child in list(sa.children.values()):
            self.remove_child(sa, child)
        sa.phase, sa.request = IkeSaState.ENDED, None
        sa.waiting.clear()
        self.sas.pop(sa.own_spi, None)
        self.log(f"The IKE SA ended: {reason}.", level)
        self.effects.append(IkeEnded(sa.spi_i, sa.spi_r, reason))
