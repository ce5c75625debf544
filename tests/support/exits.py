"""The demo with an exit that can be rehearsed."""

from __future__ import annotations

from pontifex.core.addressing import Selector, parse_prefix
from pontifex.core.kinds import Tunnel
from pontifex.core.model import Design, apply_operations, put
from pontifex.demo import demo_design
from tests.support.designs import SOUND

DEMO = demo_design()
_EVERYTHING = (Selector.of(parse_prefix("0.0.0.0/0")),)
_INSIDE = (Selector.of(parse_prefix("172.23.0.0/24")),)


def exit_by_ike(remote: tuple[Selector, ...] = _EVERYTHING) -> Design:
    """The demo with a tunnel of IKEv2 in the place of the exit's."""
    sound, exit_ = DEMO.tunnel_by_id[SOUND], DEMO.tunnel_by_id["dock-exit"]
    near, far = exit_.left, exit_.right
    shared = {"mode": near.mode, "inner_address": None}
    left = sound.left.with_valid(
        {**shared, "gateway_id": near.gateway_id, "uplink_id": near.uplink_id, "peer_address": near.peer_address,
         "role": near.role, "local_networks": _INSIDE, "remote_networks": remote}
    )  # fmt: skip
    right = sound.right.with_valid(
        {**shared, "gateway_id": far.gateway_id, "uplink_id": far.uplink_id, "peer_address": far.peer_address,
         "role": far.role, "local_networks": remote, "remote_networks": _INSIDE}
    )  # fmt: skip
    able = [DEMO.gateway_by_id[end.gateway_id].changed(technologies=()) for end in (near, far)]
    line = DEMO.uplink_by_id["dock-yard-line"].changed(only_tcp_out=False)
    return apply_operations(
        DEMO, [put(line), *map(put, able), put(Tunnel(id="dock-exit", name="Dry Dock exit", left=left, right=right))]
    )
