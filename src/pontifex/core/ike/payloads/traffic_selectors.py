"""The Traffic Selector payloads of both ends (RFC 7296 section 3.13)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Self

from pontifex.core.addressing import Family, Selector
from pontifex.core.addressing.selector import ANY_PROTOCOL
from pontifex.core.ike.payloads.payload import MalformedError, PayloadType, at_least

_KINDS: Final = {Family.V4: 7, Family.V6: 8}  # IANA "IKEv2 Traffic Selector Types"
_FAMILIES: Final = {number: family for family, number in _KINDS.items()}


@dataclass(frozen=True, slots=True)
class TrafficSelectors:
    """What one side of a Child SA may carry. A selector has one protocol, or all (section 3.13.1)."""

    type: int  # of the initiator's or of the responder's side
    selectors: tuple[Selector, ...]

    def body(self) -> bytes:
        """Its octets behind the generic header."""
        return bytes((len(self.selectors), 0, 0, 0)) + b"".join(map(_written, self.selectors))

    def text(self) -> str:
        """What it says, for a person."""
        return ", ".join(map(str, self.selectors))

    @classmethod
    def read(cls, type_: PayloadType, body: bytes) -> Self:
        """Read the body. Raise MalformedError where a selector is cut off or upside down."""
        at_least(body, 4, "a Traffic Selector payload")
        rest, selectors = body[4:], []
        while rest:
            at_least(rest, 8, "a traffic selector")
            length = int.from_bytes(rest[2:4])
            if not 8 <= length <= len(rest):
                raise MalformedError(f"a traffic selector says {length} octets, where {len(rest)} are left")
            if rest[0] in _FAMILIES:  # others are left out (section 3.13.1)
                selectors.append(_read(_FAMILIES[rest[0]], rest[:length]))
            rest = rest[length:]
            if len(selectors) > body[0]:
                raise MalformedError(f"more traffic selectors than the {body[0]} that are said")
        return cls(type_, tuple(selectors))


def _written(selector: Selector) -> bytes:
    octets = selector.family.bits // 8
    protocol = 0 if selector.protocols == ANY_PROTOCOL else selector.protocols[0]
    head = bytes((_KINDS[selector.family], protocol)) + (8 + 2 * octets).to_bytes(2)
    ports = b"".join(port.to_bytes(2) for port in selector.ports)
    return head + ports + selector.first.to_bytes(octets) + selector.last.to_bytes(octets)


def _read(family: Family, octets: bytes) -> Selector:
    length = family.bits // 8
    if len(octets) != 8 + 2 * length:
        raise MalformedError(f"a traffic selector of {len(octets)} octets, where {8 + 2 * length} are wanted")
    first, last = int.from_bytes(octets[8 : 8 + length]), int.from_bytes(octets[8 + length :])
    ports = int.from_bytes(octets[4:6]), int.from_bytes(octets[6:8])
    if first > last or ports[0] > ports[1]:
        raise MalformedError("a traffic selector whose first value lies behind its last")  # OPAQUE ports aren't rehearsed
    return Selector(family, first, last, (octets[1], octets[1]) if octets[1] else ANY_PROTOCOL, ports)
