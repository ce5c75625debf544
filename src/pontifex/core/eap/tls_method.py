"""EAP-TLS with TLS 1.3 (RFC 5216 for the packets, RFC 9190 for what goes in them): both ends show certificates.

The key needs the exporter of TLS (RFC 8446 section 7.5), which the standard library doesn't offer.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Final

from cryptography.hazmat.primitives.serialization import Encoding
from OpenSSL import SSL

from pontifex.core.certificates import Certificate, SigningKey
from pontifex.core.eap.method import Judged, PeerProved, Refused
from pontifex.core.eap.packet import EapError, EapType

_WITH_LENGTH, _MORE, _START = 0x80, 0x40, 0x20  # flags (RFC 5216 section 3.1)
_LENGTH_OCTETS: Final = 4
_FRAGMENT_OCTETS: Final = 1000  # the messages of IKE that carry them stay whole
_MOST_OCTETS: Final = 65_536
_MOST_READ: Final = 65_536
_LABEL: Final = b"EXPORTER_EAP_TLS_Key_Material"  # RFC 9190 section 2.3
_EXPORTED_OCTETS, _KEY_OCTETS = 128, 64
_COMMITMENT: Final = b"\0"  # the server sends no more of the handshake (RFC 9190 section 2.5)

Judge = Callable[[Sequence[Certificate]], str | None]  # says why what the other end shows isn't accepted


@dataclass(frozen=True, slots=True)
class TlsProof:
    """What an end shows, and how it judges what the other one shows."""

    key: SigningKey = field(repr=False)
    chain: tuple[Certificate, ...]
    judge: Judge = field(repr=False)


class _Handshake:
    """A handshake of TLS over memory. Certificates are judged when it is done."""

    def __init__(self, proof: TlsProof, *, is_server: bool) -> None:
        context = SSL.Context(SSL.TLS_METHOD)
        context.set_min_proto_version(SSL.TLS1_3_VERSION)
        context.set_cipher_list(b"ALL:@SECLEVEL=0")  # a weak key is a finding of its own
        context.set_verify(SSL.VERIFY_PEER | SSL.VERIFY_FAIL_IF_NO_PEER_CERT, lambda *_: True)
        context.set_session_cache_mode(SSL.SESS_CACHE_OFF)
        if is_server:
            context.set_options(SSL.OP_NO_TICKET)
        leaf, *others = proof.chain
        context.use_certificate(leaf.facts.parsed)
        context.use_privatekey(proof.key)
        for other in others:
            context.add_extra_chain_cert(other.facts.parsed)
        self._judge = proof.judge
        self._tls = SSL.Connection(context)
        (self._tls.set_accept_state if is_server else self._tls.set_connect_state)()
        self.is_done = False

    def take(self, octets: bytes) -> str | None:
        """Take what the other end has sent, and go on; say why it isn't accepted, where it isn't."""
        try:
            if octets:
                self._tls.bio_write(octets)
            if not self.is_done:
                self._tls.do_handshake()
                self.is_done = True
                return self._judge(self._shown())
        except SSL.WantReadError:
            return None
        except SSL.Error:
            return "the handshake of TLS failed"
        return None

    def _shown(self) -> list[Certificate]:
        shown = self._tls.get_peer_cert_chain(as_cryptography=True) or []
        leaf = self._tls.get_peer_certificate(as_cryptography=True)
        all_shown = [leaf, *(certificate for certificate in shown if certificate != leaf)] if leaf else shown
        try:
            return [Certificate(pem=certificate.public_bytes(Encoding.PEM).decode()) for certificate in all_shown]
        except ValueError:
            return []  # what can't be read speaks for nobody

    def heard(self) -> bytes:
        """Return what came within the session."""
        try:
            return self._tls.recv(_MOST_READ)
        except SSL.Error:
            return b""

    def tell(self, octets: bytes) -> None:
        """Send octets within the session."""
        self._tls.send(octets)

    def outgoing(self) -> bytes:
        """Return what is to be sent to the other end."""
        try:
            return self._tls.bio_read(_MOST_READ)
        except SSL.WantReadError:
            return b""

    def key(self) -> bytes:
        """Return the key of EAP (RFC 9190 section 2.3)."""
        return self._tls.export_keying_material(_LABEL, _EXPORTED_OCTETS, bytes((EapType.TLS,)))[:_KEY_OCTETS]


class _Fragments:
    """What is sent and taken piece by piece (RFC 5216 section 2.1.5)."""

    def __init__(self) -> None:
        self._left, self._taken = b"", b""

    def send(self, octets: bytes) -> bytes:
        """Return the first piece of octets that are to be sent, with how many there are in all."""
        self._left = octets
        return self.next(len(octets))

    def next(self, total: int = 0) -> bytes:
        """Return the next piece; without octets where none is left."""
        piece, self._left = self._left[:_FRAGMENT_OCTETS], self._left[_FRAGMENT_OCTETS:]
        is_first_of_several = total and self._left
        flags = (_WITH_LENGTH if is_first_of_several else 0) | (_MORE if self._left else 0)
        return bytes((flags,)) + (total.to_bytes(_LENGTH_OCTETS) if is_first_of_several else b"") + piece

    @property
    def is_left(self) -> bool:
        """Whether something is still to be sent."""
        return bool(self._left)

    def take(self, data: bytes) -> bytes | None:
        """Take a piece; return what has come in all, None where more follows. Raise EapError."""
        if not data or len(data) < 1 + (_LENGTH_OCTETS if data[0] & _WITH_LENGTH else 0):
            raise EapError("a packet of EAP-TLS that isn't whole")
        self._taken += data[1 + (_LENGTH_OCTETS if data[0] & _WITH_LENGTH else 0) :]
        if len(self._taken) > _MOST_OCTETS:
            raise EapError("a message of EAP-TLS without an end")
        if data[0] & _MORE:
            return None
        whole, self._taken = self._taken, b""
        return whole


class TlsPeer:
    """The end that proves itself."""

    def __init__(self, proof: TlsProof) -> None:
        self._tls, self._fragments = _Handshake(proof, is_server=False), _Fragments()
        self._refused: str | None = None
        self._is_promised = False  # the server has said that nothing follows

    def answer(self, identifier: int, data: bytes) -> bytes:  # noqa: ARG002 -- one signature for all methods
        """Go on with the handshake."""
        if self._fragments.is_left:
            return self._fragments.next()
        whole = self._fragments.take(data)
        if whole is None:
            return bytes(1)
        refused = self._tls.take(whole)
        self._refused = self._refused or refused
        if self._tls.is_done and self._tls.heard() == _COMMITMENT:
            self._is_promised = True
        return self._fragments.send(b"" if self._refused else self._tls.outgoing())

    def ended(self) -> Judged:
        """Accept where the handshake is done, and the server is one that this end trusts."""
        if self._refused:
            return Refused(f"within EAP-TLS, {self._refused}")
        return PeerProved(self._tls.key()) if self._is_promised else Refused("the handshake of EAP-TLS isn't done")


class TlsServer:
    """The end that asks for the proof."""

    def __init__(self, proof: TlsProof) -> None:
        self._tls, self._fragments = _Handshake(proof, is_server=True), _Fragments()

    def begin(self, identifier: int) -> bytes:  # noqa: ARG002 -- one signature for all methods
        """Ask for the beginning."""
        return bytes((_START,))

    def take(self, identifier: int, data: bytes) -> bytes | Judged:  # noqa: ARG002 -- one signature for all methods
        """Go on with the handshake, and judge what the caller shows."""
        if self._fragments.is_left:
            return self._fragments.next()
        whole = self._fragments.take(data)
        if whole is None:
            return bytes(1)
        was_done = self._tls.is_done
        if was_done and not whole:
            return PeerProved(self._tls.key())
        if not whole:
            return Refused("the caller breaks EAP-TLS off")
        refused = self._tls.take(whole)
        if refused:
            return Refused(f"within EAP-TLS, {refused}")
        if self._tls.is_done and not was_done:
            self._tls.tell(_COMMITMENT)
        return self._fragments.send(self._tls.outgoing())
