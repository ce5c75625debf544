"""What can be done at an account of a cloud, one thing at a time."""

from __future__ import annotations

from dataclasses import dataclass

from pontifex.core.addressing import Prefix
from pontifex.core.clouds.resources import CloudSubnet, HeldRule


@dataclass(frozen=True, slots=True)
class RequestPeering:
    """Ask another account for a peering."""

    requester: str  # network
    accepter: str
    accepter_account: str


@dataclass(frozen=True, slots=True)
class AnswerPeering:
    """Accept a request, or refuse it."""

    peering: str
    accepted: bool


@dataclass(frozen=True, slots=True)
class RemovePeering:
    """Take a peering down."""

    peering: str


@dataclass(frozen=True, slots=True)
class PutSubnet:
    """Make a subnet, or let it use another table."""

    network: str
    subnet: CloudSubnet


@dataclass(frozen=True, slots=True)
class RemoveSubnet:
    """Remove a subnet."""

    network: str
    subnet: str


@dataclass(frozen=True, slots=True)
class PutRoute:
    """Put a route into a table, in the place of one to the same prefix."""

    network: str
    table: str
    prefix: Prefix
    peering: str | None


@dataclass(frozen=True, slots=True)
class RemoveRoute:
    """Take a route out of a table."""

    network: str
    table: str
    prefix: Prefix


@dataclass(frozen=True, slots=True)
class PutRule:
    """Put a rule, in the place of the one of its id."""

    network: str
    rule: HeldRule


@dataclass(frozen=True, slots=True)
class RemoveRule:
    """Remove a rule."""

    network: str
    rule: str


NetworkChange = PutSubnet | RemoveSubnet | PutRoute | RemoveRoute | PutRule | RemoveRule
CloudChange = RequestPeering | AnswerPeering | RemovePeering | NetworkChange
