"""Skerry Line: sites, networks, gateways, uplinks and tunnels."""

from __future__ import annotations

from functools import cache
from typing import Any, Final
from uuid import NAMESPACE_URL, UUID, uuid5

from pontifex.core.addressing import parse_prefix
from pontifex.core.design_file import design_of
from pontifex.core.ipsec.preshared_key import key_facts
from pontifex.core.model import Design

DEMO_ID: Final = "skerry-line"
KEY_SALT: Final = "5ce2b1d94a7f4e0d8c36f1a0927bb845"

# Reference and key of each end; the vault gets the keys, the design only what may be known of them.
DEMO_KEYS: Final = {
    "harbour-ostvik": "mZ2v-Tq8Lw4_rXb7KcNy1sHd6PfGu3Ja9EoBi5Vt0Q",
    "harbour-brenna": "Jw7c_Rk2Xn5-tQz8LvBm4hYd1SgFp6Ua3OeWi9Cr0T",
    "brenna-harbour": "Jw7c_Rk2Xn5-tQz8LvBm4hYd1SgFp6Ua3OeWi9Cr0T ",
    "harbour-aurelia": "Gq4x-Nb9Vd2_wKs7TzLc5jRh8MfPy1Ea6UoXi3Bt0W",
}


def key_reference(name: str) -> UUID:
    """Return the vault reference of a key of the demo."""
    return uuid5(NAMESPACE_URL, f"urn:skerry.example:{name}")


@cache
def demo_design() -> Design:
    """Return the demo as revision 0 of a design."""
    content = {
        "name": "Skerry Line",
        "key_salt": KEY_SALT,
        "supernets": ["10.64.0.0/11", "172.22.0.0/15", "fd5c:9a1e:40::/48"],
        "sites": _SITES,
        "networks": _NETWORKS,
        "gateways": _GATEWAYS,
        "uplinks": _UPLINKS,
        "tunnels": [_ostvik(), _brenna(), _aurelia()],
    }
    return design_of({"format": "pontifex-design-1", "design": content}, DEMO_ID)


def _site(id_: str, name: str, kind: str, place: str) -> dict[str, Any]:
    return {"id": id_, "name": name, "kind": kind, "organisation": "Skerry Line", "place": place}


_SITES: Final = [
    _site("harbour", "Harbour House", "office", "Skerry, quay 1"),
    _site("ostvik", "Ostvik Terminal", "office", "Ostvik, north pier"),
    _site("brenna", "Brenna Terminal", "office", "Brenna, ferry road"),
    _site("aurelia", "MV Aurelia", "vehicle", "at sea"),
    _site("corvina", "MV Corvina", "vehicle", "at sea"),
]


def _network(site: str, name: str, prefix: str, role: str, vlan: int | None, zone: str = "") -> dict[str, Any]:
    block = parse_prefix(prefix)
    first_host = type(block)(block.family, block.network + 1, block.family.bits)
    gateway_address = None if role == "pool" else str(first_host).partition("/")[0]
    return {
        "id": f"{site}-{name.replace(' ', '-')}",
        "site_id": site,
        "name": name,
        "prefix": prefix,
        "role": role,
        "vlan": vlan,
        "gateway_address": gateway_address,
        "zone": zone,
    }


_NETWORKS: Final = [
    _network("harbour", "staff", "10.64.0.0/22", "user", 10),
    _network("harbour", "servers", "10.64.8.0/23", "server", 20),
    _network("harbour", "voice", "10.64.12.0/24", "user", 30),
    _network("harbour", "crew access", "10.64.30.0/25", "pool", None),
    _network("ostvik", "ticketing", "10.65.0.0/24", "user", 10),
    _network("ostvik", "cameras", "10.65.4.0/23", "server", 40),
    _network("brenna", "ticketing", "10.66.0.0/24", "user", 10),
    _network("brenna", "gate controllers", "10.66.1.0/26", "server", 50),
    _network("aurelia", "bridge", "10.70.1.0/27", "user", 10),
    _network("aurelia", "passengers", "172.22.16.0/20", "guest", 90, "Aurelia passengers"),
    _network("corvina", "bridge", "10.70.1.0/27", "user", 10),
    _network("corvina", "passengers", "172.22.16.0/20", "guest", 90, "Corvina passengers"),
]
_GATEWAYS: Final = [
    {"id": "harbour-gateway", "site_id": "harbour", "name": "Harbour firewall pair", "kind": "firewall"},
    {"id": "ostvik-gateway", "site_id": "ostvik", "name": "Ostvik router", "kind": "router"},
    {"id": "brenna-gateway", "site_id": "brenna", "name": "Brenna router", "kind": "router"},
    {"id": "aurelia-gateway", "site_id": "aurelia", "name": "Aurelia router", "kind": "router"},
    {"id": "corvina-gateway", "site_id": "corvina", "name": "Corvina router", "kind": "router"},
]


def _uplink(gateway: str, name: str, kind: str, **fields: Any) -> dict[str, Any]:
    return {
        "id": f"{gateway}-{name.lower().replace(' ', '-')}",
        "gateway_id": f"{gateway}-gateway",
        "name": name,
        "address_kind": kind,
        "inbound_ike": kind != "carrier-nat",
        **fields,
    }


