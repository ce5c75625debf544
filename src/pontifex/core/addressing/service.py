"""A service: a protocol and a range of ports at the destination, without addresses."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from pydantic_core import core_schema

from pontifex.core.addressing.address import Family, text_schema
from pontifex.core.addressing.selector import ANY_PORT, ANY_PROTOCOL, Selector, parse_selector

_ANY_TEXT = "any"


@dataclass(frozen=True, slots=True)
class Service:
    """Protocols and ports, each as first and last. Invariant: first <= last."""

    protocols: tuple[int, int] = ANY_PROTOCOL
    ports: tuple[int, int] = ANY_PORT

    def __str__(self) -> str:
        return str(Selector(Family.V4, 0, 0, self.protocols, self.ports)).partition(" ")[2] or _ANY_TEXT

    def __lt__(self, other: Service) -> bool:
        return (self.protocols, self.ports) < (other.protocols, other.ports)

    @property
    def is_any(self) -> bool:
        """Whether neither protocol nor port is limited."""
        return (self.protocols, self.ports) == (ANY_PROTOCOL, ANY_PORT)

    def contains(self, other: Service) -> bool:
        """Whether all of another service is part of this one."""
        return (
            self.protocols[0] <= other.protocols[0]
            and other.protocols[1] <= self.protocols[1]
            and self.ports[0] <= other.ports[0]
            and other.ports[1] <= self.ports[1]
        )

    @classmethod
    def of(cls, selector: Selector) -> Service:
        """Return the service that a selector names."""
        return cls(selector.protocols, selector.ports)

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: Any) -> core_schema.CoreSchema:
        return text_schema(cls, parse_service, "service", ["tcp 443", "udp 5060-5090", "icmp", _ANY_TEXT])


def parse_service(text: str) -> Service:
    """Read "tcp 443", "udp", "port 53" or "any". Raise AddressError naming the wrong part."""
    word = text.strip().lower()
    return Service.of(parse_selector("0.0.0.0/0" if word == _ANY_TEXT else f"0.0.0.0/0 {word}"))
