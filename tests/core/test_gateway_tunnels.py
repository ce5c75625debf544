"""Tunnels of one gateway, judged together: each fault is told in the forecasts that it hits, and each remedy mends it."""

from __future__ import annotations

from collections.abc import Callable
from random import Random
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from pontifex.core.catalogue import Code
from pontifex.core.findings import analyse
from pontifex.core.findings.recorded import LOOKUPS, Recorder
from pontifex.core.kinds import KINDS, Side, Tunnel
from pontifex.core.matching import GatewayTunnels, StageState, TunnelEnds, compare
from pontifex.core.model import Design, apply_operations
from pontifex.core.model.design import MADE_OF
from pontifex.demo import demo_design
from tests.support.designs import TODAY
from tests.support.remedies import remedies
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
    told = [candidate for candidate in found.findings if candidate.code == code]
    assert {finding.where[0].id for finding in told} == hit
    assert {forecast.tunnel_id: forecast.state for forecast in found.forecasts}[min(hit)] is state
    for finding in told:
        for remedy in remedies(design, finding):
            after = analyse(apply_operations(design, remedy.operations), TODAY).findings
            assert (finding.code, finding.where[0].id) not in {(finding.code, finding.where[0].id) for finding in after}, (
                remedy.title
            )
    assert all(remedies(design, finding) for finding in told)


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
            if row.key not in {candidate.key for candidate in compare(TunnelEnds(design, tunnel, TODAY))}
        }
        assert further == keys
        assert not [finding for finding in analyse(design, TODAY).findings if finding.code.startswith(("hub.", "port."))]


def test_hubs_are_judged_as_the_standards_have_it():
    """For hubs drawn at random the product tells of each tunnel what the standards' text says, and nothing else."""
    counts, differing = judge(range(150))
    assert not differing, "\n".join(differing[:3])
    assert min(counts.values()) >= 20


def _drawn_state(random: Random) -> Design:
    """A hub as `draw_hub` has it, and on some of its tunnels ports of other technologies, other names, or nobody who calls."""
    design = design_of(draw_hub(random))
    tunnels = []
    for tunnel in design.tunnels:
        kind = random.choice(["as it is", "as it is", "off", "renamed", "renamed", "tls", "peer key", "peer key", "gone"])
        keys = {**random.choice([KEYS, OTHER_KEYS]), "port": random.choice([500, 51_000])}
        hub = {"tls": {**TLS, **ACCEPTED}, "peer key": keys}.get(kind, {})
        branch = {"tls": {**TLS, **ACCOUNT}, "peer key": {**OTHER_KEYS, "port": 500}}.get(kind, {})
        made = Tunnel.model_validate(
            {**tunnel.model_dump(), "left": tunnel.left.model_dump() | hub, "right": tunnel.right.model_dump() | branch}
        )
        if kind == "off":
            made = made.with_end(Side.LEFT, enabled=False)
        tunnels += [made.changed(name=f"Another {random.random()}") if kind == "renamed" else made] if kind != "gone" else []
    return design.changed(tunnels=tuple(tunnels))


def _mixed(random: Random, before: Design, other: Design) -> Design:
    """A state with some of the tunnels and uplinks of another one."""
    theirs, there = other.tunnel_by_id, other.uplink_by_id
    gateways = before.gateway_by_id.keys() & other.gateway_by_id.keys()
    ids = [id_ for id_ in theirs if {theirs[id_].left.gateway_id, theirs[id_].right.gateway_id} <= gateways]
    tunnels = {**before.tunnel_by_id, **{id_: theirs[id_] for id_ in ids if random.random() < 0.4}}
    gone = {id_ for id_ in tunnels if random.random() < 0.1}
    uplinks = tuple(there[uplink.id] if uplink.id in there and random.random() < 0.3 else uplink for uplink in before.uplinks)
    rest = (tunnels[id_] for id_ in sorted(tunnels) if id_ not in gone)
    return before.changed(uplinks=uplinks, tunnels=tuple(_edited(random, tunnel) for tunnel in rest))


def _edited(random: Random, tunnel: Tunnel) -> Tunnel:
    """A tunnel as it is, or with one thing of it changed."""
    ports = {"port": random.choice([500, 51_000])} if tunnel.left.port else {}
    name = {"name": f"Edited {random.random()}"}
    lists = {"ike_proposals": design_of(draw_hub(random)).tunnels[0].left.ike_proposals}
    choices: list[dict[str, Any]] = [{}, {}, name, {"left": tunnel.left.with_valid(ports or lists)}]
    fields = random.choice(choices)
    return tunnel.with_valid(fields) if fields else tunnel


