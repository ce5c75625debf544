"""The standard that is proposed where a design has none."""

from __future__ import annotations

from typing import Final

from pontifex.core.importing.draft import DesignDraft
from pontifex.core.ipsec import Protocol
from pontifex.core.ipsec.reading import read_proposals
from pontifex.core.kinds import Mode, Standard
from pontifex.core.model import Design

# Combined-mode AES and a group of 384 bits: what RFC 8247 asks for, with strength to spare.
_IKE: Final = "AES-GCM-16-256 · PRF SHA2-384 · group 20"
_CHILD: Final = "AES-GCM-16-256 · group 20 · ESN"


def usual_standard(design: Design) -> Standard:
    """Return a standard of current practice, under an id that is free in the design."""
    draft = DesignDraft(design)
    name = draft.free_name(Standard, "", "Standard")
    return Standard(
        id=draft.free_id(Standard, name),
        name=name,
        mode=Mode.POLICY,
        ike_proposals=read_proposals(_IKE, Protocol.IKE).ike,
        child_proposals=read_proposals(_CHILD, Protocol.ESP).child,
        ike_lifetime_s=28_800,
        child_lifetime_s=3600,
        rekey_margin_s=180,
        reauthenticate=False,
        dead_peer_s=30,
    )
