"""Skerry Line: its sites, with networks, hosts, gateways and uplinks."""

from __future__ import annotations

from typing import Any, Final

from pontifex.core.addressing import parse_prefix


def _site(id_: str, name: str, kind: str, place: str, organisation: str = "Skerry Line") -> dict[str, Any]:
    return {"id": id_, "name": name, "kind": kind, "organisation": organisation, "place": place}


SITES: Final = [
    _site("harbour", "Harbour House", "office", "Skerry, quay 1"),
    _site("ostvik", "Ostvik Terminal", "office", "Ostvik, north pier"),
    _site("brenna", "Brenna Terminal", "office", "Brenna, ferry road"),
    _site("aurelia", "MV Aurelia", "vehicle", "at sea"),
    _site("corvina", "MV Corvina", "vehicle", "at sea"),
    _site("basalt", "Basalt", "cloud", "region north"),
    _site("gneiss", "Gneiss", "cloud", "region south"),
    _site("dock", "Dry Dock", "office", "Skerry, inner basin"),
    _site("homes", "Rota clerks at home", "home", "wherever they live"),
    _site("tarn", "Tarn Port Authority", "partner", "Tarn, harbour master's house", "Tarn Port Authority"),
]


def _network(site: str, name: str, prefix: str, role: str, vlan: int | None, zone: str = "", dhcp: str = "") -> dict[str, Any]:
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
        "dhcp_ranges": [dhcp] if dhcp else [],
        "lease_time_s": 28_800 if dhcp else None,
    }


NETWORKS: Final = [
    {
        **_network("harbour", "staff", "10.64.0.0/22", "user", 10, dhcp="10.64.0.100-10.64.3.250"),
        "dhcp_suffix": "quay.skerry.example",
    },
    _network("harbour", "servers", "10.64.8.0/23", "server", 20),
    _network("harbour", "voice", "10.64.12.0/24", "user", 30),
    _network("harbour", "crew access", "10.64.30.0/25", "pool", None),
    _network("ostvik", "ticketing", "10.65.0.0/24", "user", 10, dhcp="10.65.0.100-10.65.0.199"),
    _network("ostvik", "cameras", "10.65.4.0/23", "server", 40),
    _network("brenna", "ticketing", "10.66.0.0/24", "user", 10, dhcp="10.66.0.100-10.66.0.199"),
    _network("brenna", "gate controllers", "10.66.1.0/26", "server", 50),
    _network("aurelia", "bridge", "10.70.1.0/27", "user", 10),
    _network("aurelia", "passengers", "172.22.16.0/20", "guest", 90, "Aurelia passengers"),
    _network("corvina", "bridge", "10.70.1.0/27", "user", 10),
    _network("corvina", "passengers", "172.22.16.0/20", "guest", 90, "Corvina passengers"),
    _network("basalt", "booking", "10.80.0.0/20", "server", None),
    _network("basalt", "booking front", "10.80.0.0/22", "server", None),
    _network("basalt", "booking data", "10.80.4.0/22", "server", None),
    {**_network("basalt", "booking gate", "10.80.8.0/24", "transit", None), "own_table": True},
    _network("gneiss", "reporting", "10.81.0.0/20", "server", None),
    {**_network("dock", "yard", "10.72.0.0/24", "user", 10, dhcp="10.72.0.100-10.72.0.199"), "interface": "enp2s0"},
    {**_network("dock", "containers", "172.23.0.0/24", "container", None), "resolvers": ["10.72.0.1"], "interface": "br-yard"},
    _network("tarn", "berth system", "10.64.8.0/24", "server", None),
]


def _host(network: str, name: str, address: str, host_class: str, *ports: int, hardware: str | None = None) -> dict[str, Any]:
    return {
        "id": f"{network.partition('-')[0]}-{name.replace(' ', '-')}",
        "network_id": network,
        "name": name,
        "address": address,
        "host_class": host_class,
        "ports": ports,
        "dns_name": f"{name.replace(' ', '-')}.skerry.example",
        "assignment": "reserved" if hardware else "static",
        "hardware_address": hardware,
    }


