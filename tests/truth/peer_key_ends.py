"""Random pairs of ends of a tunnel with static peer keys, drawn near to agreeing."""

from __future__ import annotations

import base64
from collections.abc import Callable
from random import Random
from typing import Any, Final

from pontifex.core.kinds import Gateway, Site, Tunnel, Uplink
from pontifex.core.model import Design, apply_operations, put
from pontifex.demo.tunnels import KEY_SALT

_SIDES: Final = ("left", "right")
_KEYS: Final = {name: base64.b64encode(name.encode().ljust(32, b".")).decode() for name in ("left", "right", "other")}
_ADDRESSES: Final = {"left": "198.51.100.10", "right": "203.0.113.5"}
_NETWORKS: Final = {"left": ["10.64.0.0/22"], "right": ["10.65.0.0/24"]}
_PORTS: Final = (4242, 7000)


def _agreed(side: str, far: str) -> dict[str, Any]:
    return {
        "gateway_id": side,
        "uplink_id": side,
        "technology": "peer-key",
        "port": _PORTS[0],
        "role": "call" if side == "left" else "wait",
        "peer_address": _ADDRESSES[far] if side == "left" else "any",
        "key_pair": {"public": _KEYS[side]},
        "peer_public_key": _KEYS[far],
        "local_networks": _NETWORKS[side],
        "remote_networks": _NETWORKS[far],
        "keepalive_s": 20,
    }


_Draw = Callable[[Random], dict[str, Any]]
# what one end, or its uplink, may have otherwise
_END: Final[tuple[_Draw, ...]] = (
    lambda random: {"peer_public_key": random.choice(list(_KEYS.values()))},
    lambda random: {"key_pair": {"public": random.choice(list(_KEYS.values()))}},
    lambda random: {"local_networks": [random.choice(["10.64.0.0/24", "10.65.0.0/25", "10.64.0.0/16", "10.66.0.0/24"])]},
    lambda random: {"remote_networks": [random.choice(["10.64.0.0/24", "10.65.0.0/25", "10.64.0.0/16", "0.0.0.0/0"])]},
    lambda random: {"remote_networks": random.choice([["10.65.0.0/24", "10.66.0.0/24"], ["10.65.0.0/25", "2001:db8:65::/48"]])},
    lambda random: {"inner_address": random.choice(["10.95.0.1/30", "10.95.0.2/30", "10.95.0.9/30"])},
    lambda random: {"port": random.choice(_PORTS)},
    lambda random: {"role": random.choice(["call", "wait", "on-traffic"])},
    lambda random: {"peer_address": random.choice(["any", *_ADDRESSES.values(), "198.51.100.77"])},
    lambda random: {"keepalive_s": random.choice([0, 10, 300])},
    lambda random: {"starts_at_boot": random.random() < 0.5},
    lambda _: {"enabled": False},
)
_UPLINK: Final[tuple[_Draw, ...]] = (
    lambda random: {"inbound_ike": random.random() < 0.5},
    lambda _: {"only_tcp_out": True},
    lambda random: {"address_kind": random.choice(["behind-nat", "carrier-nat", "changing-public"])},
    lambda random: {"mtu": random.choice([1280, 1400])},
)


def agreed_design() -> Design:
    """Return a design with one tunnel with static peer keys whose ends agree."""
    return _design({side: _agreed(side, far) for side, far in zip(_SIDES, _SIDES[::-1], strict=True)}, {})


def draw_design(random: Random) -> Design:
    """Draw the same with ends that agree but for a few things."""
    ends = {side: _agreed(side, far) for side, far in zip(_SIDES, _SIDES[::-1], strict=True)}
    if random.random() < 0.3:  # so that they are compared at all
        for side, host in zip(_SIDES, (1, 2), strict=True):
            ends[side]["inner_address"] = f"10.95.0.{host}/30"
    for draw in random.sample(_END, random.choice([0, 1, 1, 2])):
        ends[random.choice(_SIDES)].update(draw(random))
    uplinks = {side: random.choice(_UPLINK)(random) for side in _SIDES if random.random() < 0.25}
    return _design(ends, uplinks)


def _design(ends: dict[str, dict[str, Any]], uplinks: dict[str, dict[str, Any]]) -> Design:
    objects: list[Any] = []
    for side in _SIDES:
        uplink = {"id": side, "gateway_id": side, "name": "line", "address": _ADDRESSES[side], **uplinks.get(side, {})}
        objects += [Site(id=side, name=side), Gateway(id=side, site_id=side, name=side), Uplink.model_validate(uplink)]
    objects.append(Tunnel.model_validate({"id": "t", "name": "t", **ends}))
    empty = Design(id="peers", revision=0, name="Peers", key_salt=KEY_SALT)
    return apply_operations(empty, [put(item) for item in objects])
