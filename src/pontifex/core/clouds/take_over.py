"""What clouds hold, taken over into the design: where the design was wrong, and not the cloud."""

from __future__ import annotations

from collections.abc import Iterator

from pontifex.core.clouds.as_read import held_rules
from pontifex.core.clouds.intended import intended_peerings
from pontifex.core.clouds.peering_state import PeeringState
from pontifex.core.clouds.steps import Readings, held_peering
from pontifex.core.kinds import SIDES, CloudNetwork, ObjectType
from pontifex.core.matching import Remedy
from pontifex.core.model import AnyOperation, Design, Remove, put
from pontifex.core.model.ids import free_name


def take_over(design: Design, readings: Readings) -> Iterator[Remedy]:
    """Yield changes to the design: peerings that are active, and rules as the clouds hold them."""
    for peering in intended_peerings(design):
        held = held_peering(peering.networks, readings)
        if not held:
            continue
        active = held.state is PeeringState.ACTIVE
        tunnel = peering.tunnel
        if active and not all(tunnel.end(side).peering_agreed for side in SIDES):
            for side in SIDES:
                tunnel = tunnel.with_end(side, peering_agreed=True)
            yield Remedy(title=f"{tunnel.name} is active: say so in the design", operations=(put(tunnel),))
    for cloud in design.cloud_networks:
        operations = tuple(_rules(design, cloud, readings))
        if operations:
            yield Remedy(title=f"Take the rules of {cloud.name} over as the cloud holds them", operations=operations)


def _rules(design: Design, cloud: CloudNetwork, readings: Readings) -> Iterator[AnyOperation]:
    held = next((network for state in readings.values() for network in state.networks if network.id == cloud.id), None)
    if held is None:
        return
    ours = {cloud_rule.id: cloud_rule for cloud_rule in design.cloud_rules if cloud_rule.site_id == cloud.site_id}
    elsewhere = {cloud_rule.id for cloud_rule in design.cloud_rules} - ours.keys()
    names = {our.name for our in ours.values()}
    theirs = {cloud_rule.id: cloud_rule for cloud_rule in held_rules(design, cloud, held) if cloud_rule.id not in elsewhere}
    for id_, rule in theirs.items():
        known = ours.get(id_)
        if known is None:
            name = free_name(rule.name, names)
            names.add(name)
            yield put(rule.changed(name=name))
        elif rule.changed(name=known.name) != known:
            yield put(rule.changed(name=known.name))
    for id_ in sorted(ours.keys() - {held_rule.id for held_rule in held.rules}):
        yield Remove(type=ObjectType.CLOUD_RULE, id=id_)