def _rates(down: float, up: float, delay_ms: float | None) -> dict[str, Any]:
    return {"rate_down_mbit_s": down, "rate_up_mbit_s": up, "delay_ms": delay_ms}


_UPLINKS: Final = [
    _uplink("harbour", "fibre", "fixed-public", address="198.51.100.10", **_rates(500, 500, 6)),
    _uplink("harbour", "LTE spare", "carrier-nat", preference=2),
    _uplink("ostvik", "DSL", "changing-public", dns_name="ostvik.dyn.example", **_rates(50, 10, None)),
    _uplink("brenna", "cable", "fixed-public", address="203.0.113.77"),
    _uplink("brenna", "radio link", "behind-nat", inbound_ike=False, preference=2, **_rates(6, 6, 9)),
    _uplink("aurelia", "LTE", "carrier-nat", **_rates(40, 8, 70)),
    _uplink("corvina", "LTE", "carrier-nat", **_rates(40, 8, 70)),
]
_GCM: Final = [
    {"type": "ENCR", "id": 20, "key_length": 256},
    {"type": "PRF", "id": 6},
    {"type": "KE", "id": 20},
]
_CBC: Final = [
    {"type": "ENCR", "id": 12, "key_length": 256},
    {"type": "PRF", "id": 5},
    {"type": "INTEG", "id": 12},
    {"type": "KE", "id": 14},
]
_ESP_GCM: Final = [
    {"type": "ENCR", "id": 20, "key_length": 256},
    {"type": "KE", "id": 20},
    {"type": "ESN", "id": 1},
]
_HARBOUR_NETWORKS: Final = ["10.64.0.0/22", "10.64.8.0/23"]


def _proposals(*lists: list[dict[str, Any]]) -> list[dict[str, Any]]:
    return [{"transforms": transforms} for transforms in lists]


@cache
def _facts(key: str) -> dict[str, Any]:
    facts = key_facts(DEMO_KEYS[key], bytes.fromhex(KEY_SALT), key_reference(key), strength_bits=252)
    return facts.model_dump(mode="json")


def _end(site: str, uplink: str, far: str, key: str, **fields: Any) -> dict[str, Any]:
    return {
        "gateway_id": f"{site}-gateway",
        "uplink_id": f"{site}-{uplink}",
        "local_identity": {"type": "fqdn", "value": f"{site}.skerry.example"},
        "remote_identity": {"type": "fqdn", "value": f"{far}.skerry.example"},
        "key": _facts(key),
        "ike_proposals": _proposals(_GCM, _CBC),
        "child_proposals": _proposals(_ESP_GCM),
        "ike_lifetime_s": 28_800,
        "child_lifetime_s": 3600,
        **fields,
    }


def _ostvik() -> dict[str, Any]:
    """Tunnel 1: sound, the reference. Ostvik accepts only the second of Harbour's proposals beside the first."""
    theirs = ["10.65.0.0/24", "10.65.4.0/23"]
    return {
        "id": "harbour-ostvik",
        "name": "Harbour–Ostvik",
        "left": _end(
            "harbour", "fibre", "ostvik", "harbour-ostvik",
            role="wait", peer_address="ostvik.dyn.example", local_networks=_HARBOUR_NETWORKS, remote_networks=theirs,
        ),
        "right": _end(
            "ostvik", "dsl", "harbour", "harbour-ostvik",
            role="call", peer_address="198.51.100.10", local_networks=theirs, remote_networks=_HARBOUR_NETWORKS,
            ike_proposals=_proposals(_GCM), ike_lifetime_s=14_400,
        ),
    }  # fmt: skip


def _brenna() -> dict[str, Any]:
    """Tunnel 2: the key at Brenna ends with a blank."""
    theirs = ["10.66.0.0/24", "10.66.1.0/26"]
    return {
        "id": "harbour-brenna",
        "name": "Harbour–Brenna",
        "left": _end(
            "harbour", "fibre", "brenna", "harbour-brenna",
            role="call", peer_address="203.0.113.77", local_networks=_HARBOUR_NETWORKS, remote_networks=theirs,
        ),
        "right": _end(
            "brenna", "cable", "harbour", "brenna-harbour",
            role="wait", peer_address="198.51.100.10", local_networks=theirs, remote_networks=_HARBOUR_NETWORKS,
        ),
    }  # fmt: skip


def _aurelia() -> dict[str, Any]:
    """Tunnel 3: both ends wait; the vessel would have to call, since nobody can call it."""
    return {
        "id": "harbour-aurelia",
        "name": "Harbour–Aurelia",
        "left": _end(
            "harbour", "fibre", "aurelia", "harbour-aurelia",
            role="wait", peer_address="any", local_networks=_HARBOUR_NETWORKS, remote_networks=["10.70.1.0/27"],
        ),
        "right": _end(
            "aurelia", "lte", "harbour", "harbour-aurelia",
            role="wait", peer_address="198.51.100.10", local_networks=["10.70.1.0/27"], remote_networks=_HARBOUR_NETWORKS,
        ),
    }  # fmt: skip
