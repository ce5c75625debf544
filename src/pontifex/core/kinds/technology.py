"""Technologies of tunnels, and the values that ends of each have."""

from __future__ import annotations

import base64
import binascii
from dataclasses import dataclass
from typing import Annotated, Final
from uuid import UUID

from pydantic import AfterValidator, Field
from pydantic_core import PydanticCustomError

from pontifex.core.choice import Choice
from pontifex.core.frozen_model import FrozenModel


class Technology(Choice):
    """What a tunnel is made of."""

    IPSEC_IKEV2 = "ipsec-ikev2"  # RFC 7296, RFC 4301
    IPSEC_IKEV1 = "ipsec-ikev1"  # RFC 2409, deprecated by RFC 9395: to describe what exists
    TLS = "tls"  # over UDP (RFC 9147) or TCP (RFC 8446)
    PEER_KEY = "peer-key"  # static public keys, allowed prefixes, over UDP
    CLOUD_PEERING = "cloud-peering"  # two clouds linked by a request and its acceptance; nothing passes on beyond either

    traits: TechnologyTraits  # what it is like; kept by each member, since most code that meets a tunnel asks

    @property
    def label(self) -> str:
        """What people call it."""
        return self.traits.label

    @property
    def is_ipsec(self) -> bool:
        """Whether ESP carries the traffic."""
        return self.traits.esp


@dataclass(frozen=True, slots=True)
class TechnologyTraits:
    """What a technology is like: all that code asks of it, but for its rows and its own fields."""

    label: str
    esp: bool = False  # ESP carries the traffic (RFC 4303)
    narrows: bool = True  # where the networks of both ends differ, what is common passes
    outdated: bool = False  # it is no longer maintained
    over_tcp: bool = False  # TCP may carry it
    logs_in: bool = False  # a caller may prove itself by an account, beside or instead of a certificate
    by_allowed_prefixes: bool = False  # the far networks alone tell whose a packet is, and routes follow from them
    routed: bool = False  # routes alone lead into it
    outer_packets: bool = True  # the gateways' own packets carry it, from one outside address to the other
    transitive: bool = True  # what came out of it may go on into another
    clouds_alone: bool = False  # only gateways of clouds can do it
    needs_agreement: bool = False  # one end asks for it, and the other agrees once it was asked
    ike_version: int | None = None  # what sets it up (RFC 7296, RFC 2409)
    usual_keepalive_s: int = 0  # how often an end behind a NAT speaks where nobody has said


_TRAITS: Final = {
    Technology.IPSEC_IKEV2: TechnologyTraits(
        "IPsec with IKEv2",
        esp=True,
        ike_version=2,
        usual_keepalive_s=20,  # RFC 3948 section 4
    ),
    Technology.IPSEC_IKEV1: TechnologyTraits(
        "IPsec with IKEv1", esp=True, narrows=False, outdated=True, ike_version=1, usual_keepalive_s=20
    ),
    Technology.TLS: TechnologyTraits("TLS", over_tcp=True, logs_in=True, usual_keepalive_s=20),
    Technology.PEER_KEY: TechnologyTraits("static peer keys", by_allowed_prefixes=True),
    Technology.CLOUD_PEERING: TechnologyTraits(
        "a cloud peering",
        routed=True,
        outer_packets=False,
        transitive=False,
        clouds_alone=True,
        needs_agreement=True,
        usual_keepalive_s=20,
    ),
}
for _technology, _traits in _TRAITS.items():
    _technology.traits = _traits


class Mode(Choice):
    """What decides which packets go into the tunnel."""

    POLICY = "policy"  # the traffic selectors
    ROUTE = "route"  # routes to an interface with an inner address


class NatTraversal(Choice):
    """Whether ESP goes in UDP (RFC 3948)."""

    AS_NEEDED = "as-needed"  # where the ends see a NAT between them (RFC 7296 section 2.23)
    ALWAYS = "always"
    OFF = "off"


class InitialContact(Choice):
    """What an end does with its other IKE SAs of a caller that says it has none (RFC 7296 section 2.4)."""

    FORGETS = "forgets"
    KEEPS = "keeps"  # until it notices that nobody is there


class ExchangeMode(Choice):
    """The first exchange of IKEv1 (RFC 2409 section 5)."""

    MAIN = "main"
    AGGRESSIVE = "aggressive"


class Transport(Choice):
    """What carries TLS."""

    UDP = "udp"
    TCP = "tcp"


class DataCipher(Choice):
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
        """Whether the cipher protects integrity by itself."""
        return self.value.endswith(("GCM", "Poly1305"))


class Digest(Choice):
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
