"""Designs to be rehearsed that more than one test takes."""

from __future__ import annotations

from typing import Any

from pontifex.core.kinds import AuthMethod
from pontifex.core.model import Design
from tests.support.certificates import GATE, ISSUING, ROOT
from tests.truth.ends import AGREED, design_of


def certified(**right: Any) -> Design:
    """Return a tunnel whose left end proves itself by a certificate."""
    design = design_of(AGREED)
    tunnel = design.tunnels[0]
    identity = tunnel.left.local_identity
    assert identity
    named = identity.changed(value="ostvik.skerry.example")
    left = tunnel.left.changed(local_auth=AuthMethod.CERTIFICATE, certificates=(GATE, ISSUING), local_identity=named)
    far = tunnel.right.changed(remote_auth=AuthMethod.CERTIFICATE, trust_anchors=(ROOT,), remote_identity=named)
    return design.changed(tunnels=(tunnel.changed(left=left, right=far.with_valid(right)),))
