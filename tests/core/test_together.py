"""Tunnels of one gateway, judged together: each fault is told in the forecasts that it hits, and each remedy mends it."""

from __future__ import annotations

from typing import Any

import pytest

from pontifex.core.findings import analyse
from pontifex.core.matching import Pair, StageState, Together, compare
from pontifex.core.model import Design, Gateway, Network, Site, Tunnel, Uplink, apply_operations, put
from pontifex.demo.tunnels import KEY_SALT
from tests.designs import TODAY
from tests.truth.ends import AGREED, end_fields

PUBLIC = ("hSDwCYkwp1R0i33ctD73Wg2/Og0mOBr066SpjqqbTmo=", "3p7bfXt9wbTTW2HC7OQ1Nz+DQ8hbeGdNrfx+FG+IK08=")
WEAKER = [{"transforms": [{"type": "ENCR", "id": 20, "key_length": 128}, {"type": "PRF", "id": 5}, {"type": "KE", "id": 14}]}]
STRONGER = [{"transforms": [{"type": "ENCR", "id": 20, "key_length": 256}, {"type": "PRF", "id": 5}, {"type": "KE", "id": 19}]}]
HUB_ADDRESS = "198.51.100.10"


def _hub(*changes: dict[str, Any]) -> Design:
    """A hub that two branches call, b1 and b2, with changes to their tunnels: fields of the hub's end and of the branch's."""
    objects: list[Any] = [Site(id="hub", name="Hub"), Gateway(id="hub", site_id="hub", name="hub")]
    objects.append(Uplink.model_validate({"id": "hub", "gateway_id": "hub", "name": "line", "address": HUB_ADDRESS}))
    for k, change in enumerate(changes, 1):
        branch, prefix = f"b{k}", f"10.65.{k}.0/24"
        objects += [Site(id=branch, name=f"Branch {k}"), Gateway(id=branch, site_id=branch, name=branch)]
        uplink = {"id": branch, "gateway_id": branch, "name": "line", "address": f"203.0.113.{k}", "inbound_ike": False}
        objects.append(Uplink.model_validate({**uplink, **change.get("uplink", {})}))
        objects.append(Network.model_validate({"id": branch, "site_id": branch, "name": "lan", "prefix": prefix}))
        identity = {"type": "fqdn", "value": f"{branch}.skerry.example"}
        left = {
            **end_fields("hub", AGREED.left), "role": "wait", "peer_address": "any", "remote_identity": identity,
            "remote_networks": [prefix], "mode": "policy",
        }  # fmt: skip
        right = {
            **end_fields(branch, AGREED.right), "peer_address": HUB_ADDRESS, "local_identity": identity,
            "local_networks": [prefix], "mode": "policy",
        }  # fmt: skip
        ends = {"left": {**left, **change.get("hub", {})}, "right": {**right, **change.get("branch", {})}}
        objects.append(Tunnel.model_validate({"id": f"t{k}", "name": f"Hub–Branch {k}", **ends}))
    empty = Design(id="hub", revision=0, name="hub", key_salt=KEY_SALT)
    return apply_operations(empty, [put(one) for one in objects])


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
    "one identity": ([SAME_NAME, SAME_NAME], "hub.identity-twice", {"t1", "t2"}, StageState.FAILS_LATER),
    "one key pair": (
        [{"hub": KEYS, "branch": OTHER_KEYS}] * 2, "hub.key-pair-twice", {"t1", "t2"}, StageState.UNKNOWN,
    ),
    "one account": (
        [{"hub": {**TLS, **ACCEPTED}, "branch": {**TLS, **ACCOUNT}}] * 2, "hub.account-twice", {"t1", "t2"}, StageState.UNKNOWN,
    ),
    "the first that fits": (
        [{"hub": {"ike_proposals": WEAKER}, "branch": {"ike_proposals": WEAKER}},
         {"hub": {"ike_proposals": STRONGER}, "branch": {"ike_proposals": [*STRONGER, *WEAKER]}}],
        "hub.first-that-fits", {"t2"}, StageState.PARTIAL,
    ),
    "one outside address": (
        [{"uplink": BEHIND_ONE, "hub": {"peer_address": "203.0.113.9"}}] * 2, "hub.same-nat", {"t1", "t2"},
        StageState.FAILS_LATER,
    ),
    "networks of two": (
        [{}, {"hub": {"remote_networks": ["10.65.1.0/24"]}, "branch": {"local_networks": ["10.65.1.0/24"]}}],
        "hub.networks-twice", {"t1", "t2"}, StageState.PARTIAL,
    ),
    "two listeners": (
        [{"hub": {**KEYS, "port": 500}, "branch": {**OTHER_KEYS, "port": 500}}, {}], "port.listener-twice", {"t1"},
        StageState.FAILS,
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_what_one_tunnel_alone_does_not_show(name):
    """A fault between two tunnels is told at those that it hits, stands in their forecasts, and goes by any of its remedies."""
    changes, code, hit, state = CASES[name]
    design = _hub(*changes)
    found = analyse(design, TODAY)
    told = [one for one in found.findings if one.code == code]
    assert {one.where[0].id for one in told} == hit
    assert {one.tunnel_id: one.state for one in found.forecasts}[min(hit)] is state
    for finding in told:
        for remedy in finding.remedies:
            after = analyse(apply_operations(design, remedy.operations), TODAY).findings
            assert (finding.code, finding.where[0].id) not in {(one.code, one.where[0].id) for one in after}, remedy.title
    assert [one for one in told if one.remedies] or code == "hub.key-pair-twice"


def test_tunnels_that_have_nothing_in_common_have_no_further_rows():
    """Two branches with names, networks and addresses of their own stand in nobody's way; a narrower network is only told."""
    sound = _hub({}, {})
    nested = _hub({"hub": {"remote_networks": WIDE}, "branch": {"local_networks": WIDE}}, {})
    for design, keys in ((sound, set()), (nested, {"networks-shared-left"})):
        together = Together(design)
        further = {
            row.key
            for tunnel in design.tunnels
            for row in compare(Pair(design, tunnel, TODAY), together)
            if row.key not in {one.key for one in compare(Pair(design, tunnel, TODAY))}
        }
        assert further == keys
        assert not [one for one in analyse(design, TODAY).findings if one.code.startswith(("hub.", "port."))]
