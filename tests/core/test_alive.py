"""Keep-alives against a NAT's patience."""

from __future__ import annotations

import pytest

from pontifex.core.catalogue import Code
from pontifex.core.findings import analyse
from pontifex.core.kinds import Side
from pontifex.core.model import apply_operations
from tests.support.designs import SOUND, TODAY, with_end, with_uplink
from tests.support.remedies import remedies


@pytest.mark.parametrize("patience", [9, 30, 300])
def test_a_remedy_sets_the_seconds_that_its_title_says(patience: int):
    """However soon a NAT forgets, the keep-alive that mends it is the one that is named."""
    hidden = with_uplink("ostvik-dsl", address_kind="behind-nat", address="192.0.2.7", nat_timeout_s=patience)
    hurried = with_end(Side.RIGHT, hidden, keepalive_s=600, dead_peer_s=None)
    finding = next(candidate for candidate in analyse(hurried, TODAY).findings if candidate.code is Code.REACH_KEEPALIVE_TOO_LONG)
    (remedy,) = remedies(hurried, finding)
    mended = apply_operations(hurried, remedy.operations)
    assert remedy.title.endswith(f" every {mended.tunnel_by_id[SOUND].right.keepalive_s} s")
