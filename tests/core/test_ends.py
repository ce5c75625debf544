"""Two ends of IPsec in full: switches, NAT, identities, proofs, accounts, networks, timers and packet sizes."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from pontifex.core.catalogue import Code, Severity
from pontifex.core.findings import analyse
from pontifex.core.kinds import Side
from pontifex.core.matching import Stage, StageState, TunnelEnds, Verdict, compare, forecast, row_remedies
from pontifex.core.model import Design, apply_operations
from pontifex.core.reasons import auth, child, init, reach, rekey
from pontifex.demo import demo_design
from tests.support.designs import SOUND, TODAY, with_end, with_uplink
from tests.support.ends import OTHER_KEY, both, identity, proposals, with_gateway
from tests.support.reasons import Expected, is_said, like
from tests.support.remedies import remedies

LEFT, RIGHT = Side
SECRET = OTHER_KEY.model_dump()


def _eap(**fields):
    """Ostvik calls and proves itself by EAP; Harbour answers by a certificate of which nothing is known."""
    left = {"local_auth": "certificate", "remote_auth": "eap", "eap_method": "EAP-MSCHAP-V2"}
    right = {"local_auth": "eap", "remote_auth": "certificate", "eap_method": "EAP-MSCHAP-V2"}
    accounts = {"name": "ostvik-gate", "secret": SECRET}
    return both({**left, "accepted_account": {**accounts, **fields.pop("made", {})}}, {**right, "account": accounts, **fields})


GROUP_14 = proposals(("ENCR", 20, 256), ("KE", 14, None), ("ESN", 1, None))
ALL = ["0.0.0.0/0"]

# a design, and what must be said of it: code, stage, reason; severities other than blocker are named
FAULTS: dict[str, tuple[Callable[[], Design], Code, Stage, Expected]] = {
    "service off": (
        lambda: with_gateway("ostvik-gateway", service_on=False),
        Code.REACH_SERVICE_OFF,
        Stage.REACH,
        reach.ServiceOff,
    ),
    "switched off": (
        lambda: with_end(LEFT, enabled=False),
        Code.REACH_SWITCHED_OFF,
        Stage.REACH,
        reach.SwitchedOff((Side.LEFT,)),
    ),
    "no UDP out": (
        lambda: with_uplink("ostvik-dsl", only_tcp_out=True),
        Code.REACH_OUTBOUND_BLOCKED,
        Stage.REACH,
        reach.OnlyTcpOut(Side.RIGHT),
    ),
    "on traffic": (
        lambda: with_end(RIGHT, role="on-traffic"),
        Code.REACH_ONLY_ON_TRAFFIC,
        Stage.REACH,
        reach.OnlyOnTraffic(Side.RIGHT),
    ),
    "NAT forgets": (
        lambda: with_end(
            RIGHT, with_uplink("ostvik-dsl", address_kind="behind-nat", address="192.0.2.7", nat_timeout_s=30), keepalive_s=60
        ),
        Code.REACH_KEEPALIVE_TOO_LONG,
        Stage.REACH,
        reach.NatForgets(Side.RIGHT, reach.SpeaksEvery(30), 30),
    ),
    "ESP doesn't pass": (
        lambda: with_uplink("ostvik-dsl", esp_passes=False),
        Code.REACH_ESP_BLOCKED,
        Stage.TRAFFIC,
        child.EspStopsAtUplink(Side.RIGHT),
    ),
    "no NAT traversal": (
        lambda: with_end(RIGHT, with_uplink("ostvik-dsl", address_kind="behind-nat", address="192.0.2.7"), nat_traversal="off"),
        Code.REACH_NO_NAT_TRAVERSAL,
        Stage.TRAFFIC,
        child.EspStopsAtNat(Side.RIGHT),
    ),
    "gateway lacks it": (
        lambda: with_gateway("ostvik-gateway", technologies=["tls"]),
        Code.TUNNEL_TECHNOLOGY_LACKING,
        Stage.REACH,
        like(reach.TechnologyLacking, technology="ipsec-ikev2"),
    ),
    "technologies": (
        lambda: with_end(RIGHT, technology="tls"),
        Code.TUNNEL_TECHNOLOGY_DIFFERS,
        Stage.REACH,
        like(reach.TechnologiesDiffer, left="ipsec-ikev2", right="tls"),
    ),
    "forgotten identity": (
        lambda: with_end(RIGHT, local_identity=None),
        Code.END_IDENTITY_EMPTY,
        Stage.AUTH,
        auth.SendsNoIdentity(Side.RIGHT),
    ),
    "families outside": (
        lambda: with_end(
            LEFT, with_uplink("ostvik-dsl", address_kind="fixed-public", address="2001:db8::7"), peer_address="2001:db8::7"
        ),
        Code.REACH_FAMILIES_DIFFER,
        Stage.REACH,
        reach.FamiliesDiffer,
    ),
    "nothing can pass": (
        lambda: both(
            {"local_networks": ["10.64.0.0/22 tcp 443"], "remote_networks": ["10.65.0.0/24 udp"]},
            {"local_networks": ["10.65.0.0/24 udp"], "remote_networks": ["10.64.0.0/22 tcp 443"]},
        ),
        Code.CHILD_NOTHING_PASSES,
        Stage.CHILD,
        child.NothingPasses,
    ),
    "bad address": (
        lambda: with_end(RIGHT, local_identity=identity("10.65.0", "ipv4-addr")),
        Code.END_IDENTITY_INVALID,
        Stage.AUTH,
        like(auth.IdentityInvalid, type="ipv4-addr", fault="is no address"),
    ),
    "methods": (
        lambda: with_end(RIGHT, local_auth="certificate"),
        Code.AUTH_METHOD_DIFFERS,
        Stage.AUTH,
        auth.ProofsDiffer,
    ),
    "EAP of the responder": (
        lambda: both({"local_auth": "eap", "remote_auth": "certificate"}, {"remote_auth": "eap", "local_auth": "certificate"}),
        Code.AUTH_EAP_MISPLACED,
        Stage.AUTH,
        auth.OnlyCallersUseEap(Side.LEFT),
    ),
    "EAP methods": (
        lambda: _eap(eap_method="EAP-TLS"),
        Code.AUTH_EAP_METHOD_DIFFERS,
        Stage.AUTH,
        like(auth.EapMethodsDiffer, left="EAP-MSCHAP-V2", right="EAP-TLS"),
    ),
    "account names": (
        lambda: _eap(made={"name": "ostvik"}),
        Code.ACCOUNT_NAME_DIFFERS,
        Stage.AUTH,
        auth.AccountNamesDiffer(Side.RIGHT, "ostvik-gate", "ostvik"),
    ),
    "account disabled": (
        lambda: _eap(made={"enabled": False}),
        Code.ACCOUNT_DISABLED,
        Stage.AUTH,
        auth.AccountDisabled("ostvik-gate", Side.LEFT),
    ),
    "account kind": (
        lambda: _eap(made={"kind": "administration"}),
        Code.ACCOUNT_WRONG_KIND,
        Stage.AUTH,
        like(auth.AccountOfWrongKind, use="administering the device"),
    ),
    "account secrets": (
        lambda: _eap(made={"secret": demo_design().tunnel_by_id["harbour-brenna"].left.key}),
        Code.ACCOUNT_SECRET_DIFFERS,
        Stage.AUTH,
        auth.SecretsDiffer("ostvik-gate", auth.DifferInLength(Side.RIGHT, 16, Side.LEFT, 42)),
    ),
    "too many": (
        lambda: with_gateway("ostvik-gateway", most_selectors=1),
        Code.CHILD_TOO_MANY_NETWORKS,
        Stage.CHILD,
        child.TooManyNetworks(Side.RIGHT, 2, Side.LEFT, 1),
    ),
    "all at one end": (
        lambda: with_end(RIGHT, remote_networks=ALL),
        Code.CHILD_ALL_TRAFFIC_ONE_SIDE,
        Stage.CHILD,
        child.AllTrafficAtOneEnd,
    ),
    "ports": (
        lambda: with_end(RIGHT, local_networks=["10.65.0.0/24 tcp 443", "10.65.4.0/23"]),
        Code.CHILD_NETWORKS_NARROWED,
        Stage.CHILD,
        child.NetworksNarrowed,
    ),
    "v6 alone": (
        lambda: both(
            {"remote_networks": ["10.65.0.0/24", "fd5c:9a1e:40:1::/64"]},
            {"local_networks": ["10.65.0.0/24", "fd5c:9a1e:40:1::/64"]},
        ),
        Code.CHILD_PARTNER_LACKING,
        Stage.CHILD,
        child.PartnerLacking,
    ),
    "inner network": (
        lambda: both({"inner_address": "10.65.0.1/30"}, {"inner_address": "10.65.0.2/30"}),
        Code.ADDRESS_INNER_NETWORK,
        Stage.TRAFFIC,
        like(child.InnerNetworkTakes, site="Ostvik Terminal", network="ticketing"),
    ),
    "inner twice": (
        lambda: both({"inner_address": "10.64.255.1/30"}, {"inner_address": "10.64.255.1/30"}),
        Code.TUNNEL_INNER_ADDRESS_TWICE,
        Stage.TRAFFIC,
        child.InnerAddressTwice,
    ),
    "inner differ": (
        lambda: both({"inner_address": "10.64.255.1/30"}, {"inner_address": "10.64.255.5/30"}),
        Code.TUNNEL_INNER_NETWORKS_DIFFER,
        Stage.TRAFFIC,
        like(child.InnerNetworksDiffer, second="10.64.255.4/30"),
    ),
    "MTU": (
        lambda: with_end(LEFT, inner_mtu=1500),
        Code.MTU_TOO_BIG,
        Stage.TRAFFIC,
        like(child.PacketsTooLarge, unit="packets", most="1438"),
    ),
    "MSS": (
        lambda: with_end(LEFT, tcp_mss=1460),
        Code.MTU_MSS_TOO_BIG,
        Stage.TRAFFIC,
        like(child.PacketsTooLarge, unit="segments", most="1398"),
    ),
    "groups": (
        lambda: with_end(RIGHT, child_proposals=GROUP_14),
        Code.CHILD_GROUP_AT_REKEY,
        Stage.REKEY,
        rekey.RekeyRefused,
    ),
    "margin": (
        lambda: with_end(LEFT, rekey_margin_s=3600),
        Code.REKEY_MARGIN_TOO_LONG,
        Stage.REKEY,
        rekey.MarginTooLong(Side.LEFT, 3600, 3600),
    ),
    "reauthentication": (
        lambda: with_end(LEFT, with_uplink("ostvik-dsl", inbound_ike=False), peer_address="any", reauthenticate=True),
        Code.REKEY_CANNOT_REAUTHENTICATE,
        Stage.REKEY,
        rekey.CannotReauthenticate(rekey.After(28800), rekey.CannotCall(Side.LEFT)),
    ),
    "nobody calls again": (
        lambda: with_end(RIGHT, calls_again=False),
        Code.RESTART_NOBODY_CALLS_AGAIN,
        Stage.RESTART,
        reach.NobodyCallsAgain(Side.RIGHT),
    ),
    "dead peer": (
        lambda: with_end(RIGHT, dead_peer_s=0),
        Code.RESTART_NOT_NOTICED,
        Stage.RESTART,
        reach.RestartNotNoticed(Side.RIGHT),
    ),
}
MENDED_ELSEWHERE = {
    Code.REACH_FAMILIES_DIFFER,
    Code.REACH_OUTBOUND_BLOCKED,
    Code.CHILD_PARTNER_LACKING,
    Code.CHILD_TOO_MANY_NETWORKS,
}  # at a device, or by a plan


@pytest.mark.parametrize("fault", FAULTS)
def test_each_fault_is_named_and_mended(fault):
    """A fault is named at its stage with its cause, and each of its remedies removes it and adds no blocker."""
    make, code, stage, said = FAULTS[fault]
    design = make()
    tunnel = design.tunnel_by_id[SOUND]
    rows = compare(TunnelEnds(design, tunnel, TODAY))
    assert {row.code for row in rows} - {None} == {code}
    row = next(candidate for candidate in rows if candidate.code)
    assert row.stage is stage
    assert is_said(said, row.reason)
    foretold = forecast(tunnel, rows)
    assert row.reason in [reason.reason for stage in foretold.stages for reason in stage.reasons]
    found = analyse(design, TODAY).findings
    before = {candidate.code for candidate in found if candidate.severity is Severity.BLOCKER}
    mended = next(candidate for candidate in found if candidate.code == code)
    assert row.judgement.remedies or code in MENDED_ELSEWHERE
    for remedy in remedies(design, mended):
        after = analyse(apply_operations(design, remedy.operations), TODAY).findings
        assert (mended.code, mended.where) not in {(finding.code, finding.where) for finding in after}
        assert {candidate.code for candidate in after if candidate.severity is Severity.BLOCKER} <= before


def _row(design, key):
    return next(candidate for candidate in compare(TunnelEnds(design, design.tunnel_by_id[SOUND], TODAY)) if candidate.key == key)


@pytest.mark.parametrize(
    ("left", "right", "key", "said"),
    [
        ({"role": "call"}, {"role": "call"}, "role", reach.BothCall),
        ({}, {"local_identity": identity("10.65.0.1", "ipv4-addr")}, "identity-right", auth.IdentitiesDiffer),
        ({"mode": "route"}, {"mode": "policy"}, "mode", child.ModesMeet(Side.LEFT)),
        ({"compression": True}, {}, "compression", child.GoAsTheyAre(Side.LEFT)),
        ({"child_lifetime_s": 1800}, {}, "child-lifetime", rekey.FirstRekeyOf(Side.LEFT, 1620)),
        ({"child_lifetime_mib": 10}, {}, "child-rekey", rekey.Rekeys),
        (
            {"inner_address": "10.64.255.1/30"},
            {"inner_address": "10.64.255.2/30"},
            "inner-address",
            like(child.InnerAddressesAgreed, prefix="10.64.255.0/30"),
        ),
        ({"reauthenticate": True}, {}, "reauthentication", rekey.CallsAnew((Side.LEFT,))),
    ],
)
def test_what_agrees_says_why(left, right, key, said):
    """A row that needs no mending still says what will happen."""
    assert is_said(said, _row(both(left, right), key).reason)


def test_names_that_mean_the_same():
    """Distinguished names and addresses compare by meaning, host names without case where the device that expects them does."""
    names = [identity(text, "der-asn1-dn") for text in ("CN=ostvik, O=Skerry Line", "CN=ostvik,O=Skerry Line")]
    design = both({"remote_identity": names[0]}, {"local_identity": names[1]})
    assert _row(design, "identity-right").verdict is Verdict.AGREED
    design = both({"remote_identity": identity("Ostvik.skerry.example")}, {})
    assert _row(design, "identity-right").code == Code.END_IDENTITY_CASE
    assert _row(with_gateway("ostvik-gateway", design, folds_case=True), "identity-right").code == Code.END_IDENTITY_CASE
    assert _row(with_gateway("harbour-gateway", design, folds_case=True), "identity-right").verdict is Verdict.AGREED


def test_the_smallest_change_is_the_first_remedy():
    """Where one type keeps the nearest pair apart, the first remedy adds just that transform, and the ends meet."""
    theirs = proposals(("ENCR", 20, 256), ("PRF", 6, None), ("KE", 19, None))
    design = with_end(RIGHT, ike_proposals=theirs)
    row = _row(design, "ike-proposals")
    first, second, *_ = row_remedies(TunnelEnds(design, design.tunnel_by_id[SOUND], TODAY), row)
    assert first.title == "Let Ostvik Terminal take group 20 in proposal 1"
    assert second.title == "Let Harbour House take group 19 in proposal 1"
    after = apply_operations(design, first.operations)
    assert [len(proposal.transforms) for proposal in after.tunnel_by_id[SOUND].right.ike_proposals] == [4]


def test_what_is_settled_may_depend_on_the_habit_and_on_who_calls():
    """With two common choices in opposite orders, the outcome under the other habit, and with the other caller, is told."""
    offers = [("ENCR", 20, 256), ("PRF", 6, None), ("KE", 20, None)], [("ENCR", 20, 128), ("PRF", 5, None), ("KE", 19, None)]
    there_and_back = [*proposals(*offers[0]), *proposals(*offers[1])], [*proposals(*offers[1]), *proposals(*offers[0])]
    design = both({"ike_proposals": there_and_back[0], "role": "call"}, {"ike_proposals": there_and_back[1]})
    reason = _row(design, "ike-proposals").reason
    assert isinstance(reason, init.ProposalTaken)
    assert reason.label.startswith("AES-GCM-16-256")
    assert reason.by_own_order
    assert reason.by_own_order.label.startswith("AES-GCM-16-128")
    assert reason.turned
    assert (reason.turned.side, reason.turned.label) == (RIGHT, reason.by_own_order.label)


def test_restart_does_not_decide_whether_a_tunnel_comes_up():
    """What isn't known of a restart leaves the forecast as it is."""
    design = with_end(RIGHT, dead_peer_s=None)
    tunnel = design.tunnel_by_id[SOUND]
    foretold = forecast(tunnel, compare(TunnelEnds(design, tunnel, TODAY)))
    assert foretold.stages[-1].state is StageState.UNKNOWN
    assert foretold.state is StageState.HOLDS