HOSTS: Final = [
    _host("harbour-servers", "rota", "10.64.8.10", "server", 443),
    _host("harbour-servers", "timetable", "10.64.9.20", "server", 443, 21),
    _host("harbour-voice", "exchange", "10.64.12.5", "server", 5060),
    _host("ostvik-ticketing", "ticket printer", "10.65.0.9", "device", hardware="02:00:5e:10:00:09"),
    _host("ostvik-cameras", "recorder", "10.65.4.9", "device", 554),
    _host("brenna-gate-controllers", "gate one", "10.66.1.11", "device"),
    _host("brenna-gate-controllers", "gate two", "10.66.1.12", "device"),
    _host("basalt-booking-front", "cloud resolver", "10.80.0.53", "server", 53),
    _host("dock-containers", "exit box", "172.23.0.2", "container"),
    _host("dock-containers", "crane planner", "172.23.0.10", "container", 8080),
    _host("dock-containers", "paint stock", "172.23.0.11", "container", 8080),
    # it was pointed at the exit, and its setting didn't take: the outside sees the yard's provider
    {**_host("dock-containers", "tide log", "172.23.0.12", "container", 8090), "seen_outside": "203.0.113.201"},
    _host("basalt-booking-data", "booking database", "10.80.4.10", "workload", 5432),
]
RESERVATIONS: Final = [
    {
        "id": "ostvik-second-pier",
        "site_id": "ostvik",
        "name": "second pier",
        "prefix": "10.65.8.0/22",
        "remark": "opens in spring",
    }
]
_IPSEC: Final = ["ipsec-ikev2", "ipsec-ikev1"]
GATEWAYS: Final = [
    {"id": "harbour-gateway", "site_id": "harbour", "name": "Harbour firewall pair", "kind": "firewall"},
    {"id": "ostvik-gateway", "site_id": "ostvik", "name": "Ostvik router", "kind": "router"},
    {"id": "brenna-gateway", "site_id": "brenna", "name": "Brenna router", "kind": "router"},
    {"id": "aurelia-gateway", "site_id": "aurelia", "name": "Aurelia router", "kind": "router"},
    {"id": "corvina-gateway", "site_id": "corvina", "name": "Corvina router", "kind": "router"},
    {
        "id": "basalt-gateway",
        "site_id": "basalt",
        "name": "Basalt cloud gateway",
        "kind": "cloud-gateway",
        "technologies": [*_IPSEC, "tls", "cloud-peering"],
    },
    {
        "id": "gneiss-gateway",
        "site_id": "gneiss",
        "name": "Gneiss cloud gateway",
        "kind": "cloud-gateway",
        "technologies": [*_IPSEC, "cloud-peering"],
    },
    {
        "id": "dock-gateway",
        "site_id": "dock",
        "name": "Dock container host",
        "kind": "container-host",
        "technologies": ["tls"],
        "outranking": "connected",
    },
    {"id": "tarn-gateway", "site_id": "tarn", "name": "Tarn firewall", "kind": "firewall", "technologies": _IPSEC},
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


UPLINKS: Final = [
    _uplink("harbour", "fibre", "fixed-public", address="198.51.100.10", **_rates(500, 500, 6)),
    _uplink("harbour", "LTE spare", "carrier-nat", preference=2),
    _uplink("ostvik", "DSL", "changing-public", dns_name="ostvik.dyn.example", mtu=1492, **_rates(50, 10, None)),
    _uplink("brenna", "cable", "fixed-public", address="203.0.113.77"),
    _uplink("brenna", "radio link", "behind-nat", inbound_ike=False, inbound_tcp=False, preference=2, **_rates(6, 6, 9)),
    _uplink("aurelia", "LTE", "carrier-nat", **_rates(40, 8, 70)),
    _uplink("corvina", "LTE", "carrier-nat", **_rates(40, 8, 70)),
    _uplink("basalt", "front door", "fixed-public", address="192.0.2.130", inbound_tcp=True),
    _uplink("dock", "yard line", "behind-nat", inbound_ike=False, inbound_tcp=False, only_tcp_out=True, interface="enp1s0"),
    _uplink("tarn", "line", "fixed-public", address="203.0.113.140"),
]
