"""Tunnels and their two ends, each as that end has it configured."""

from __future__ import annotations

from enum import Enum
from typing import Annotated, Any, Final, Literal

from pydantic import AfterValidator, Field, StringConstraints, TypeAdapter, ValidationError
from pydantic_core import PydanticCustomError

from pontifex.core.addressing import Address, AddressError, Prefix, parse_address
from pontifex.core.ipsec.preshared_key import KeyFacts
from pontifex.core.ipsec.proposal import Proposal
from pontifex.core.model.objects import DnsName, Name, ObjectId
from pontifex.core.value import Choice, Value


class Side(Choice):
    """The two ends of a tunnel."""

    LEFT = "left"
    RIGHT = "right"

    @property
    def other(self) -> Side:
        """The far side."""
        return Side.RIGHT if self is Side.LEFT else Side.LEFT


class Role(Enum):
    """What an end does to bring the tunnel up: it calls (and answers too), or it only waits to be called."""

    CALL = "call"
    WAIT = "wait"


class IdentityType(Enum):
    """Types of identification of RFC 7296 section 3.5."""

    IPV4_ADDR = "ipv4-addr"
    IPV6_ADDR = "ipv6-addr"
    FQDN = "fqdn"
    RFC822_ADDR = "rfc822-addr"
    DER_ASN1_DN = "der-asn1-dn"
    KEY_ID = "key-id"


class Identity(Value):
    """What an end says it is, or what it expects the other to be. The value is kept letter by letter, blanks included."""

    type: IdentityType = Field(title="Type", examples=["fqdn"])
    value: Annotated[str, StringConstraints(max_length=255, pattern=r"^[^\x00]*$")] = Field(
        title="Value", examples=["ostvik.skerry.example"]
    )

    def __str__(self) -> str:
        return f"{self.type.value} {self.value}"


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


PeerAddress = Annotated[
    str,
    StringConstraints(strip_whitespace=True, max_length=253),
    AfterValidator(_check_peer_address),
    Field(examples=["198.51.100.10", "ostvik.dyn.example", ANY_PEER]),
]
Lifetime = Annotated[int, Field(ge=60, le=86_400 * 30, examples=[3600])]
Proposals = Annotated[tuple[Proposal, ...], Field(max_length=32)]
Selectors = Annotated[tuple[Prefix, ...], Field(max_length=256)]


class TunnelEnd(Value):
    """One end of a tunnel as it is configured there. A field that is null or empty is not known yet."""

    gateway_id: ObjectId = Field(title="Gateway")
    uplink_id: ObjectId | None = Field(default=None, title="Uplink")
    role: Role | None = Field(default=None, title="Role")
    peer_address: PeerAddress | None = Field(
        default=None, title="Peer address", description="Where this end finds the other: address, DNS name, or 'any'."
    )
    local_identity: Identity | None = Field(default=None, title="Local identity")
    remote_identity: Identity | None = Field(default=None, title="Expected identity")
    key: KeyFacts | None = Field(default=None, title="Pre-shared key")
    ike_proposals: Proposals = Field(default=(), title="IKE proposals", description="In order of preference.")
    child_proposals: Proposals = Field(default=(), title="Child SA proposals", description="In order of preference.")
    local_networks: Selectors = Field(default=(), title="Local networks", description="Traffic selectors of this side.")
    remote_networks: Selectors = Field(default=(), title="Remote networks", description="Traffic selectors of the far side.")
    ike_lifetime_s: Lifetime | None = Field(default=None, title="IKE SA lifetime, s")
    child_lifetime_s: Lifetime | None = Field(default=None, title="Child SA lifetime, s")


class Tunnel(Value):
    """A tunnel between two gateways."""

    id: ObjectId
    name: Name
    technology: Literal["ipsec-ikev2"] = Field(default="ipsec-ikev2", title="Technology")
    left: TunnelEnd = Field(title="Left end")
    right: TunnelEnd = Field(title="Right end")

    def end(self, side: Side) -> TunnelEnd:
        """The end of a side."""
        return self.left if side is Side.LEFT else self.right

    def with_end(self, side: Side, **fields: Any) -> Tunnel:
        """Return the tunnel with some fields of one end replaced by values that are valid already."""
        return self.model_copy(update={side.value: self.end(side).model_copy(update=fields)})
