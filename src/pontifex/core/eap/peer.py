"""The end that proves itself by EAP (RFC 3748 section 4)."""

from __future__ import annotations

from pontifex.core.eap.method import Judged, PeerMethod, Refused
from pontifex.core.eap.packet import EapCode, EapError, EapPacket, EapType


class EapPeer:
    """Answers what the server asks, by the one method that it is configured with."""

    def __init__(self, type_: EapType, method: PeerMethod, name: str) -> None:
        self._type, self._method, self._name = type_, method, name

    def take(self, octets: bytes) -> bytes | Judged:
        """Take a packet; return the answer, or what holds once the server has said its last word. Raise EapError."""
        packet = EapPacket.read(octets)
        match packet.code:
            case EapCode.REQUEST:
                return self._answered(packet).written()
            case EapCode.SUCCESS:
                return self._method.ended()
            case EapCode.FAILURE:
                own = self._method.ended()
                return own if isinstance(own, Refused) else Refused("the server ends EAP by a failure")
            case _:
                raise EapError("a response, where a request is expected")

    def _answered(self, request: EapPacket) -> EapPacket:
        type_, data = self._type.value, b""
        if request.type == self._type:
            data = self._method.answer(request.identifier, request.data)
        elif request.type == EapType.IDENTITY:
            type_, data = EapType.IDENTITY, self._name.encode()
        elif request.type == EapType.NOTIFICATION:
            type_ = EapType.NOTIFICATION
        else:
            type_, data = EapType.NAK, bytes((self._type,))  # what it would take instead (RFC 3748 section 5.3.1)
        return EapPacket(EapCode.RESPONSE, request.identifier, type_, data)
