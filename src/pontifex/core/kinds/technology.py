"""Technologies of tunnels, and the values that ends of each have."""

from __future__ import annotations

import base64
import binascii
from enum import Enum
from typing import Annotated, Final
from uuid import UUID

from pydantic import AfterValidator, Field
from pydantic_core import PydanticCustomError

from pontifex.core.frozen_model import Choice, FrozenModel


class Technology(Choice):
    """What a tunnel is made of."""

    IPSEC_IKEV2 = "ipsec-ikev2"  # RFC 7296, RFC 4301
    IPSEC_IKEV1 = "ipsec-ikev1"  # RFC 2409, deprecated by RFC 9395: to describe what exists
    TLS = "tls"  # over UDP (RFC 9147) or TCP (RFC 8446)
    PEER_KEY = "peer-key"  # static public keys, allowed prefixes, over UDP
    CLOUD_PEERING = "cloud-peering"  # two clouds linked by a request and its acceptance; nothing passes on beyond either

    @property
    def label(self) -> str:
        """What people call it."""
        return _LABELS[self]

    @property
    def is_ipsec(self) -> bool:
        """Tell whether ESP carries the traffic."""
        return self in (Technology.IPSEC_IKEV2, Technology.IPSEC_IKEV1)


_LABELS: Final = {
    Technology.IPSEC_IKEV2: "IPsec with IKEv2",
    Technology.IPSEC_IKEV1: "IPsec with IKEv1",
    Technology.TLS: "TLS",
    Technology.PEER_KEY: "static peer keys",
    Technology.CLOUD_PEERING: "a cloud peering",
}


class Mode(Enum):
    """What decides which packets go into the tunnel."""

    POLICY = "policy"  # the traffic selectors
    ROUTE = "route"  # routes to an interface with an inner address


class ExchangeMode(Enum):
    """The first exchange of IKEv1 (RFC 2409 section 5)."""

    MAIN = "main"
    AGGRESSIVE = "aggressive"


class Transport(Enum):
    """What carries TLS."""

    UDP = "udp"
    TCP = "tcp"


class DataCipher(Enum):
    """Ciphers of the data that TLS carries, by the names of RFC 5116 and RFC 8439."""

    AES_128_GCM = "AES-128-GCM"
    AES_256_GCM = "AES-256-GCM"
    CHACHA20_POLY1305 = "ChaCha20-Poly1305"
    AES_128_CBC = "AES-128-CBC"
    AES_256_CBC = "AES-256-CBC"
    TRIPLE_DES_CBC = "3DES-CBC"
    NULL = "NULL"

    @property
    def combined_mode(self) -> bool:
        """Tell whether the cipher protects integrity by itself."""
        return self.value.endswith(("GCM", "Poly1305"))


class Digest(Enum):
    """Digests that protect the data where the cipher doesn't (RFC 6234, RFC 1321)."""

    SHA2_256 = "SHA2-256"
    SHA2_384 = "SHA2-384"
    SHA2_512 = "SHA2-512"
    SHA1 = "SHA1"
    MD5 = "MD5"


def _check_public_key(text: str) -> str:
    """Keep the canonical base64 of a public key of 32 octets (RFC 7748 section 6.1)."""
    try:
        octets = base64.b64decode(text.strip(), validate=True)
    except (binascii.Error, ValueError):
        octets = b""
    if len(octets) != 32:
        raise PydanticCustomError("public_key", "this is no public key: 32 octets in base64, 44 characters, are wanted")
    return base64.b64encode(octets).decode()


PublicKey = Annotated[
    str,
    Field(max_length=64, examples=["hSDwCYkwp1R0i33ctD73Wg2/Og0mOBr066SpjqqbTmo="]),
    AfterValidator(_check_public_key),
]


class KeyPair(FrozenModel):
    """An end's own key pair: the public half, and where the private one is."""

    public: PublicKey = Field(title="Public key")
    reference: UUID | None = Field(
        default=None, title="Reference", description="Of the private key in the vault; null where it is on its device alone."
    )

    def __str__(self) -> str:
        return f"{self.public}{' (private half in the vault)' if self.reference else ''}"
