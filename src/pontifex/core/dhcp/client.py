"""A client: how it comes by a lease, keeps it and loses it, and which routes it goes by (RFC 2131 section 4.4, RFC 3442)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final

from pontifex.core.addressing import Address, Family, Prefix
from pontifex.core.addressing.dhcp_routes import DhcpRoute, decode_dhcp_routes
from pontifex.core.choice import Choice
from pontifex.core.dhcp.message import NOWHERE, DhcpMessage, MessageType
from pontifex.core.dhcp.options import OptionCode, addresses_in, addresses_value

_WANTED: Final = bytes(
    (
        OptionCode.SUBNET_MASK,
        OptionCode.CLASSLESS_ROUTES,  # before the router: whoever answers both in full puts it first (RFC 3442)
        OptionCode.ROUTER,
        OptionCode.RESOLVERS,
        OptionCode.DOMAIN_NAME,
    )
)
_DEFAULT: Final = Prefix(Family.V4, 0, 0)


class ClientState(Choice):
    """The states of RFC 2131 section 4.4."""

    INIT = "init"
    SELECTING = "selecting"
    REQUESTING = "requesting"
    BOUND = "bound"
    RENEWING = "renewing"
    REBINDING = "rebinding"


@dataclass
class DhcpClient:
    """A client. Times are seconds of whoever asks it; `options` are what its lease says."""

    hardware: bytes
    identifier: bytes = b""
    state: ClientState = ClientState.INIT
    address: Address = NOWHERE
    options: Mapping[int, bytes] = field(default_factory=dict)
    bound_at_s: float = 0.0
    _transaction: int = 0

    def discover(self) -> DhcpMessage:
        """Begin anew: ask who has an address."""
        self.state, self.address, self.options = ClientState.SELECTING, NOWHERE, {}
        return self._message(MessageType.DISCOVER)

    def due(self, now_s: float) -> DhcpMessage | None:
        """Return what is to be sent by now: a renewal, a rebinding, or a beginning anew where the lease has ended."""
        if self.state in (ClientState.INIT, ClientState.SELECTING, ClientState.REQUESTING):
            return None
        age = now_s - self.bound_at_s
        if age >= self.lease_time_s:
            return self.discover()
        if age >= self._time(OptionCode.REBINDING_TIME) and self.state is not ClientState.REBINDING:
            self.state = ClientState.REBINDING
            return self._message(MessageType.REQUEST, client=self.address)
        if age >= self._time(OptionCode.RENEWAL_TIME) and self.state is ClientState.BOUND:
            self.state = ClientState.RENEWING
            return self._message(MessageType.REQUEST, client=self.address)
        return None

    def receive(self, reply: DhcpMessage, now_s: float) -> DhcpMessage | None:
        """Take an answer; return what is to be sent next. What is no answer to the last message is left alone."""
        if reply.transaction != self._transaction or reply.hardware != self.hardware:
            return None
        if reply.type is MessageType.OFFER and self.state is ClientState.SELECTING:
            self.state = ClientState.REQUESTING
            chosen: dict[int, bytes] = {
                OptionCode.REQUESTED_ADDRESS: addresses_value([reply.yours]),
                OptionCode.SERVER_ID: reply.options.get(OptionCode.SERVER_ID, b""),
            }
            return self._message(MessageType.REQUEST, options=chosen, same=True)
        if reply.type is MessageType.ACK and self.state is not ClientState.SELECTING:
            self.state, self.address, self.options, self.bound_at_s = ClientState.BOUND, reply.yours, reply.options, now_s
        elif reply.type is MessageType.NAK and self.state is not ClientState.SELECTING:
            return self.discover()
        return None

    def release(self) -> DhcpMessage:
        """Give the lease back."""
        message = self._message(MessageType.RELEASE, client=self.address)
        self.state, self.address, self.options = ClientState.INIT, NOWHERE, {}
        return message

    @property
    def lease_time_s(self) -> int:
        """How long its lease is."""
        return self._time(OptionCode.LEASE_TIME)

    @property
    def routes(self) -> tuple[DhcpRoute, ...]:
        """The routes that it goes by: with option 121, option 3 is ignored (RFC 3442)."""
        classless = self.options.get(OptionCode.CLASSLESS_ROUTES)
        if classless:
            return decode_dhcp_routes(classless)
        router = self.options.get(OptionCode.ROUTER)
        return (DhcpRoute(_DEFAULT, addresses_in(router)[0]),) if router else ()

    def _time(self, code: OptionCode) -> int:
        return int.from_bytes(self.options.get(code, b"\0\0\0\0"))

    def _message(
        self, type_: MessageType, client: Address = NOWHERE, options: Mapping[int, bytes] | None = None, *, same: bool = False
    ) -> DhcpMessage:
        if not same:
            self._transaction = (self._transaction + int.from_bytes(self.hardware[-3:]) + 1) & 0xFFFFFFFF
        own: dict[int, bytes] = {OptionCode.CLIENT_ID: self.identifier} if self.identifier else {}
        wants: dict[int, bytes] = {} if type_ is MessageType.RELEASE else {OptionCode.PARAMETERS: _WANTED}
        return DhcpMessage(type_, self._transaction, self.hardware, client=client, options={**own, **(options or {}), **wants})
