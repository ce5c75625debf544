"""Algorithm policies and the exceptions from them; and analyses that take over what an edit didn't touch."""

from __future__ import annotations

from datetime import date

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from pontifex.core.catalogue import Code
from pontifex.core.findings import AnalysisCache, analyse, analysis_change
from pontifex.core.ipsec.policy import CURRENT_PRACTICE, OLD_PARTNER, STRICT
from pontifex.core.kinds import ObjectType, Side, Tunnel
from pontifex.core.model import DesignSettings, Put, Remove, RenumberNetwork, apply_operations, put
from pontifex.demo import demo_design
from tests.support.designs import SOUND, TODAY, with_end
from tests.support.ends import proposals
from tests.support.remedies import remedies

THREE_DES = {"type": "ENCR", "id": 3, "accepted_by": "Runa Falk"}
OLD = proposals(("ENCR", 3, None), ("PRF", 2, None), ("INTEG", 2, None), ("KE", 2, None))


def under(policy_id, design=None, **fields):
    """The demo under another policy."""
    design = design or demo_design()
    return apply_operations(
        design, [put(DesignSettings.model_validate({**design.settings.model_dump(), "policy_id": policy_id, **fields}))]
    )


def _codes(design, today=TODAY):
    return {finding.code for finding in analyse(design, today).findings if finding.where[0].id == SOUND}


def test_each_policy_judges_differently():
    """What current practice refuses an old partner may have; strict asks for more than current practice does."""
    design = with_end(Side.LEFT, ike_proposals=OLD, child_lifetime_s=14_400)
    assert Code.CRYPTO_WEAK in _codes(design)
    assert not any(code.startswith("crypto.") for code in _codes(under(OLD_PARTNER.id, design)))
    assert {Code.CRYPTO_WEAK, Code.CRYPTO_LIFETIME} <= _codes(under(STRICT.id, design))
    sha2_group_14 = proposals(("ENCR", 12, 256), ("PRF", 5, None), ("INTEG", 12, None), ("KE", 14, None))
    design = with_end(Side.LEFT, ike_proposals=sha2_group_14)
    assert Code.CRYPTO_REFUSED not in _codes(design)
    assert Code.CRYPTO_REFUSED in _codes(under(STRICT.id, design))


def test_strict_wants_forward_secrecy():
    """A Child SA without a group is against the strict policy, and not against current practice."""
    design = with_end(Side.LEFT, child_proposals=proposals(("ENCR", 20, 256), ("ESN", 1, None)))
    assert Code.CRYPTO_REFUSED not in _codes(design)
    assert Code.CRYPTO_REFUSED in _codes(under(STRICT.id, design))


def test_policies_are_data():
    """A policy can name what it permits and refuses all the same; one that isn't there can't be in force."""
    gcm = {"type": "ENCR", "id": 20}
    policy = {**CURRENT_PRACTICE.model_dump(), "id": "own", "name": "Own", "refused": [gcm]}
    design = under("own", policies=[policy])
    assert Code.CRYPTO_REFUSED in _codes(design)
    with pytest.raises(ValueError, match="there is no policy 'lax'; one of current-practice, strict, old-partner"):
        under("lax")


@pytest.mark.parametrize(
    ("today", "code"),
    [
        (date(2026, 11, 23), Code.CRYPTO_EXCEPTED),
        (date(2027, 2, 15), Code.CRYPTO_EXCEPTION_ENDS),
        (date(2027, 3, 31), Code.CRYPTO_EXCEPTION_ENDS),
        (date(2027, 4, 1), Code.CRYPTO_EXCEPTION_EXPIRED),
    ],
)
def test_an_exception_holds_until_its_day(today, code):
    """An exception is told while it holds, warned of within the horizon, and an exposure from the day after."""
    design = with_end(Side.LEFT, ike_proposals=OLD)
    tunnel = Tunnel.model_validate(
        {**design.tunnel_by_id[SOUND].model_dump(), "exceptions": [{**THREE_DES, "until": "2027-03-31"}]}
    )
    found = {
        finding.code: str(finding.why)
        for finding in analyse(apply_operations(design, [put(tunnel)]), today).findings
        if finding.where[0].id == SOUND
    }
    assert "3DES" in found[code]
    assert [candidate for candidate in found if candidate.startswith("crypto.exce")] == [code]
    assert "3DES" not in found[Code.CRYPTO_WEAK]


