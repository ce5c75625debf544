"""EAP (RFC 3748) as octets in, octets out: packets, the two ends, and the methods that are rehearsed, a file each."""

from pontifex.core.eap.methods import EapSettings, eap_peer, eap_server, is_rehearsed
from pontifex.core.eap.packet import EapError, EapPacket
from pontifex.core.eap.peer import EapPeer
from pontifex.core.eap.server import EapServer

__all__ = ["EapError", "EapPacket", "EapPeer", "EapServer", "EapSettings", "eap_peer", "eap_server", "is_rehearsed"]
