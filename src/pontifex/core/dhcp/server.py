"""A server with one scope: what it offers and confirms, to whom, and until when (RFC 2131 section 4.3)."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from pontifex.core.addressing import Address, AddressRange, Family, Prefix
from pontifex.core.addressing.dhcp_routes import DhcpRoute, encode_dhcp_routes
from pontifex.core.dhcp.message import NOWHERE, DhcpMessage, MessageType
from pontifex.core.dhcp.options import OptionCode, addresses_in, addresses_value, seconds_value


@dataclass(frozen=True, slots=True)
class Scope:
    """What a server hands out, and with which options."""

    prefix: Prefix
    ranges: tuple[AddressRange, ...]
    lease_time_s: int
    excluded: tuple[AddressRange, ...] = ()
    router: Address | None = None
    resolvers: tuple[Address, ...] = ()
    suffix: str = ""
    routes: tuple[DhcpRoute, ...] = ()

    def options(self) -> dict[int, bytes]:
        """The options that every lease has. Renewal and rebinding at a half and seven eighths (RFC 2131 section 4.4.5)."""
        mask = (0xFFFFFFFF << (32 - self.prefix.length)) & 0xFFFFFFFF
        found: dict[int, bytes] = {
            OptionCode.LEASE_TIME: seconds_value(self.lease_time_s),
            OptionCode.RENEWAL_TIME: seconds_value(self.lease_time_s // 2),
            OptionCode.REBINDING_TIME: seconds_value(self.lease_time_s * 7 // 8),
            OptionCode.SUBNET_MASK: mask.to_bytes(4),
        }
        further: dict[int, bytes] = {
            OptionCode.ROUTER: addresses_value([self.router] if self.router else []),
            OptionCode.RESOLVERS: addresses_value(self.resolvers),
            OptionCode.DOMAIN_NAME: self.suffix.encode("ascii", "replace"),
            OptionCode.CLASSLESS_ROUTES: encode_dhcp_routes(self.routes),
        }
        return {**found, **{code: value for code, value in further.items() if value}}

    def addresses(self) -> Iterator[Address]:
        """Yield the addresses that are handed out, in their order."""
        for address_range in self.ranges:
            for value in range(address_range.first, address_range.last + 1):
                if not _within(value, self.excluded):
                    yield Address(Family.V4, value)

    def hands_out(self, address: Address) -> bool:
        """Whether an address is one that is handed out."""
        return _within(address.value, self.ranges) and not _within(address.value, self.excluded)


def _within(value: int, ranges: tuple[AddressRange, ...]) -> bool:
    return any(address_range.first <= value <= address_range.last for address_range in ranges)


@dataclass(frozen=True, slots=True)
class Lease:
    """An address that a client has, until a time."""

    address: Address
    client: bytes
    until_s: float


@dataclass
class DhcpServer:
    """A server. Its scope may be changed at any time: leases keep what they were told until they are renewed."""

    scope: Scope
    address: Address
    leases: dict[bytes, Lease] = field(default_factory=dict)

    def answer(self, message: DhcpMessage, now_s: float) -> DhcpMessage | None:
        """Return the answer to a message; None where there is none."""
        if message.is_reply:
            return None
        client = message.options.get(OptionCode.CLIENT_ID, message.hardware)
        if message.type is MessageType.DISCOVER:
            return self._offered(message, client, now_s)
        if message.type is MessageType.REQUEST:
            return self._requested(message, client, now_s)
        if message.type is MessageType.RELEASE:
            self.leases.pop(client, None)
        return None

    def _offered(self, message: DhcpMessage, client: bytes, now_s: float) -> DhcpMessage | None:
        address = self._address_for(client, now_s)
        return self._reply(MessageType.OFFER, message, address, self.scope.options()) if address else None

    def _requested(self, message: DhcpMessage, client: bytes, now_s: float) -> DhcpMessage | None:
        chosen = message.options.get(OptionCode.SERVER_ID)
        if chosen is not None and addresses_in(chosen) != (self.address,):
            return None  # the client has chosen another server
        named = message.options.get(OptionCode.REQUESTED_ADDRESS)
        wanted = addresses_in(named)[0] if named else message.client
        if wanted != self._address_for(client, now_s, wanted):
            return self._reply(MessageType.NAK, message, NOWHERE, {})
        self.leases[client] = Lease(wanted, client, now_s + self.scope.lease_time_s)
        return self._reply(MessageType.ACK, message, wanted, self.scope.options())

    def _address_for(self, client: bytes, now_s: float, wanted: Address | None = None) -> Address | None:
        """Return the client's own address, the one that it wants where that is free, or else the first that is free."""
        own = self.leases.get(client)
        if own and self.scope.hands_out(own.address):
            return own.address
        taken = {lease.address for lease in self.leases.values() if lease.until_s > now_s and lease.client != client}
        if wanted and wanted not in taken and self.scope.hands_out(wanted):
            return wanted
        return next((address for address in self.scope.addresses() if address not in taken), None)

    def _reply(self, type_: MessageType, to: DhcpMessage, address: Address, options: Mapping[int, bytes]) -> DhcpMessage:
        own: dict[int, bytes] = {OptionCode.SERVER_ID: addresses_value([self.address])}
        return DhcpMessage(type_, to.transaction, to.hardware, is_reply=True, yours=address, options={**own, **options})
