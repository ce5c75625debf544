"""The Configuration payload (RFC 7296 section 3.15, RFC 8598 section 4)."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum
from typing import ClassVar, Final, Self

from pontifex.core.addressing import Address, Family
from pontifex.core.ike.payloads.payload import MalformedError, PayloadType, at_least

_HEADER_OCTETS: Final = 4  # of an attribute: type and length
_RESERVED: Final = 0x8000


class ConfigurationType(IntEnum):
    """What the payload is for, by IANA's registry "IKEv2 Configuration Payload CFG Types"."""

    REQUEST = 1
    REPLY = 2
    SET = 3
    ACK = 4


class Attribute(IntEnum):
    """What is asked for and handed out, by IANA's registry "IKEv2 Configuration Payload Attribute Types"."""

    INTERNAL_IP4_ADDRESS = 1
    INTERNAL_IP4_DNS = 3
    INTERNAL_IP6_ADDRESS = 8  # followed by the length of its prefix
    INTERNAL_IP6_DNS = 10
    INTERNAL_DNS_DOMAIN = 25


ADDRESS_OF: Final = {Family.V4: Attribute.INTERNAL_IP4_ADDRESS, Family.V6: Attribute.INTERNAL_IP6_ADDRESS}
RESOLVER_OF: Final = {Family.V4: Attribute.INTERNAL_IP4_DNS, Family.V6: Attribute.INTERNAL_IP6_DNS}
_FAMILY_OF: Final[dict[int, Family]] = {
    attribute: family for family in Family for attribute in (ADDRESS_OF[family], RESOLVER_OF[family])
}


@dataclass(frozen=True, slots=True)
class ConfigurationAttribute:
    """One thing that is asked for, without a value, or handed out."""

    type: int
    value: bytes = b""

    @property
    def address(self) -> Address | None:
        """The address that it holds; None where it holds none."""
        family = _FAMILY_OF.get(self.type)
        octets = family.bits // 8 if family else 0
        return Address(family, int.from_bytes(self.value[:octets])) if family and len(self.value) >= octets else None

    def text(self) -> str:
        """What it says, for a person."""
        known = self.type in set(Attribute)
        name = Attribute(self.type).name if known else f"attribute {self.type}"
        if self.type == Attribute.INTERNAL_DNS_DOMAIN:
            said = self.value.decode("ascii", "replace")
        else:
            said = str(self.address) if self.address else self.value.hex()
        return f"{name} {said}" if self.value else name


@dataclass(frozen=True, slots=True)
class Configuration:
    """What a caller wants to be given for its time inside, or what it is given."""

    kind: int
    attributes: tuple[ConfigurationAttribute, ...] = ()
    type: ClassVar[int] = PayloadType.CP

    def body(self) -> bytes:
        """Its octets behind the generic header."""
        written = (
            attribute.type.to_bytes(2) + len(attribute.value).to_bytes(2) + attribute.value for attribute in self.attributes
        )
        return bytes((self.kind, 0, 0, 0)) + b"".join(written)

    def text(self) -> str:
        """What it says, for a person."""
        kind = ConfigurationType(self.kind).name if self.kind in set(ConfigurationType) else f"type {self.kind}"
        return ": ".join(filter(None, (kind, ", ".join(attribute.text() for attribute in self.attributes))))

    @classmethod
    def read(cls, body: bytes) -> Self:
        """Read the body. Raise MalformedError where attributes aren't whole."""
        at_least(body, 4, "a Configuration payload")
        attributes: list[ConfigurationAttribute] = []
        at = 4
        while at < len(body):
            if len(body) - at < _HEADER_OCTETS:
                raise MalformedError("an attribute of a Configuration payload has no whole header")
            type_, length = int.from_bytes(body[at : at + 2]) & ~_RESERVED, int.from_bytes(body[at + 2 : at + 4])
            at += _HEADER_OCTETS
            if length > len(body) - at:
                raise MalformedError(
                    f"an attribute of a Configuration payload says {length} octets, where {len(body) - at} are left"
                )
            attributes.append(ConfigurationAttribute(type_, body[at : at + length]))
            at += length
        return cls(body[0], tuple(attributes))
