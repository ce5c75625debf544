"""A TLS session (RFC 8446) over memory: certificates of both ends, verified by the standard library's TLS."""

from __future__ import annotations

import os
import ssl
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import Final

from cryptography.hazmat.primitives.serialization import Encoding, NoEncryption, PrivateFormat

from pontifex.core.certificates import Certificate, Chain, SigningKey, chain_to

# OpenSSL's X509_V_FLAG_NO_CHECK_TIME: it would judge by the machine's clock, and a rehearsal has its own
_NO_CHECK_TIME: Final = 0x200000
_MOST_READ: Final = 65_536


class SessionError(Exception):
    """The handshake failed; the message says why, in plain words."""


@dataclass(frozen=True, slots=True)
class Credentials:
    """What an end shows, and what it trusts."""

    key: SigningKey = field(repr=False)
    chain: tuple[Certificate, ...]
    anchors: tuple[Certificate, ...]


class TlsSession:
    """One end of a session."""

    def __init__(self, own: Credentials, *, waits: bool) -> None:
        self._anchors = own.anchors
        self._incoming, self._outgoing = ssl.MemoryBIO(), ssl.MemoryBIO()
        self._tls = _context(own, waits=waits).wrap_bio(self._incoming, self._outgoing, server_side=waits)
        self.stands = False

    def take(self, records: bytes) -> None:
        """Take records that have come."""
        self._incoming.write(records)

    def advance(self) -> bool:
        """Go on with the handshake; return whether it has ended now. Raise SessionError."""
        if self.stands:
            return False
        try:
            self._tls.do_handshake()
        except ssl.SSLWantReadError:
            return False
        except ssl.SSLCertVerificationError as error:
            raise SessionError(f"the other end's certificate isn't accepted: {error.verify_message}") from None
        except ssl.SSLError as error:
            raise SessionError(_alert(error)) from None
        self.stands = True
        return True

    def check_dates(self, today: date, sent_along: Sequence[Certificate]) -> None:
        """Refuse a chain of the other end, with what it has sent along, of which anything isn't valid on the day."""
        shown = self._tls.getpeercert(binary_form=True)
        assert shown  # a session doesn't stand without it
        leaf = Certificate(pem=ssl.DER_cert_to_PEM_cert(shown))
        chain = chain_to(self._anchors, (leaf, *sent_along))
        for facts in (link.facts for link in (chain.links if isinstance(chain, Chain) else (leaf,))):
            if today > facts.not_after:
                raise SessionError(f"the certificate of '{facts.subject}' was valid until {facts.not_after}")
            if today < facts.not_before:
                raise SessionError(f"the certificate of '{facts.subject}' is valid from {facts.not_before}")

    def write(self, octets: bytes) -> None:
        """Give octets to be sent within the session."""
        self._tls.write(octets)

    def read(self) -> bytes:
        """Return what has come within the session. Raise SessionError."""
        try:
            return self._tls.read(_MOST_READ)
        except ssl.SSLWantReadError:
            return b""
        except ssl.SSLError as error:
            raise SessionError(_alert(error)) from None

    def records(self) -> bytes:
        """Return the records that are to be sent."""
        return self._outgoing.read()


def _alert(error: ssl.SSLError) -> str:
    words = (error.reason or "").lower().replace("_", " ")
    return f"the other end refused: {words.partition('alert ')[2] or words or 'no reason was told'}"


def _context(own: Credentials, *, waits: bool) -> ssl.SSLContext:
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER if waits else ssl.PROTOCOL_TLS_CLIENT)
    context.minimum_version = ssl.TLSVersion.TLSv1_3
    context.check_hostname = False  # a tunnel's peer is whom the authority has signed, at whatever address
    context.verify_mode = ssl.CERT_REQUIRED
    context.verify_flags |= ssl.VerifyFlags.VERIFY_X509_PARTIAL_CHAIN | ssl.VerifyFlags(_NO_CHECK_TIME)
    context.set_ciphers("ALL:@SECLEVEL=0")  # a weak key is a finding of its own
    if waits:
        context.num_tickets = 0  # each session is one of its own
    context.load_verify_locations(cadata="\n".join(anchor.pem for anchor in own.anchors))
    _load(context, own.key, own.chain)
    return context


def _load(context: ssl.SSLContext, key: SigningKey, chain: Sequence[Certificate]) -> None:
    """Load a certificate with its key, which the library takes from a file alone: from one in memory."""
    written = key.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, NoEncryption())
    file = os.memfd_create("certificates")
    try:
        os.write(file, written + "\n".join(certificate.pem for certificate in chain).encode())
        context.load_cert_chain(f"/proc/self/fd/{file}")
    finally:
        os.close(file)
