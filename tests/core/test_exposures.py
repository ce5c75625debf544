"""What is worth knowing of a tunnel that comes up: identities and networks that are wider or other than they seem."""

from __future__ import annotations

import pytest

from pontifex.core.catalogue import Code, Severity
from pontifex.core.findings import analyse
from pontifex.core.kinds import Side
from pontifex.core.matching import StageState, TunnelEnds, Verdict, compare, forecast
from pontifex.core.model import apply_operations
from pontifex.core.reasons import tunnels
from tests.support.designs import SOUND, TODAY, with_end
from tests.support.ends import both, identity
from tests.support.reasons import is_said
from tests.support.remedies import remedies

LEFT, RIGHT = Side


def test_any_identity_is_an_exposure_and_never_ones_own():
    """An end may expect any identity, at a price; it can't be any itself."""
    design = both({"remote_identity": identity("", "any")}, {})
    rows = compare(TunnelEnds(design, design.tunnel_by_id[SOUND], TODAY))
    assert {row.verdict for row in rows if row.key == "identity-right"} == {Verdict.AGREED}
    assert Code.AUTH_ANY_IDENTITY in {finding.code for finding in analyse(design, TODAY).findings}
    with pytest.raises(ValueError, match="must say one of its own"):
        with_end(LEFT, local_identity=identity("", "any"))


def test_a_network_within_another_is_told():
    """A list that names a network twice over is worth knowing, and the remedy leaves the inner one out."""
    design = both({"remote_networks": ["10.65.0.0/16", "10.65.4.0/23"]}, {"local_networks": ["10.65.0.0/16"]})
    (found,) = [finding for finding in analyse(design, TODAY).findings if finding.code == Code.CHILD_NETWORKS_REDUNDANT]
    after = apply_operations(design, remedies(design, found)[0].operations)
    assert [str(network) for network in after.tunnel_by_id[SOUND].left.remote_networks] == ["10.65.0.0/16"]


def test_a_network_within_the_far_sides_is_advice():
    """A hub's summary over a branch's prefix comes up; what takes precedence is told, and either side may leave it out."""
    hub, branch = ["10.0.0.0/8"], ["10.65.0.0/24"]
    design = both({"local_networks": hub, "remote_networks": branch}, {"local_networks": branch, "remote_networks": hub})
    tunnel = design.tunnel_by_id[SOUND]
    assert forecast(tunnel, compare(TunnelEnds(design, tunnel, TODAY))).state is StageState.HOLDS
    told = [candidate for candidate in analyse(design, TODAY).findings if candidate.code == Code.CHILD_NETWORKS_OVERLAP]
    assert [finding.severity for finding in told] == [Severity.ADVICE, Severity.ADVICE]
    assert is_said(tunnels.NetworksOnBothSides, told[0].why.reason)
    for finding in told:
        for remedy in remedies(design, finding):
            after = apply_operations(design, remedy.operations)
            assert Code.CHILD_NETWORKS_OVERLAP not in {finding.code for finding in analyse(after, TODAY).findings}
            changed = after.tunnel_by_id[SOUND]
            assert forecast(changed, compare(TunnelEnds(after, changed, TODAY))).state is StageState.HOLDS


def test_an_address_as_a_name_is_told():
    """An identity of type FQDN that holds an address works while both ends have it so, and is mended at both."""
    name = identity("203.0.113.77")
    design = both({"remote_identity": name}, {"local_identity": name})
    told = [finding for finding in analyse(design, TODAY).findings if finding.code == Code.END_IDENTITY_ADDRESS_AS_NAME]
    assert len(told) == 2
    after = apply_operations(design, remedies(design, told[0])[0].operations)
    mended = after.tunnel_by_id[SOUND].right.local_identity
    assert mended
    assert mended.type.value == "ipv4-addr"
    assert Code.END_IDENTITY_ADDRESS_AS_NAME not in {finding.code for finding in analyse(after, TODAY).findings}
