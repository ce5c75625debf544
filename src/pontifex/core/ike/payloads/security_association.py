"""The Security Association payload: proposals with their transforms (RFC 7296 section 3.3)."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar, Final, Self

from pydantic import ValidationError

from pontifex.core.ike.payloads.payload import MalformedError, PayloadType, at_least
from pontifex.core.ipsec import Proposal, Transform, TransformType

_TYPE_NUMBERS: Final = {  # IANA "Transform Type Values"
    TransformType.ENCR: 1,
    TransformType.PRF: 2,
    TransformType.INTEG: 3,
    TransformType.KE: 4,
    TransformType.ESN: 5,
    **{type_: 5 + int(type_.value[-1]) for type_ in TransformType if type_.is_additional},
}
_TYPES: Final = {number: type_ for type_, number in _TYPE_NUMBERS.items()}
_KEY_LENGTH: Final = 0x8000 | 14  # the attribute in its short form (section 3.3.5)
PROTOCOL_IKE: Final = 1
PROTOCOL_ESP: Final = 3


@dataclass(frozen=True, slots=True)
class OfferedProposal:
    """One proposal as it is sent: its number, protocol and SPI, and the transforms that both ends know.

    `is_known` is False where it holds a type of transform that isn't known here: such a proposal can't be taken (section 3.3.6).
    """

    number: int
    protocol: int
    spi: bytes
    proposal: Proposal
    is_known: bool = True


@dataclass(frozen=True, slots=True)
class SecurityAssociation:
    """What is offered, in order of preference, or the one proposal that was taken."""

    proposals: tuple[OfferedProposal, ...]
    type: ClassVar[int] = PayloadType.SA

    def body(self) -> bytes:
        """Its octets behind the generic header."""
        last = len(self.proposals) - 1
        return b"".join(_written(offered, at == last) for at, offered in enumerate(self.proposals))

    def text(self) -> str:
        """What it says, for a person."""
        return " | ".join(f"{offered.number}: {offered.proposal.label}" for offered in self.proposals)

    @classmethod
    def read(cls, body: bytes) -> Self:
        """Read the body. Raise MalformedError where lengths or counts don't fit."""
        proposals = tuple(_read_proposal(part) for part in _parted(body, 8, "a proposal"))
        if not proposals:
            raise MalformedError("a Security Association payload without a proposal")
        return cls(proposals)


def _written(offered: OfferedProposal, is_last: bool) -> bytes:
    transforms = offered.proposal.transforms
    inside = offered.spi + _transforms_written(transforms)
    head = bytes((0 if is_last else 2, 0)) + (len(inside) + 8).to_bytes(2)
    return head + bytes((offered.number, offered.protocol, len(offered.spi), len(transforms))) + inside


@lru_cache(maxsize=1024)
def _transforms_written(transforms: tuple[Transform, ...]) -> bytes:
    written = bytearray()
    for at, transform in enumerate(transforms):
        attributes = _KEY_LENGTH.to_bytes(2) + transform.key_length.to_bytes(2) if transform.key_length else b""
        written += bytes((3 if at < len(transforms) - 1 else 0, 0)) + (len(attributes) + 8).to_bytes(2)
        written += bytes((_TYPE_NUMBERS[transform.type], 0)) + transform.id.to_bytes(2) + attributes
    return bytes(written)


def _parted(octets: bytes, least: int, what: str) -> Iterator[bytes]:
    """Yield substructures that each say whether another follows, and their length (sections 3.3.1 and 3.3.2)."""
    while octets:
        at_least(octets, least, what)
        length = int.from_bytes(octets[2:4])
        if not least <= length <= len(octets):
            raise MalformedError(f"{what} says {length} octets, where {len(octets)} are left")
        follows = octets[0] != 0
        if follows != (length < len(octets)):
            raise MalformedError(f"{what} is told wrongly to be the last or not the last")
        yield octets[:length]
        octets = octets[length:]


def _read_proposal(octets: bytes) -> OfferedProposal:
    number, protocol, spi_octets, count = octets[4:8]
    at_least(octets, 8 + spi_octets, "a proposal with its SPI")
    parts = tuple(_parted(octets[8 + spi_octets :], 8, "a transform"))
    if len(parts) != count:
        raise MalformedError(f"a proposal says {count} transforms and has {len(parts)}")
    proposal, is_known = _read_transforms(parts)
    return OfferedProposal(number, protocol, octets[8 : 8 + spi_octets], proposal, is_known)


@lru_cache(maxsize=1024)
def _read_transforms(parts: tuple[bytes, ...]) -> tuple[Proposal, bool]:
    """Return the transforms that are known, and whether all types are. Unknown transforms are left out (section 3.3.6)."""
    transforms: list[Transform] = []
    for part in parts:
        type_ = _TYPES.get(part[4])
        if type_ is None:
            return Proposal(transforms=()), False
        try:
            transforms.append(Transform(type=type_, id=int.from_bytes(part[6:8]), key_length=_key_length(part[8:])))
        except ValidationError:
            continue
    return Proposal.from_valid({"transforms": tuple(transforms)}), True


def _key_length(attributes: bytes) -> int | None:
    """Return the key length in bits; None where it isn't said. Raise MalformedError where an attribute is cut off."""
    length: int | None = None
    while attributes:
        at_least(attributes, 4, "an attribute")
        kind, value = int.from_bytes(attributes[:2]), int.from_bytes(attributes[2:4])
        octets = 4 if kind & 0x8000 else 4 + value
        at_least(attributes, octets, "an attribute")
        length = value if kind == _KEY_LENGTH else length
        attributes = attributes[octets:]
    return length
