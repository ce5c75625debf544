"""IKEv1, TLS and static peer keys: what the two ends must agree on, and what they expose."""

from __future__ import annotations

from typing import Any

import pytest

from pontifex.core.catalogue import Code
from pontifex.core.findings import analyse
from pontifex.core.kinds import Side, Tunnel
from pontifex.core.matching import StageState, TunnelEnds, compare, forecast, match, row_remedies
from pontifex.core.model import apply_operations
from pontifex.core.reasons import auth, child, init, outcome, unknown
from pontifex.demo import demo_design
from tests.support.certificates import GATE, ISSUING, ROOT
from tests.support.designs import SOUND, TODAY, with_end, with_uplink
from tests.support.ends import OTHER_KEY
from tests.support.reasons import is_said, like
from tests.support.remedies import remedies

LEFT, RIGHT = Side
CBC_SHA2 = [{"type": "ENCR", "id": 12, "key_length": 256}, {"type": "INTEG", "id": 12}]
PHASE_1 = [{"transforms": [*CBC_SHA2, {"type": "KE", "id": 14}]}]
PHASE_2 = [{"transforms": [*CBC_SHA2, {"type": "KE", "id": 14}]}]
PHASE_2_OTHER_GROUP = [{"transforms": [*CBC_SHA2, {"type": "KE", "id": 5}]}]
PUBLIC = {
    "left": "hSDwCYkwp1R0i33ctD73Wg2/Og0mOBr066SpjqqbTmo=",
    "right": "3p7bfXt9wbTTW2HC7OQ1Nz+DQ8hbeGdNrfx+FG+IK08=",
}  # RFC 7748 6.1


def ikev1(left=None, right=None):
    """The sound tunnel over IKEv1, with fields of either end changed."""
    base: dict[str, Any] = {
        "technology": "ipsec-ikev1", "exchange_mode": "main", "ike_proposals": PHASE_1, "child_proposals": PHASE_2,
        "ike_lifetime_s": 28_800, "child_lifetime_s": 3600,
    }  # fmt: skip
    design = with_uplink("ostvik-dsl", address_kind="fixed-public", address="203.0.113.9")
    return with_end(
        RIGHT, with_end(LEFT, design, **{**base, "peer_address": "203.0.113.9", **(left or {})}), **{**base, **(right or {})}
    )


def tls(left=None, right=None):
    """The sound tunnel over TLS on TCP 443, Harbour waiting, with fields of either end changed."""
    certificates = {"certificates": [GATE.model_dump(), ISSUING.model_dump()], "trust_anchors": [ROOT.model_dump()]}
    base = {
        "technology": "tls",
        "transport": "tcp",
        "port": 443,
        "data_ciphers": ["AES-256-GCM"],
        "digest": "SHA2-256",
        **certificates,
    }
    design = with_uplink("harbour-fibre", with_uplink("ostvik-dsl", only_tcp_out=True), inbound_tcp=True)
    design = with_end(
        LEFT, design, **{**base, "peer_address": "any", "pushed_networks": ["10.64.0.0/22", "10.64.8.0/23"], **(left or {})}
    )
    return with_end(RIGHT, design, **{**base, **(right or {})})


def peer_key(left=None, right=None):
    """The sound tunnel with static peer keys, with fields of either end changed."""
    ends = {}
    for side, other in (("left", "right"), ("right", "left")):
        ends[side] = {
            "technology": "peer-key", "port": 42_420, "key_pair": {"public": PUBLIC[side]}, "peer_public_key": PUBLIC[other],
        }  # fmt: skip
    design = with_end(LEFT, **{**ends["left"], **(left or {})})
    return with_end(RIGHT, design, **{**ends["right"], **(right or {})})


@pytest.mark.parametrize("make", [ikev1, tls, peer_key])
def test_a_sound_tunnel_of_each_technology_comes_up(make):
    """With everything agreed there is no blocker in any technology."""
    design = make()
    tunnel = design.tunnel_by_id[SOUND]
    assert forecast(tunnel, compare(TunnelEnds(design, tunnel, TODAY))).state is StageState.HOLDS


CONTROL = {"control_key": OTHER_KEY.model_dump()}
OTHER_CONTROL = {"control_key": demo_design().tunnel_by_id[SOUND].left.key}
ACCOUNT = {"name": "ostvik", "secret": OTHER_KEY.model_dump()}


