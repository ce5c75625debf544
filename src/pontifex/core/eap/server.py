"""The end that has the other one prove itself by EAP (RFC 3748 section 4)."""

from __future__ import annotations

from dataclasses import dataclass

from pontifex.core.eap.method import Judged, PeerProved, Refused, ServerMethod
from pontifex.core.eap.packet import EapCode, EapError, EapPacket, EapType


@dataclass(frozen=True, slots=True)
class Ended:
    """The last word of a server, and what it has come to."""

    octets: bytes
    judged: Judged


class EapServer:
    """Asks by the one method that it is configured with."""

    def __init__(self, type_: EapType, method: ServerMethod, identifier: int) -> None:
        self._type, self._method, self._identifier = type_, method, identifier

    def begin(self) -> bytes:
        """Return the first request. Who calls has told its identity already, in IDi (RFC 7296 section 2.16)."""
        return self._request(self._method.begin(self._identifier))

    def take(self, octets: bytes) -> bytes | Ended:
        """Take a response; return the next request, or the end. Raise EapError."""
        packet = EapPacket.read(octets)
        if packet.code is not EapCode.RESPONSE or packet.identifier != self._identifier:
            raise EapError("no response to the request that waits for one")
        if packet.type != self._type:
            return self._ended(Refused("the caller wants another method of EAP"))
        step = self._method.take(packet.identifier, packet.data)
        if isinstance(step, PeerProved | Refused):
            return self._ended(step)
        self._identifier = (self._identifier + 1) % 256
        return self._request(step)

    def _request(self, data: bytes) -> bytes:
        return EapPacket(EapCode.REQUEST, self._identifier, self._type, data).written()

    def _ended(self, judged: Judged) -> Ended:
        code = EapCode.SUCCESS if isinstance(judged, PeerProved) else EapCode.FAILURE
        return Ended(EapPacket(code, self._identifier).written(), judged)
