"""The standard that is proposed where a design has none."""

from __future__ import annotations

from typing import Final

from pontifex.core.ipsec import Protocol
from pontifex.core.ipsec.reading import read_proposals
from pontifex.core.kinds import Mode, ObjectType, Standard
from pontifex.core.model import Design
from pontifex.core.model.ids import fresh_id

# Combined-mode AES and a group of 384 bits: what RFC 8247 asks for, with strength to spare.
_IKE: Final = "AES-GCM-16-256 · PRF SHA2-384 · group 20"
_CHILD: Final = "AES-GCM-16-256 · group 20 · ESN"


def usual_standard(design: Design) -> Standard:
    """Return a standard of current practice, under an id that is free in the design."""
    return Standard(
        id=fresh_id("standard", design.by_type[ObjectType.STANDARD]),
        name=_free_name(design),
        mode=Mode.POLICY,
        ike_proposals=read_proposals(_IKE, Protocol.IKE).ike,
        child_proposals=read_proposals(_CHILD, Protocol.ESP).child,
        ike_lifetime_s=28_800,
        child_lifetime_s=3600,
        rekey_margin_s=180,
        reauthenticate=False,
        dead_peer_s=30,
    )


def _free_name(design: Design) -> str:
    names = {standard.name for standard in design.standards}
    return next(name for k in range(1, len(names) + 2) if (name := "Standard" if k == 1 else f"Standard {k}") not in names)