@pytest.mark.parametrize(
    ("design", "code", "said"),
    [
        (
            lambda: ikev1(right={"exchange_mode": "aggressive"}),
            Code.IKE1_MODE_DIFFERS,
            like(init.ExchangeModesDiffer, left="main", right="aggressive"),
        ),
        (lambda: ikev1(left={"peer_address": "any"}), Code.IKE1_KEY_BY_ADDRESS, init.KeyByAddress(Side.LEFT)),
        (lambda: ikev1(left={"ike_lifetime_s": 3600}), Code.IKE1_LIFETIME_DIFFERS, init.LifetimeRefused(Side.RIGHT, 28800, 3600)),
        (lambda: ikev1(right={"child_proposals": PHASE_2_OTHER_GROUP}), Code.CHILD_NO_COMMON_PROPOSAL, init.NoProposalCommon),
        (lambda: ikev1(left={"remote_networks": ["10.65.0.0/24"]}), Code.IKE1_NETWORKS_DIFFER, child.NothingNarrowed),
        (
            lambda: tls(right={"transport": "udp"}),
            Code.TLS_TRANSPORT_DIFFERS,
            init.ValuesDiffer("transport", "tcp", Side.LEFT, "udp", Side.RIGHT),
        ),
        (
            lambda: tls(right={"port": 8443}),
            Code.REACH_PORT_DIFFERS,
            init.ValuesDiffer("port", "443", Side.LEFT, "8443", Side.RIGHT),
        ),
        (lambda: tls(right={"data_ciphers": ["AES-128-GCM"]}), Code.TLS_NO_COMMON_CIPHER, init.NoCipherCommon),
        (
            lambda: tls({"data_ciphers": ["AES-256-CBC"]}, {"data_ciphers": ["AES-256-CBC"], "digest": "SHA1"}),
            Code.TLS_DIGEST_DIFFERS,
            like(init.DigestsDiffer, left="SHA2-256", right="SHA1"),
        ),
        (lambda: tls(left=CONTROL), Code.TLS_CONTROL_KEY_ALONE, auth.ControlKeyAlone(Side.LEFT)),
        (
            lambda: tls(CONTROL, OTHER_CONTROL),
            Code.END_KEY_DIFFERS,
            auth.ControlKeysDiffer(auth.DifferInLength(Side.LEFT, 16, Side.RIGHT, 42)),
        ),
        (lambda: tls(right={"compression": True}), Code.TLS_COMPRESSION_DIFFERS, child.ReadsGarbage(Side.RIGHT)),
        (lambda: tls(left={"pushed_networks": ["10.64.0.0/22"]}), Code.TLS_PUSHED_DIFFERS, child.PushedDiffers),
        (
            lambda: tls({"accepted_account": {**ACCOUNT, "kind": "person"}}, {"account": ACCOUNT}),
            Code.ACCOUNT_WRONG_KIND,
            like(auth.AccountOfWrongKind, use="people"),
        ),
        (
            lambda: peer_key(right={"remote_networks": ["10.64.0.0/22"]}),
            Code.LISTS_NETWORKS_NARROWED,
            child.NetworksNarrowed,
        ),
        (
            lambda: tls(left={"remote_networks": ["10.99.0.0/16"]}),
            Code.LISTS_NO_COMMON_NETWORK,
            child.NoNetworkCommon(Side.RIGHT),
        ),
        (lambda: peer_key(right={"peer_public_key": PUBLIC["right"]}), Code.PEER_OWN_KEY, auth.OwnPublicKey(Side.LEFT)),
        (
            lambda: peer_key(right={"peer_public_key": "AQEBAQEBAQEBAQEBAQEBAQEBAQEBAQEBAQEBAQEBAQE="}),
            Code.PEER_KEY_DIFFERS,
            auth.PublicKeysDiffer(Side.LEFT, "AQEBAQEB", "hSDwCYkw"),
        ),
        (
            lambda: peer_key({"peer_public_key": PUBLIC["left"]}, {"key_pair": {"public": PUBLIC["left"]}}),
            Code.PEER_ONE_KEY_PAIR,
            auth.OneKeyPair,
        ),
    ],
)
def test_each_mismatch_is_named(design, code, said):
    """What must agree in a technology is named where it doesn't, and each remedy mends it."""
    made = design()
    rows = compare(TunnelEnds(made, made.tunnel_by_id[SOUND], TODAY))
    row = next((candidate for candidate in rows if candidate.code == code), None)
    assert row, [candidate.code for candidate in rows if candidate.code]
    assert is_said(said, row.reason)
    for remedy in row_remedies(TunnelEnds(made, made.tunnel_by_id[SOUND], TODAY), row):
        after = apply_operations(made, remedy.operations)
        assert code not in {
            candidate.code
            for candidate in compare(TunnelEnds(after, after.tunnel_by_id[SOUND], TODAY))
            if candidate.key == row.key
        }


