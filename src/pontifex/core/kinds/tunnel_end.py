"""One end of a tunnel as it is configured there. A field that is null or empty is not known yet."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Final, Self

from pydantic import AfterValidator, Field, StringConstraints, TypeAdapter, ValidationError, model_validator
from pydantic_core import PydanticCustomError

from pontifex.core.addressing import Address, AddressError, Interface, Selector, parse_address
from pontifex.core.certificates import Certificate
from pontifex.core.choice import Choice
from pontifex.core.frozen_model import FrozenModel, one_of_alike
from pontifex.core.ipsec.preshared_key import KeyFacts
from pontifex.core.ipsec.proposal import Proposal
from pontifex.core.kinds.fields import DnsName, InterfaceName, ObjectId, Port
from pontifex.core.kinds.identity import AcceptedAccount, Account, AuthMethod, EapMethod, Identity, IdentityType
from pontifex.core.kinds.technology import (
    DataCipher,
    Digest,
    ExchangeMode,
    InitialContact,
    KeyPair,
    Mode,
    NatTraversal,
    PublicKey,
    Technology,
    Transport,
)


class Role(Choice):
    """What an end does to bring the tunnel up; one that calls answers, too."""

    CALL = "call"
    WAIT = "wait"  # only answers
    ON_TRAFFIC = "on-traffic"  # calls when a packet wants to go through

    @property
    def calls(self) -> bool:
        """Whether this end ever calls."""
        return self is not Role.WAIT


ANY_PEER: Final = "any"  # the end accepts a call from any address, and so has none to call itself
_DNS_NAME: Final[TypeAdapter[str]] = TypeAdapter(DnsName)


def _check_peer_address(text: str) -> str:
    """Keep "any", a DNS name, or the canonical text of an address."""
    if text == ANY_PEER:
        return text
    if ":" in text or text.replace(".", "").isdigit():
        try:
            return str(Address(*parse_address(text)))
        except AddressError as error:
            raise PydanticCustomError("address", "{reason}", {"reason": error.reason}) from None
    try:
        return _DNS_NAME.validate_python(text)
    except ValidationError:
        raise PydanticCustomError(
            "peer_address", "'{text}' is neither an address, nor a full DNS name, nor 'any'", {"text": text}
        ) from None


def is_name(peer: str | None) -> bool:
    """Whether a peer address is a DNS name, to be resolved before anybody can be called."""
    return peer is not None and peer != ANY_PEER and ":" not in peer and not peer.replace(".", "").isdigit()


@lru_cache(maxsize=16_384)
def peer_address(peer: str) -> Address | None:
    """Return the address that a peer is found at by itself; None for a name, or where any may call."""
    if peer == ANY_PEER or is_name(peer):
        return None
    try:
        return Address(*parse_address(peer))
    except AddressError:
        return None


PeerAddress = Annotated[
    str,
    StringConstraints(strip_whitespace=True, max_length=253),
    AfterValidator(_check_peer_address),
    Field(examples=["198.51.100.10", "ostvik.dyn.example", ANY_PEER]),
]
Lifetime = Annotated[int, Field(ge=60, le=86_400 * 30, examples=[3600])]
Interval = Annotated[int, Field(ge=0, le=86_400, examples=[30])]
Proposals = Annotated[tuple[Proposal, ...], Field(max_length=32), AfterValidator(one_of_alike)]
MOST_SELECTORS: Final = 256
Selectors = Annotated[tuple[Selector, ...], Field(max_length=MOST_SELECTORS)]
Certificates = Annotated[tuple[Certificate, ...], Field(max_length=16)]


class LinkFields(FrozenModel):
    """What an end of any technology has, wherever it stands."""

    technology: Technology = Field(default=Technology.IPSEC_IKEV2, title="Technology")
    port: Port | None = Field(default=None, title="Port", description="Where it listens or calls; not of IPsec.")
    inner_mtu: int | None = Field(default=None, title="Inner MTU, octets", ge=68, le=65_535, examples=[1400])
    tcp_mss: int | None = Field(default=None, title="TCP MSS, octets", ge=28, le=65_495, examples=[1360])
    keepalive_s: Interval | None = Field(default=None, title="Keep-alive, s", description="0 is off.")
    dead_peer_s: Interval | None = Field(default=None, title="Dead-peer check, s", description="0 is off.")
    compression: bool | None = Field(default=None, title="Compression")


class PlacedFields(FrozenModel):
    """Where an end stands, whom it finds, and what it leads to."""

    gateway_id: ObjectId = Field(title="Gateway")
    uplink_id: ObjectId | None = Field(default=None, title="Uplink")
    enabled: bool = Field(default=True, title="Switched on", description="This tunnel alone; the gateway has a switch for all.")
    role: Role | None = Field(default=None, title="Role")
    peer_address: PeerAddress | None = Field(
        default=None, title="Peer address", description="Where this end finds the other: address, DNS name, or 'any'."
    )
    local_networks: Selectors = Field(default=(), title="Local networks", description="Traffic selectors of this side.")
    remote_networks: Selectors = Field(default=(), title="Remote networks", description="Traffic selectors of the far side.")
    mode: Mode | None = Field(default=None, title="Mode", description="What decides which packets go in.")
    calls_again: bool | None = Field(
        default=None, title="Calls again", description="When a call has failed or its SA is lost; taken for so if empty."
    )
    starts_at_boot: bool | None = Field(
        default=None,
        title="Starts with its machine",
        description="It calls whenever its device has started; taken for so if empty.",
    )
    round_trip_ms: int | None = Field(
        default=None, title="Round trip, ms", description="Through the tunnel, as it was measured from this end.", ge=1, le=60_000
    )
    inner_address: Interface | None = Field(default=None, title="Inner address", description="Of the tunnel's own interface.")
    interface: InterfaceName | None = Field(
        default=None, title="Interface", description="Of the tunnel: its name on this end's device."
    )


class SecretFields(FrozenModel):
    """What is known of the secrets of an end; they themselves stand in the vault."""

    key: KeyFacts | None = Field(default=None, title="Pre-shared key")
    account: Account | None = Field(default=None, title="Account", description="That this end calls with.")
    accepted_account: AcceptedAccount | None = Field(default=None, title="Accepted account", description="Made for the far end.")
    control_key: KeyFacts | None = Field(default=None, title="Control key", description="That protects the control channel.")


class ProofFields(FrozenModel):
    """What an end says it is, and how both prove it."""

    local_identity: Identity | None = Field(default=None, title="Local identity")
    remote_identity: Identity | None = Field(default=None, title="Expected identity")
    local_auth: AuthMethod | None = Field(default=AuthMethod.PRE_SHARED_KEY, title="Proves itself by")
    remote_auth: AuthMethod | None = Field(default=AuthMethod.PRE_SHARED_KEY, title="Expects proof by")
    eap_method: EapMethod | None = Field(default=None, title="EAP method")
    certificates: Certificates = Field(default=(), title="Certificates", description="Its own first, then those in between.")
    trust_anchors: Certificates = Field(default=(), title="Trust anchors", description="Authorities that this end trusts.")

    @model_validator(mode="after")
    def _says_what_it_is(self) -> Self:
        if self.local_identity and self.local_identity.type is IdentityType.ANY:
            raise PydanticCustomError("identity", "an end can expect any identity, but must say one of its own")
        return self


class IpsecFields(FrozenModel):
    """What an end of IPsec has."""

    ike_proposals: Proposals = Field(default=(), title="IKE proposals", description="In order of preference.")
    child_proposals: Proposals = Field(default=(), title="Child SA proposals", description="In order of preference.")
    exchange_mode: ExchangeMode | None = Field(default=None, title="Exchange mode", description="Of IKEv1 alone.")
    nat_traversal: NatTraversal | None = Field(
        default=None, title="NAT traversal", description="Whether ESP goes in UDP; as needed where nobody has said."
    )
    fragmentation: bool | None = Field(
        default=None, title="Cuts its messages", description="Large messages of IKE in pieces of its own (RFC 7383)."
    )
    mobike: bool | None = Field(
        default=None, title="MOBIKE", description="Goes on when an address changes (RFC 4555); taken for off if empty."
    )
    initial_contact: InitialContact | None = Field(
        default=None,
        title="At first contact",
        description="What it does with older IKE SAs of a caller that has none any more; it forgets them where nobody has said.",
    )
    ike_lifetime_s: Lifetime | None = Field(default=None, title="IKE SA lifetime, s")
    child_lifetime_s: Lifetime | None = Field(default=None, title="Child SA lifetime, s")
    child_lifetime_mib: int | None = Field(default=None, title="Child SA lifetime, MiB", ge=1, le=2**40)
    rekey_margin_s: Interval | None = Field(default=None, title="Rekey margin, s", description="Before a lifetime ends.")
    reauthenticate: bool | None = Field(default=None, title="Reauthentication", description="A new IKE SA in place of a rekey.")


class TlsFields(FrozenModel):
    """What an end of TLS has."""

    transport: Transport | None = Field(default=None, title="Transport")
    data_ciphers: tuple[DataCipher, ...] = Field(default=(), title="Data ciphers", max_length=16)
    digest: Digest | None = Field(default=None, title="Digest")
    pushed_networks: Selectors = Field(default=(), title="Pushed networks", description="What the waiting end tells the caller.")
    renegotiation_s: Lifetime | None = Field(default=None, title="Renegotiation, s")


class PeerKeyFields(FrozenModel):
    """What an end of static peer keys has."""

    key_pair: KeyPair | None = Field(default=None, title="Own key pair")
    peer_public_key: PublicKey | None = Field(default=None, title="Peer's public key")


class PeeringFields(FrozenModel):
    """What an end of a cloud peering has."""

    peering_agreed: bool | None = Field(
        default=None, title="Agreed to", description="This side has requested the peering, or accepted the request."
    )


class TunnelEnd(PeeringFields, PeerKeyFields, TlsFields, IpsecFields, SecretFields, ProofFields, LinkFields, PlacedFields):
    """One end of a tunnel as it is configured there. A field that is null or empty is not known yet."""

    @property
    def goes_by_routes(self) -> bool:
        """Whether routes alone lead into the tunnel; otherwise its networks take what they name (RFC 4301 section 4.4.1)."""
        return self.mode is Mode.ROUTE or self.technology.traits.routed
