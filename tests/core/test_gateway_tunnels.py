"""Tunnels of one gateway, judged together: each fault is told in the forecasts that it hits, and each remedy mends it."""

from __future__ import annotations

from random import Random
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from pontifex.core.catalogue import Code
from pontifex.core.findings import analyse
from pontifex.core.findings.recorded import LOOKUPS
from pontifex.core.matching import GatewayTunnels, StageState, TunnelEnds, compare, meets
from pontifex.core.model import apply_operations
from pontifex.demo import demo_design
from tests.support.designs import TODAY
from tests.truth.hubs import design_of, draw_hub, hub_with, judge

PUBLIC = ("hSDwCYkwp1R0i33ctD73Wg2/Og0mOBr066SpjqqbTmo=", "3p7bfXt9wbTTW2HC7OQ1Nz+DQ8hbeGdNrfx+FG+IK08=")
WEAKER = [{"transforms": [{"type": "ENCR", "id": 20, "key_length": 128}, {"type": "PRF", "id": 5}, {"type": "KE", "id": 14}]}]
STRONGER = [{"transforms": [{"type": "ENCR", "id": 20, "key_length": 256}, {"type": "PRF", "id": 5}, {"type": "KE", "id": 19}]}]
ONE_NAME = {"type": "fqdn", "value": "branch.skerry.example"}
SAME_NAME: dict[str, Any] = {"hub": {"remote_identity": ONE_NAME}, "branch": {"local_identity": ONE_NAME}}
TLS: dict[str, Any] = {"technology": "tls", "transport": "tcp", "port": 443, "data_ciphers": ["AES-256-GCM"]}
KEYS: dict[str, Any] = {"technology": "peer-key", "port": 51_000, "key_pair": {"public": PUBLIC[0]}}
OTHER_KEYS = {**KEYS, "key_pair": {"public": PUBLIC[1]}}
ACCOUNT = {"account": {"name": "branch"}}
ACCEPTED = {"accepted_account": {"name": "branch"}}
BEHIND_ONE: dict[str, Any] = {"address_kind": "behind-nat", "address": "203.0.113.9"}
WIDE = ["10.65.0.0/16"]