@pytest.mark.parametrize(
    ("design", "codes"),
    [
        (ikev1, {Code.IKE1_DEPRECATED}),
        (
            lambda: ikev1({"exchange_mode": "aggressive"}, {"exchange_mode": "aggressive"}),
            {Code.IKE1_DEPRECATED, Code.IKE1_AGGRESSIVE_KEY},
        ),
        (
            lambda: tls({"data_ciphers": ["3DES-CBC"], "digest": "MD5", "compression": True}),
            {Code.CRYPTO_WEAK, Code.CRYPTO_MUST_NOT, Code.TLS_COMPRESSION},
        ),
    ],
)
def test_what_a_technology_exposes(design, codes):
    """Old modes, weak ciphers and compression are told, whether the tunnel comes up or not."""
    assert codes <= {finding.code for finding in analyse(design(), TODAY).findings if finding.where[0].id == SOUND}


def test_an_end_behind_a_tcp_only_uplink_calls_over_tls():
    """Where nothing but TCP 443 gets out, TLS over TCP comes through, and over UDP it doesn't."""
    assert Code.REACH_OUTBOUND_BLOCKED not in {finding.code for finding in analyse(tls(), TODAY).findings}
    over_udp = tls({"transport": "udp"}, {"transport": "udp"})
    assert Code.REACH_OUTBOUND_BLOCKED in {finding.code for finding in analyse(over_udp, TODAY).findings}


def test_older_files_name_one_technology_for_the_tunnel():
    """A tunnel of an older file or log, which had one technology, is read as two ends of it."""
    raw = demo_design().tunnel_by_id[SOUND].model_dump(mode="json")
    for side in ("left", "right"):
        del raw[side]["technology"]
    tunnel = Tunnel.model_validate({**raw, "technology": "ipsec-ikev2"})
    assert tunnel == demo_design().tunnel_by_id[SOUND]


def test_transports_that_are_not_known_yet_are_no_stop():
    """After a change to TLS it isn't known what carries it: that is said, and not that it needs UDP."""
    design = tls({"transport": None}, {"transport": None})
    tunnel = design.tunnel_by_id[SOUND]
    foretold = forecast(tunnel, compare(TunnelEnds(design, tunnel, TODAY)))
    assert foretold.state is StageState.UNKNOWN
    assert foretold.sentence.reason == outcome.NotKnownAt("Reach", unknown.TransportNotKnown())


def test_a_hub_that_lets_no_tcp_in_is_opened():
    """Where TCP doesn't arrive at a hub with a fixed address, mending lets it in, and leaves the caller's peer address alone."""
    design = with_uplink("harbour-fibre", tls(), inbound_tcp=False)
    (found,) = _about_reach(design)
    assert found.code == Code.REACH_NOBODY_CAN_CALL
    remedy = remedies(design, found)[0]
    assert remedy.title == "Let TCP 443 from outside arrive at Harbour House"
    after = apply_operations(design, remedy.operations)
    assert after.uplink_by_id["harbour-fibre"].inbound_tcp
    assert after.tunnel_by_id[SOUND] == design.tunnel_by_id[SOUND]
    assert not _about_reach(after)


def _about_reach(design):
    findings = analyse(design, TODAY).findings
    return [finding for finding in findings if finding.code.startswith("reach.") and finding.where[0].id == SOUND]


def test_a_peering_at_a_gateway_that_is_none_of_a_cloud():
    """A router of which nothing is known can do all that is usual for routers, and a cloud peering isn't."""
    design = with_end(RIGHT, with_end(LEFT, technology="cloud-peering"), technology="cloud-peering")
    rows = compare(TunnelEnds(design, design.tunnel_by_id[SOUND], TODAY))
    assert Code.TUNNEL_TECHNOLOGY_LACKING in {row.code for row in rows}


def test_an_agreement_that_is_not_known_is_asked_for():
    """A peering of which one side hasn't said yet whether it agreed has a question for that side."""
    design = demo_design()
    tunnel = design.tunnel_by_id["basalt-gneiss"]
    changed = tunnel.changed(right=tunnel.right.changed(peering_agreed=None))
    asked = match(design, changed, TODAY).questions
    assert "Has your side requested the peering, or accepted our request?" in asked.right
    assert not asked.left
