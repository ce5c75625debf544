"""What one end of a tunnel with static peer keys is configured with."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import ClassVar

from pontifex.core.addressing import Region


@dataclass(frozen=True, slots=True, kw_only=True)
class PeerKeySettings:
    """One end as its device has it. Times are in seconds; 0 is off."""

    private: bytes = field(repr=False)  # its own key
    expected: bytes  # the public key that it has of the other end
    local_networks: Region
    remote_networks: Region  # that the other end may send from, and that packets go to
    port: int
    redials: bool  # when nobody answers
    keepalive_s: float
    dead_peer_s: ClassVar[float] = 10.0  # what was sent and not answered for so long is called about anew
