"""Leases that a dial-in gateway takes for itself, several at once, and hands on to those who dial in.

It keeps what the scope said when it took them: what has changed since reaches nobody who dials in before the block is given
back and taken anew.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from pontifex.core.addressing import Address
from pontifex.core.addressing.dhcp_routes import DhcpRoute
from pontifex.core.dhcp.client import ClientState, DhcpClient
from pontifex.core.dhcp.message import DhcpMessage

Exchange = Callable[[DhcpMessage], DhcpMessage | None]  # a message to the server, and its answer


@dataclass
class LeaseBlock:
    """The leases of a gateway. The first one that answers says which options all of them go by."""

    hardware: bytes
    size: int
    clients: list[DhcpClient] = field(default_factory=list)
    routes: tuple[DhcpRoute, ...] = ()
    taken_at_s: float = 0.0

    def take(self, exchange: Exchange, now_s: float) -> int:
        """Take as many leases as there are, up to the size of the block; return how many that is."""
        self.taken_at_s = now_s
        self.clients = []
        for number in range(self.size):
            client = DhcpClient(self.hardware, self.hardware + number.to_bytes(2))
            _talk(client, client.discover(), exchange, now_s)
            if client.state is not ClientState.BOUND:
                break
            self.clients.append(client)
        self.routes = self.clients[0].routes if self.clients else ()
        return len(self.clients)

    def renew(self, exchange: Exchange, now_s: float) -> None:
        """Renew what is due. New options of the answers are not looked at."""
        for client in self.clients:
            message = client.due(now_s)
            if message:
                _talk(client, message, exchange, now_s)

    def give_back(self, exchange: Exchange) -> None:
        """Give all leases back."""
        for client in self.clients:
            exchange(client.release())
        self.clients, self.routes = [], ()

    def address(self, place: int) -> Address | None:
        """Return the address for the one who dials in at a place; None where the block has no more."""
        return self.clients[place].address if place < len(self.clients) else None


def _talk(client: DhcpClient, message: DhcpMessage | None, exchange: Exchange, now_s: float) -> None:
    while message:
        reply = exchange(message)
        message = client.receive(reply, now_s) if reply else None