EDITS = st.lists(
    st.one_of(
        st.tuples(st.sampled_from(["harbour-ostvik", "harbour-brenna", "harbour-tarn"]), st.integers(60, 90_000)),
        st.sampled_from(["renumber", "policy", "gateway", "uplink", "remove", "inner"]),
    ),
    min_size=1,
    max_size=5,
)


def _first_remedies(design, code):
    return remedies(design, next(finding for finding in analyse(design, TODAY).findings if finding.code == code))


def _edited(design, edit):
    if isinstance(edit, tuple):
        if edit[0] not in design.tunnel_by_id:
            return design
        return apply_operations(design, [put(design.tunnel_by_id[edit[0]].with_end(Side.LEFT, child_lifetime_s=edit[1]))])
    if edit == "renumber":
        free = _first_remedies(design, Code.ADDRESS_OVERLAP)
        return apply_operations(design, free[0].operations)
    if edit == "inner":  # takes what the remedy for the sound tunnel's inner network would offer
        free = _first_remedies(design, Code.ADDRESS_INNER_NETWORK)
        (move,) = free[0].operations
        assert isinstance(move, Put)
        assert isinstance(move.object, Tunnel)
        taken = move.object.left.inner_address
        return apply_operations(design, [put(design.tunnel_by_id["harbour-basalt"].with_end(Side.LEFT, inner_address=taken))])
    if edit == "policy":
        return under(STRICT.id, design)
    if edit == "gateway":
        return apply_operations(design, [put(design.gateway_by_id["harbour-gateway"].changed(service_on=False))])
    if edit == "uplink":
        return apply_operations(design, [put(design.uplink_by_id["ostvik-dsl"].changed(mtu=1280))])
    gone = [Remove(type=ObjectType.TUNNEL, id="harbour-aurelia")] if "harbour-aurelia" in design.tunnel_by_id else []
    return apply_operations(design, gone)


def _replayed(before, change):
    """What a client makes of the analysis before and the change."""
    findings = [finding for place, finding in enumerate(before.findings) if place not in change.removed]
    for added in change.added:
        findings.insert(added.place, added.finding)
    forecasts = {foretold.tunnel_id: foretold for foretold in (*before.forecasts, *change.forecasts)}
    return findings, forecasts


@settings(max_examples=40)
@given(EDITS)
def test_what_is_taken_over_is_what_would_be_worked_out(edits):
    """After any edits the analysis from memory is the one from scratch, and the change leads there from the one before."""
    memory, design = (
        AnalysisCache(),
        with_end(Side.LEFT, with_end(Side.RIGHT, inner_address="10.65.0.2/30"), inner_address="10.65.0.1/30"),
    )
    design = with_end(Side.LEFT, design, "harbour-brenna", inner_address="10.64.255.1/30")
    before = analyse(design, TODAY, memory)
    for edit in edits:
        try:
            design = _edited(design, edit)
        except StopIteration:
            continue  # nothing collides any more
        after = analyse(design, TODAY, memory)
        assert after == analyse(design, TODAY)
        findings, forecasts = _replayed(before, analysis_change(before, after))
        assert tuple(findings) == after.findings
        assert tuple(forecasts[forecast.tunnel_id] for forecast in after.forecasts) == after.forecasts
        before = after


def test_renumbering_is_one_operation_that_names_what_it_can_not():
    """A renumbering needs a network and a prefix of its size; two in one change see each other."""
    design = demo_design()
    prefix = design.networks[0].prefix
    with pytest.raises(Exception, match="there is no network 'none' to renumber"):
        apply_operations(design, [RenumberNetwork(id="none", prefix=prefix)])
    with pytest.raises(Exception, match="moves to a prefix of its own size"):
        apply_operations(design, [RenumberNetwork.model_validate({"id": "harbour-staff", "prefix": "10.95.0.0/24"})])
    moves = [
        RenumberNetwork.model_validate({"id": "harbour-staff", "prefix": "10.94.0.0/22"}),
        RenumberNetwork.model_validate({"id": "ostvik-ticketing", "prefix": "10.95.0.0/24"}),
    ]
    tunnel = apply_operations(design, moves).tunnel_by_id[SOUND]
    assert [str(network) for network in tunnel.left.local_networks] == ["10.94.0.0/22", "10.64.8.0/23"]
    assert [str(network) for network in tunnel.right.local_networks] == ["10.95.0.0/24", "10.65.4.0/23"]
