"""The states of a peering between two cloud networks."""

from __future__ import annotations

from datetime import timedelta
from typing import Final

from pontifex.core.choice import Choice

EXPIRES_AFTER: Final = timedelta(days=7)  # a request that nobody answers


class PeeringState(Choice):
    """How far a peering has come: requested → pending → accepted → active → deleting → deleted, or it is over before."""

    REQUESTED = "requested"  # taken on; the other account doesn't see it yet
    PENDING = "pending"  # it waits for the other account's answer
    ACCEPTED = "accepted"  # the cloud is making it
    ACTIVE = "active"
    REJECTED = "rejected"
    EXPIRED = "expired"
    DELETING = "deleting"
    DELETED = "deleted"

    @property
    def is_over(self) -> bool:
        """Whether nothing comes of it any more, so that another one may be requested."""
        return self in _OVER

    @property
    def is_settling(self) -> bool:
        """Whether the cloud brings it on by itself."""
        return self in _SETTLING


_OVER: Final = (PeeringState.REJECTED, PeeringState.EXPIRED, PeeringState.DELETED)
_SETTLING: Final = (PeeringState.REQUESTED, PeeringState.ACCEPTED, PeeringState.DELETING)
