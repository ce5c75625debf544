"""The trace and the plan against the kernel: random designs as Linux machines, with real packets there and back."""

from __future__ import annotations

import pytest

from tests.truth.worlds import WAYS, judge

SEEDS = (*range(5), 51)  # in the last one a rule for all traffic marks both families


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.usefixtures("namespaces")
def test_packets_go_where_the_trace_says(way):
    """By the product's plan and by commands of another making: no plan stops, and each request and answer goes as foretold."""
    counts, differing = judge(SEEDS, [way])
    assert not differing, "\n".join(str(case) for case in differing[:3])
    assert min(counts["answered"], counts["arrives or leaves"]) >= 20  # the draw isn't idle