@settings(max_examples=200)
@given(st.integers(0, 1_000_000))
def test_what_tunnels_share_is_taken_over_from_any_state_before(seed):
    """What is made of the states before is what is made from scratch, whatever was asked of them, however they differ."""
    random = Random(seed)
    state = _drawn_state(random)
    known = GatewayTunnels(state)
    for _ in range(4):
        for tunnel in state.tunnels:
            if random.random() < 0.8:
                known.neighbours(tunnel)
        state = _mixed(random, state, _drawn_state(random))
        known, fresh = known.after(state), GatewayTunnels(state)
        unasked = {tunnel.id for tunnel in known.unasked}
        for tunnel in state.tunnels:
            assert known.neighbours(tunnel) == fresh.neighbours(tunnel), tunnel.id in unasked


# of the two tunnels, beside what stands in CASES: another key pair at the very same port
_TWO_KEYS: list[dict[str, Any]] = [
    {"hub": {**KEYS, "port": 51_000}, "branch": OTHER_KEYS},
    {"hub": {**OTHER_KEYS, "port": 51_000}, "branch": KEYS},
]
_ONE_EDIT: dict[str, Callable[[Tunnel], Tunnel | None]] = {
    "renamed": lambda tunnel: tunnel.changed(name="Another"),
    "a lifetime": lambda tunnel: tunnel.with_end(Side.LEFT, ike_lifetime_s=7201),
    "another port": lambda tunnel: tunnel.with_end(Side.LEFT, port=51_001),
    "off": lambda tunnel: tunnel.with_end(Side.RIGHT, enabled=False),
    "gone": lambda _: None,
}


@pytest.mark.parametrize("edit", _ONE_EDIT)
@pytest.mark.parametrize("changes", [*(changes for changes, *_ in CASES.values()), _TWO_KEYS])
def test_whoever_stands_beside_a_changed_tunnel_is_told_of_it_as_it_is_now(changes, edit):
    """Where two tunnels get in each other's way and one is changed, the other one's neighbours are what they are from scratch."""
    design = hub_with(*changes)
    for place, tunnel in enumerate(design.tunnels):
        known = GatewayTunnels(design)
        for candidate in design.tunnels:
            known.neighbours(candidate)
        edited = _ONE_EDIT[edit](tunnel)
        rest = design.tunnels[:place], design.tunnels[place + 1 :]
        state = design.changed(tunnels=(*rest[0], *((edited,) if edited else ()), *rest[1]))
        after, fresh = known.after(state), GatewayTunnels(state)
        for candidate in state.tunnels:
            assert after.neighbours(candidate) == fresh.neighbours(candidate)


def test_what_an_edit_leaves_alone_is_not_worked_out_again():
    """A changed lifetime makes nobody's neighbours unknown but its own."""
    design = demo_design()
    before = GatewayTunnels(design)
    for tunnel in design.tunnels:
        before.neighbours(tunnel)
    edited = design.tunnels[0].with_end(Side.LEFT, ike_lifetime_s=7201)
    assert [tunnel.id for tunnel in before.after(design.with_tunnel(edited)).unasked] == [edited.id]


def test_a_changed_design_knows_the_rest_as_before():
    """Whatever is looked up in it is what a design made from scratch finds, whichever of its lists was changed."""
    design = demo_design()
    for name in (*LOOKUPS, "by_type", "address_space"):
        getattr(design, name)
    for kind in KINDS:
        items = getattr(design, kind.members)
        made = design.with_valid({kind.members: (items[0].changed(name="Another"), *items[1:])} if items else {})
        fresh = Design.model_validate(made.model_dump())
        for name in (*LOOKUPS, "by_type", "address_space"):
            assert getattr(made, name) == getattr(fresh, name), (kind.members, name)
    assert design.changed(supernets=design.supernets[:1]).address_space == design.supernets[:1]


def test_each_lookup_is_made_of_the_lists_that_it_names():
    """What one lookup reads of the design is what is written down for it, or of another lookup."""
    assert MADE_OF.keys() == LOOKUPS | {"address_space", "network_map", "policy"}
    for name, lists in MADE_OF.items():
        recorder = Recorder(demo_design().changed(supernets=()))
        getattr(Design, name).func(recorder.record()[0])
        assert {of for read in recorder.names for of in MADE_OF.get(read, (read,))} == set(lists), name
