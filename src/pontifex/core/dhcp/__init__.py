"""DHCP for IPv4 (RFC 2131) as octets in, octets out: messages, a server with its scope, clients, and blocks of leases."""

from pontifex.core.dhcp.block import LeaseBlock
from pontifex.core.dhcp.client import ClientState, DhcpClient
from pontifex.core.dhcp.message import DhcpError, DhcpMessage, MessageType, decode_message
from pontifex.core.dhcp.options import OptionCode
from pontifex.core.dhcp.server import DhcpServer, Lease, Scope

__all__ = [
    "ClientState",
    "DhcpClient",
    "DhcpError",
    "DhcpMessage",
    "DhcpServer",
    "Lease",
    "LeaseBlock",
    "MessageType",
    "OptionCode",
    "Scope",
    "decode_message",
]
