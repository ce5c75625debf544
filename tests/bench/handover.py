"""Handing over: a plan that is proved at every step, and many devices held against what is intended."""

from __future__ import annotations

import time

from pontifex.core.handover.plan import change_plan
from pontifex.core.handover.readings import Reading, drift, intended
from pontifex.core.kinds import Side, Tunnel
from pontifex.core.model import apply_operations
from pontifex.demo import demo_design
from tests.bench.figures import median_s, row
from tests.support.designs import TODAY, generated, migrated

_CHANGED = 50
_ESTATE = 1000


def handover() -> list[bool]:
    """Measure what a hand-over costs."""
    design = generated(200)
    proposals = demo_design().tunnel_by_id["harbour-corvina"].left.ike_proposals

    def changed(tunnel: Tunnel) -> Tunnel:
        if not tunnel.id.removeprefix("t").isdigit() or int(tunnel.id[1:]) >= _CHANGED:
            return tunnel
        left = tunnel.with_end(Side.LEFT, ike_proposals=proposals)
        return left.with_end(Side.RIGHT, ike_proposals=proposals)

    after = design.changed(tunnels=tuple(map(changed, design.tunnels)))
    started = time.perf_counter()
    plan = change_plan(design, after, TODAY)
    planned = time.perf_counter() - started
    assert plan.proved
    estate = generated(500)
    readings = {
        gateway.id: Reading.model_validate(
            {
                "gateway_id": gateway.id,
                "taken_at": "2026-11-27T00:00:00Z",
                "source": "bench",
                "running": {setting.path: setting.text for setting in intended(estate, gateway.id)},
            }
        )
        for gateway in estate.gateways
    }
    drifted = median_s(lambda: [drift(estate, gateway.id, readings[gateway.id]) for gateway in estate.gateways], 3)
    begun, changes = migrated(_ESTATE)
    aim = apply_operations(begun, changes)
    started = time.perf_counter()
    migration = change_plan(begun, aim, TODAY)
    migrating = time.perf_counter() - started
    assert migration.proved
    what = f"a plan of {len(plan.steps)} steps for 50 changed tunnels among 200"
    return [
        row(what, f"{planned:.1f} s", "<= 5 s", planned <= 5),
        row(
            f"a migration of {_ESTATE} tunnels in {len(migration.steps)} steps", f"{migrating:.0f} s", "<= 60 s", migrating <= 60
        ),
        row("drift of 500 gateways", f"{drifted:.2f} s", "<= 1 s", drifted <= 1),
    ]
