"""Rows that hang on settings alone: tunnels that are set alike share them, and nothing else."""

from __future__ import annotations

from dataclasses import replace
from random import Random

import pytest

from pontifex.core.findings.tunnels import TUNNEL_CHECKS, row_findings
from pontifex.core.kinds import Side, Technology
from pontifex.core.matching import NO_NEIGHBOURS, GatewayTunnels, TunnelEnds, Verdict, alike, compare, forecast, telling_rows
from pontifex.core.matching.row import Judgement
from pontifex.core.matching.rows import REACH, ROWS
from pontifex.core.matching.shared_rows import AlikeTunnels, PairSettings
from pontifex.core.reasons.rekey import FirstRekeyOf
from pontifex.demo import demo_design
from tests.support.designs import SOUND, TODAY, generated
from tests.truth.any_design import draw_design

# what a row of two sound ends asks of them beside their settings: who and where they are, and how they prove it
OWN = {"peer-left", "peer-right", "identity-left", "identity-right", "key", "networks-left", "networks-right", "passing"}


@pytest.mark.parametrize("seed", range(12))
def test_what_is_shared_is_what_each_tunnel_would_be_judged(seed):
    """Whatever the design: a shared judgement is that of the tunnel by itself, and a row that isn't there doesn't apply."""
    design = draw_design(Random(seed), demo_design())
    judged = 0
    for tunnel in design.tunnels:
        ends = TunnelEnds(design, tunnel, TODAY)
        found = AlikeTunnels(PairSettings.of(ends)).judged
        for spec, judgement, this, _ in found.rows:
            if judgement:
                assert spec.applies(ends), (tunnel.id, spec.key)
                assert (_judged(spec.judge(ends), ends), spec.about(ends)) == (_judged(judgement, ends), this), (
                    tunnel.id,
                    spec.key,
                )
                judged += 1
        there = {row.spec.key for row in found.rows}
        specs = ROWS[ends.technology] if ends.technology else REACH
        assert not [spec.key for spec in specs if spec.key not in there and spec.applies(ends)]
    assert judged > 100


def _judged(judgement, ends):
    """Return a judgement with what mends it worked out, since functions can't be compared."""
    return judgement._replace(remedies=tuple(judgement.remedies(ends)) if judgement.remedies else None)


def test_tunnels_that_are_set_alike_are_judged_once():
    """Names, addresses, networks and identities make no difference; a lifetime does."""
    design = generated(2)
    first, second = (TunnelEnds(design, design.tunnel_by_id[id_], TODAY) for id_ in ("t0", "t1"))
    assert alike(first) is alike(second)
    rows = alike(first).judged.rows
    assert {row.spec.key for row in rows if row.judgement is None} == OWN | {"fragmentation"}
    hasty = TunnelEnds(design, first.tunnel.with_end(Side.RIGHT, ike_lifetime_s=600), TODAY)
    (told,) = [row.judgement for row in alike(hasty).judged.rows if row.spec.key == "ike-lifetime"]
    assert told
    assert isinstance(told.reason, FirstRekeyOf)
    names = [telling_rows(ends, NO_NEIGHBOURS, alike(ends))[0].names for ends in (first, second)]
    assert names[0] != names[1]


@pytest.mark.parametrize("seed", range(12))
def test_what_is_left_out_tells_nothing(seed):
    """Whatever the design: the telling rows give the forecast and the findings that all rows give."""
    design, left_out = draw_design(Random(seed), demo_design()), 0
    together = GatewayTunnels.of(design)
    for tunnel in design.tunnels:
        ends, beside = TunnelEnds(design, tunnel, TODAY), together.neighbours(tunnel)
        rows, telling = compare(ends, beside), telling_rows(ends, beside, alike(ends))
        assert forecast(tunnel, telling) == forecast(tunnel, rows)
        assert _told(row_findings(ends, telling)) == _told(row_findings(ends, rows))
        left_out += len(rows) - len(telling)
    assert left_out > 100


@pytest.mark.parametrize("seed", range(12))
def test_a_check_that_is_left_out_would_say_nothing(seed):
    """Whatever the design: a check that says nothing for a tunnel's settings says nothing of the tunnel itself."""
    design, left_out = draw_design(Random(seed), demo_design()), set()
    for tunnel in design.tunnels:
        ends = TunnelEnds(design, tunnel, TODAY)
        for name, check in TUNNEL_CHECKS.items():
            if alike(ends).silence(check):
                assert not tuple(check(ends)), (tunnel.id, name)
                left_out.add(name)
    assert {"algorithms", "certificates", "technology"} <= left_out


def test_a_check_that_asks_for_what_is_a_tunnels_own_looks_at_each():
    """What it reads of the design or of one end's own values may be otherwise for the next tunnel; an error is told there."""
    design = generated(2)
    ends = TunnelEnds(design, design.tunnel_by_id["t0"], TODAY)
    similar = alike(ends)
    asking = {
        "settings": lambda ends: ends.end(Side.LEFT).ike_lifetime_s,
        "policy": lambda ends: ends.policy.least_bits,
        "name": lambda ends: ends.tunnel.name,
        "horizon": lambda ends: ends.design.planning_horizon_days,
        "networks": lambda ends: ends.end(Side.RIGHT).local_networks,
        "error": lambda ends: 1 // 0,
    }
    silenced = {name for name, asks in asking.items() if similar.silence(_asking(asks))}
    assert silenced == {"settings", "policy"}


def _asking(asks):
    def check(ends):
        asks(ends)
        return ()

    return check


def _told(remarks):
    return [(finding, tuple(remedies()) if remedies else None) for finding, remedies in remarks]


def test_a_row_that_asks_for_what_is_a_tunnels_own_is_judged_for_each(monkeypatch):
    """Its name, its place in the design, or a value of one end: such a row is nobody else's."""
    design = generated(2)
    asked = {
        "mode": lambda ends: ends.tunnel.name,
        "compression": lambda ends: ends.names[Side.RIGHT],
        "mobike": lambda ends: str(len(ends.design.networks_of_site(ends.design.site_of(ends.tunnel.right).id))),
        "dead-peer": lambda ends: str(ends.tunnel.right.local_networks[0]),
        "role": lambda ends: ends.gateway(Side.RIGHT).id,
        "keepalive": lambda ends: ends.uplink(Side.RIGHT).name,
    }
    specs = tuple(
        replace(spec, judge=_telling(asked[spec.key])) if spec.key in asked else spec for spec in ROWS[Technology.IPSEC_IKEV2]
    )
    monkeypatch.setitem(ROWS, Technology.IPSEC_IKEV2, specs)
    made: dict[PairSettings, AlikeTunnels] = {}  # not those that were made of the rows as they are
    for id_ in ("t0", "t1", SOUND):
        ends = TunnelEnds(design, design.tunnel_by_id[id_], TODAY)
        similar = made.setdefault(PairSettings.of(ends), AlikeTunnels(PairSettings.of(ends)))
        told = {row.key: row.value for row in telling_rows(ends, NO_NEIGHBOURS, similar)}
        assert {key: told[key] for key in asked if key in told} == {key: tell(ends) for key, tell in asked.items() if key in told}
        assert len(asked.keys() & told.keys()) >= len(asked) - 1
    assert len(made) == 1


def _telling(tell):
    return lambda ends: Judgement(Verdict.NARROWED, FirstRekeyOf(Side.LEFT, 1), value=tell(ends))