# changes to the two tunnels, the code, the tunnels that it hits, and the state of their forecasts
CASES: dict[str, tuple[list[dict[str, Any]], str, set[str], StageState]] = {
    "one identity": ([SAME_NAME, SAME_NAME], Code.HUB_IDENTITY_TWICE, {"t0", "t1"}, StageState.FAILS_LATER),
    "one key pair": (
        [{"hub": KEYS, "branch": OTHER_KEYS}] * 2, Code.HUB_KEY_PAIR_TWICE, {"t0", "t1"}, StageState.UNKNOWN,
    ),
    "one account": (
        [{"hub": {**TLS, **ACCEPTED}, "branch": {**TLS, **ACCOUNT}}] * 2, Code.HUB_ACCOUNT_TWICE, {"t0", "t1"},
        StageState.UNKNOWN,
    ),
    "the first that fits": (
        [{"hub": {"ike_proposals": WEAKER}, "branch": {"ike_proposals": WEAKER}},
         {"hub": {"ike_proposals": STRONGER}, "branch": {"ike_proposals": [*STRONGER, *WEAKER]}}],
        Code.HUB_FIRST_THAT_FITS, {"t1"}, StageState.PARTIAL,
    ),
    "one outside address": (
        [{"uplink": BEHIND_ONE, "hub": {"peer_address": "203.0.113.9"}}] * 2, Code.HUB_SAME_NAT, {"t0", "t1"},
        StageState.FAILS_LATER,
    ),
    "networks of two": (
        [{}, {"hub": {"remote_networks": ["10.65.0.0/24"]}, "branch": {"local_networks": ["10.65.0.0/24"]}}],
        Code.HUB_NETWORKS_TWICE, {"t0", "t1"}, StageState.PARTIAL,
    ),
    "two listeners": (
        [{"hub": {**KEYS, "port": 500}, "branch": {**OTHER_KEYS, "port": 500}}, {}], Code.PORT_LISTENER_TWICE, {"t0"},
        StageState.FAILS,
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_what_one_tunnel_alone_does_not_show(name):
    """A fault between two tunnels is told at those that it hits, stands in their forecasts, and goes by any of its remedies."""
    changes, code, hit, state = CASES[name]
    design = hub_with(*changes)
    found = analyse(design, TODAY)
    told = [one for one in found.findings if one.code == code]
    assert {one.where[0].id for one in told} == hit
    assert {one.tunnel_id: one.state for one in found.forecasts}[min(hit)] is state
    for finding in told:
        for remedy in finding.remedies:
            after = analyse(apply_operations(design, remedy.operations), TODAY).findings
            assert (finding.code, finding.where[0].id) not in {(one.code, one.where[0].id) for one in after}, remedy.title
    assert all(one.remedies for one in told)


def test_tunnels_that_have_nothing_in_common_have_no_further_rows():
    """Two branches with names, networks and addresses of their own stand in nobody's way; a narrower network is only told."""
    sound = hub_with({}, {})
    nested = hub_with({"hub": {"remote_networks": WIDE}, "branch": {"local_networks": WIDE}}, {})
    for design, keys in ((sound, set()), (nested, {"networks-shared-left"})):
        together = GatewayTunnels(design)
        further = {
            row.key
            for tunnel in design.tunnels
            for row in compare(TunnelEnds(design, tunnel, TODAY), together.neighbours(tunnel))
            if row.key not in {one.key for one in compare(TunnelEnds(design, tunnel, TODAY))}
        }
        assert further == keys
        assert not [one for one in analyse(design, TODAY).findings if one.code.startswith(("hub.", "port."))]


def test_hubs_are_judged_as_the_standards_have_it():
    """For hubs drawn at random the product tells of each tunnel what the standards' text says, and nothing else."""
    counts, differing = judge(range(150))
    assert not differing, "\n".join(differing[:3])
    assert min(counts.values()) >= 20


@settings(max_examples=100)
@given(st.randoms(use_true_random=False), st.integers(0, 10_000))
def test_a_tunnel_put_in_anothers_place_touches_those_that_it_says(random, seed):
    """What is made of the state before is what is made from scratch; whoever isn't touched has the very neighbours it had."""
    design = design_of(draw_hub(Random(seed)))
    other = design_of(draw_hub(Random(seed + 1)))
    before = GatewayTunnels(design)
    was = random.choice(design.tunnels)
    like = random.choice(other.tunnels)
    proposals = (like.left.ike_proposals, like.right.ike_proposals)
    is_ = was.changed(left=was.left.changed(ike_proposals=proposals[0]), right=was.right.changed(ike_proposals=proposals[1]))
    state = design.with_tunnel(is_)
    assert meets(design, was) == meets(state, is_)
    after, fresh = before.replaced(state, is_), GatewayTunnels(state)
    touched = {is_.id, *before.touched(was, after)}
    for tunnel in state.tunnels:
        assert after.neighbours(tunnel) == fresh.neighbours(tunnel)
        assert tunnel.id in touched or before.neighbours(tunnel) == fresh.neighbours(tunnel)


def test_a_design_with_another_tunnel_knows_the_rest_as_before():
    """Whatever is looked up in it is what a design made from scratch finds."""
    design = demo_design()
    for name in LOOKUPS:
        getattr(design, name)
    tunnel = design.tunnels[0].changed(name="Another")
    made = design.with_tunnel(tunnel)
    fresh = design.changed(tunnels=(tunnel, *design.tunnels[1:]))
    for name in (*LOOKUPS, "by_type", "address_space"):
        assert getattr(made, name) == getattr(fresh, name), name
