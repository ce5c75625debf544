"""TLS with servers that are known by their certificate alone, whose SHA-256 somebody has compared."""

from __future__ import annotations

import hashlib
import ssl
from typing import Final

WITHIN_S: Final = 10.0


def host_and_port(address: str) -> tuple[str, int]:
    """Return host and port of an address as it is written in a URL. Raise OSError where no name has labels like these."""
    written, _, port = address.rpartition(":")
    host = written.strip("[]")
    try:
        host.encode("idna")  # as looking it up would do
    except UnicodeError:
        raise OSError(f"'{host}' is no name of a host") from None
    return host, int(port)


def certificate_at(address: str) -> str:
    """Return the certificate that a server shows, PEM. Raise OSError or OverflowError where nothing speaks TLS there."""
    return ssl.get_server_certificate(host_and_port(address), timeout=WITHIN_S)


def fingerprint(pem: str) -> str:
    """Return the SHA-256 of a certificate, as it is read aloud."""
    digest = hashlib.sha256(ssl.PEM_cert_to_DER_cert(pem)).hexdigest().upper()
    return ":".join(digest[at : at + 2] for at in range(0, len(digest), 2))


def trusting(pem: str) -> ssl.SSLContext:
    """Return a context that takes exactly this certificate, whatever name it has and whoever has issued it."""
    trusted = ssl.create_default_context(cadata=pem)
    trusted.check_hostname = False
    trusted.verify_flags |= ssl.VERIFY_X509_PARTIAL_CHAIN
    return trusted
