"""What an end says it is, what it expects the other to be, and how either proves it."""

from __future__ import annotations

from typing import Annotated, Final

from cryptography import x509
from pydantic import Field, StringConstraints

from pontifex.core.choice import Choice
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.ipsec.preshared_key import KeyFacts


class IdentityType(Choice):
    """Types of identification of RFC 7296 section 3.5; ANY is an expectation only, and not sent."""

    IPV4_ADDR = "ipv4-addr"
    IPV6_ADDR = "ipv6-addr"
    FQDN = "fqdn"
    RFC822_ADDR = "rfc822-addr"
    DER_ASN1_DN = "der-asn1-dn"
    DER_ASN1_GN = "der-asn1-gn"
    KEY_ID = "key-id"
    ANY = "any"


LONGEST_IDENTITY: Final = 255  # characters


class Identity(FrozenModel):
    """An identity. The value is kept letter by letter, blanks included."""

    type: IdentityType = Field(title="Type", examples=["fqdn"])
    value: Annotated[str, StringConstraints(max_length=LONGEST_IDENTITY, pattern=r"^[^\x00]*$")] = Field(
        title="Value", examples=["ostvik.skerry.example"]
    )

    def __hash__(self) -> int:
        return hash(self.value)

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Identity):
            return NotImplemented
        return self.type is other.type and self.value == other.value

    def __str__(self) -> str:
        return "any identity" if self.type is IdentityType.ANY else f"{self.type.value} {self.value}"


def distinguished(value: str) -> x509.Name | None:
    """Read a distinguished name of RFC 4514; None when it is none."""
    try:
        return x509.Name.from_rfc4514_string(value.replace(", ", ","))
    except ValueError:
        return None


class AuthMethod(Choice):
    """How an end proves what it is (RFC 7296 sections 2.15 and 2.16)."""

    PRE_SHARED_KEY = "pre-shared-key"
    CERTIFICATE = "certificate"
    EAP = "eap"

    @property
    def label(self) -> str:
        """What people call it."""
        return _PROOF_LABELS[self]


_PROOF_LABELS: Final = {
    AuthMethod.PRE_SHARED_KEY: "pre-shared key",
    AuthMethod.CERTIFICATE: "certificate",
    AuthMethod.EAP: "EAP",
}


class EapMethod(Choice):
    """Methods of EAP by their names in IANA's registry "EAP Method Types"."""

    MD5_CHALLENGE = "MD5-Challenge"
    GTC = "GTC"
    TLS = "EAP-TLS"
    TTLS = "EAP-TTLS"
    MSCHAP_V2 = "EAP-MSCHAP-V2"
    PWD = "EAP-pwd"  # noqa: S105 -- the name of a method
    AKA = "EAP-AKA"

    @property
    def makes_key(self) -> bool:
        """Whether the method makes a key that ties it to the IKE SA (RFC 7296 section 2.16)."""
        return self not in _WITHOUT_KEY

    @property
    def is_by_certificate(self) -> bool:
        """Whether the caller proves itself by a certificate, and has no account (RFC 5216)."""
        return self is EapMethod.TLS

    @property
    def is_mutual(self) -> bool:
        """Whether it proves the server as well, so that the server needs no certificate (RFC 5998 section 4)."""
        return self in _MUTUAL


_WITHOUT_KEY: Final = (EapMethod.MD5_CHALLENGE, EapMethod.GTC)
_MUTUAL: Final = (EapMethod.TLS, EapMethod.TTLS, EapMethod.PWD, EapMethod.AKA)

AccountName = Annotated[str, StringConstraints(min_length=1, max_length=80, pattern=r"^[^\x00-\x1f\x7f]*$")]


class AccountKind(Choice):
    """What an account is for."""

    TUNNEL = "tunnel"  # a gateway that calls
    PERSON = "person"
    ADMINISTRATION = "administration"  # of the device itself


class Account(FrozenModel):
    """The account that an end calls with."""

    name: AccountName = Field(title="Name", examples=["ostvik-gate"])
    secret: KeyFacts | None = Field(default=None, title="Secret")

    def __str__(self) -> str:
        return f"{self.name}, {_secret_text(self.secret)}"


class AcceptedAccount(Account):
    """The account that an end has made for the other one."""

    kind: AccountKind = Field(default=AccountKind.TUNNEL, title="Kind")
    enabled: bool = Field(default=True, title="Enabled")

    def __str__(self) -> str:
        return f"{self.name} ({self.kind.value}{'' if self.enabled else ', disabled'}), {_secret_text(self.secret)}"


def _secret_text(secret: KeyFacts | None) -> str:
    return f"secret {secret.fingerprint}" if secret else "secret not known yet"
