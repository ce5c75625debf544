"""Random pairs of ends of a tunnel over TLS, drawn near to agreeing."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from random import Random
from typing import Any, Final

from pontifex.core.ipsec.preshared_key import key_facts
from pontifex.core.kinds import Gateway, Site, Tunnel, Uplink
from pontifex.core.model import Design, apply_operations, put
from pontifex.demo.tunnels import KEY_SALT, key_reference
from tests.support.certificates import ISSUING, KEYS, OTHER_ROOT, ROOT, issue

_SIDES: Final = ("left", "right")
_OWN: Final = {side: issue(side, "Skerry Issuing", KEYS["gate"], KEYS["issuing"]) for side in _SIDES}
_LATE: Final = issue("late", "Skerry Issuing", KEYS["gate"], KEYS["issuing"], days=-1)
_EARLY: Final = issue("early", "Skerry Issuing", KEYS["gate"], KEYS["issuing"], start=10)
_OLD_ISSUING: Final = issue("Skerry Issuing", "Skerry Root", KEYS["issuing"], KEYS["root"], authority=True, days=-2)
_FOREIGN: Final = issue("foreign", "Tarn Root", KEYS["gate"], KEYS["other"])
_ADDRESSES: Final = {"left": "198.51.100.10", "right": "203.0.113.5"}
_NETWORKS: Final = {"left": ["10.64.0.0/22"], "right": ["10.65.0.0/24"]}
_CIPHERS: Final = ("AES-256-GCM", "AES-128-GCM", "ChaCha20-Poly1305", "AES-256-CBC", "3DES-CBC", "NULL")
_DIGESTS: Final = ("SHA2-256", "SHA1", "MD5", "SHA2-512")


def pem(*certificates: Any) -> list[dict[str, str]]:
    """Certificates as a design holds them."""
    return [{"pem": certificate.pem} for certificate in certificates]


@cache
def _facts(text: str) -> dict[str, Any]:
    return key_facts(text, bytes.fromhex(KEY_SALT), key_reference(text)).model_dump(mode="json")


def _agreed(side: str, far: str) -> dict[str, Any]:
    return {
        "gateway_id": side,
        "uplink_id": side,
        "technology": "tls",
        "transport": "tcp",
        "port": 443,
        "role": "call" if side == "left" else "wait",
        "peer_address": _ADDRESSES[far] if side == "left" else "any",
        "local_auth": "certificate",
        "remote_auth": "certificate",
        "certificates": pem(_OWN[side], ISSUING),
        "trust_anchors": pem(ROOT),
        "data_ciphers": ["AES-256-GCM"],
        "local_networks": _NETWORKS[side],
        "remote_networks": _NETWORKS[far],
        "mode": "policy",
        "keepalive_s": 20,
        "dead_peer_s": 60,
        "renegotiation_s": 3600,
    }


def account(random: Random) -> dict[str, Any]:
    """Draw an account that is mostly the same one."""
    return {"name": random.choice(["branch", "branch", "other"]), "secret": _facts(random.choice(["one secret", "another one"]))}


_Draw = Callable[[Random], dict[str, Any]]
# what one end, or its uplink, may have otherwise
_END: Final[tuple[_Draw, ...]] = (
    lambda random: {"data_ciphers": random.sample(_CIPHERS, random.randint(1, 3)), "digest": random.choice(_DIGESTS)},
    lambda random: {"digest": random.choice(_DIGESTS)},
    lambda random: {"control_key": _facts(random.choice(["control one", "control two"]))},
    lambda _: {"certificates": pem(_LATE, ISSUING)},
    lambda _: {"certificates": pem(_EARLY, ISSUING)},
    lambda _: {"certificates": pem(_FOREIGN)},
    lambda _: {"certificates": pem(_OWN["left"], _OLD_ISSUING)},
    lambda random: {"trust_anchors": pem(*random.sample([ROOT, OTHER_ROOT, ISSUING], 2))},
    lambda random: {"trust_anchors": pem(random.choice([OTHER_ROOT, ISSUING]))},
    lambda random: {"local_networks": [random.choice(["10.64.0.0/24", "10.65.0.0/25", "10.64.0.0/16", "10.66.0.0/24"])]},
    lambda random: {"remote_networks": [random.choice(["10.64.0.0/24", "10.65.0.0/25", "10.64.0.0/16", "0.0.0.0/0"])]},
    lambda random: {"inner_address": random.choice(["10.95.0.1/30", "10.95.0.2/30", "10.95.0.9/30"])},
    lambda random: {"compression": random.random() < 0.5},
    lambda random: {"port": random.choice([443, 8443])},
    lambda random: {"transport": random.choice(["udp", "tcp"])},
    lambda random: {"role": random.choice(["call", "wait", "on-traffic"])},
    lambda random: {"peer_address": random.choice(["any", *_ADDRESSES.values(), "198.51.100.77"])},
    lambda random: {"dead_peer_s": random.choice([0, 30]), "keepalive_s": random.choice([0, 10, 300])},
    lambda random: {"renegotiation_s": random.choice([None, 60, 7200])},
    lambda _: {"enabled": False},
)
_UPLINK: Final[tuple[_Draw, ...]] = (
    lambda random: {"inbound_tcp": random.random() < 0.3, "inbound_ike": random.random() < 0.5},
    lambda _: {"only_tcp_out": True},
    lambda random: {"address_kind": random.choice(["behind-nat", "carrier-nat", "changing-public"])},
    lambda random: {"mtu": random.choice([1280, 1400])},
)
# what both ends may have otherwise, so that it is compared at all
_BOTH: Final[tuple[_Draw, ...]] = (
    lambda _: {"control_key": _facts("control one")},
    lambda _: {"transport": "udp", "port": 8443},
    lambda random: {"data_ciphers": [random.choice(_CIPHERS)], "digest": "SHA2-256"},
    lambda _: {"compression": True},
)


def draw_design(random: Random) -> Design:
    """Draw a design with one tunnel over TLS whose ends agree but for a few things."""
    ends = {side: _agreed(side, far) for side, far in zip(_SIDES, _SIDES[::-1], strict=True)}
    for both in random.sample(_BOTH, random.choice([0, 0, 1, 2])):
        fields = both(random)
        for end in ends.values():
            end.update(fields)
    if random.random() < 0.3:
        kind = random.choice(["tunnel", "tunnel", "person"])
        ends["left"]["account"] = account(random)
        ends["right"]["accepted_account"] = {**account(random), "kind": kind, "enabled": random.random() < 0.9}
    for draw in random.sample(_END, random.choice([0, 1, 1, 2])):
        ends[random.choice(_SIDES)].update(draw(random))
    objects: list[Any] = []
    for side in _SIDES:
        uplink = {"id": side, "gateway_id": side, "name": "line", "address": _ADDRESSES[side]}
        if random.random() < 0.25:
            uplink |= random.choice(_UPLINK)(random)
        objects += [Site(id=side, name=side), Gateway(id=side, site_id=side, name=side), Uplink.model_validate(uplink)]
    objects.append(Tunnel.model_validate({"id": "t", "name": "t", **ends}))
    empty = Design(id="tls", revision=0, name="TLS", key_salt=KEY_SALT)
    return apply_operations(empty, [put(item) for item in objects])
