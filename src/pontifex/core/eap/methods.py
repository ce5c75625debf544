"""Which methods of EAP are rehearsed, and the two ends of each."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from pontifex.core.eap.md5_challenge import Md5ChallengePeer, Md5ChallengeServer
from pontifex.core.eap.method import PeerMethod, ServerMethod
from pontifex.core.eap.ms_chap_v2_method import MsChapV2Peer, MsChapV2Server
from pontifex.core.eap.packet import EapType
from pontifex.core.eap.peer import EapPeer
from pontifex.core.eap.server import EapServer
from pontifex.core.eap.tls_method import TlsPeer, TlsProof, TlsServer
from pontifex.core.entropy import Entropy
from pontifex.core.kinds import EapMethod
from pontifex.core.login import Login

_NOBODY: Final = Login("", b"", may_call=False)


@dataclass(frozen=True, slots=True)
class EapSettings:
    """What an end has for EAP: its method, the account that it calls with or has made, and what it shows and trusts."""

    method: EapMethod
    login: Login | None
    proof: TlsProof | None


_Peer = Callable[[EapSettings, Entropy], PeerMethod]
_Server = Callable[[EapSettings, Entropy], ServerMethod]


def _tls_peer(settings: EapSettings, _: Entropy) -> PeerMethod:
    assert settings.proof  # the comparison asks for certificates
    return TlsPeer(settings.proof)


def _tls_server(settings: EapSettings, _: Entropy) -> ServerMethod:
    assert settings.proof  # the comparison asks for certificates
    return TlsServer(settings.proof)


_METHODS: Final[dict[EapMethod, tuple[EapType, _Peer, _Server]]] = {
    EapMethod.MD5_CHALLENGE: (
        EapType.MD5_CHALLENGE,
        lambda settings, _: Md5ChallengePeer(settings.login or _NOBODY),
        lambda settings, entropy: Md5ChallengeServer(settings.login or _NOBODY, entropy),
    ),
    EapMethod.MSCHAP_V2: (
        EapType.MSCHAP_V2,
        lambda settings, entropy: MsChapV2Peer(settings.login or _NOBODY, entropy),
        lambda settings, entropy: MsChapV2Server(settings.login or _NOBODY, entropy),
    ),
    EapMethod.TLS: (EapType.TLS, _tls_peer, _tls_server),
}


def is_rehearsed(method: EapMethod) -> bool:
    """Whether both ends of a method are here."""
    return method in _METHODS


def eap_peer(settings: EapSettings, entropy: Entropy) -> EapPeer:
    """Return the end that proves itself."""
    type_, peer, _ = _METHODS[settings.method]
    return EapPeer(type_, peer(settings, entropy), settings.login.name if settings.login else "")


def eap_server(settings: EapSettings, entropy: Entropy) -> EapServer:
    """Return the end that asks for the proof."""
    type_, _, server = _METHODS[settings.method]
    return EapServer(type_, server(settings, entropy), entropy(1)[0])
