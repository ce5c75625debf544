"""Skerry Line: routes, rules, and who must reach whom."""

from __future__ import annotations

from typing import Any, Final


def _route(site: str, prefix: str, tunnel: str | None, metric: int = 0, subnet: str | None = None) -> dict[str, Any]:
    where = subnet or site
    plain = prefix.replace(".", "-").replace("/", "-")
    return {
        "id": f"{where}-to-{plain}-{metric}",
        "gateway_id": f"{site}-gateway",
        "prefix": prefix,
        "tunnel_id": tunnel,
        "network_id": subnet,
        "metric": metric,
    }


# The table of Basalt's gate subnet leads to Harbour alone: answers to Brenna's gates are lost.
ROUTES: Final = [
    _route("brenna", "10.80.0.0/20", "brenna-basalt-cable", 10),
    _route("brenna", "10.80.0.0/20", "brenna-basalt-radio", 20),
    _route("basalt", "10.66.0.0/24", "brenna-basalt-cable", 10),
    _route("basalt", "10.66.0.0/24", "brenna-basalt-radio", 20),
    _route("basalt", "10.66.1.0/26", "brenna-basalt-cable", 10),
    _route("basalt", "10.66.1.0/26", "brenna-basalt-radio", 20),
    _route("basalt", "10.64.0.0/16", None, subnet="basalt-booking-gate"),
    _route("basalt", "172.23.0.0/24", "dock-exit"),
    _route("basalt", "10.81.0.0/20", "basalt-gneiss"),
    _route("gneiss", "10.80.0.0/20", "basalt-gneiss"),
]
_RADIO_THEN_CABLE: Final = [
    {"type": "tunnel", "id": "brenna-basalt-radio", "most_delay_ms": 60, "most_jitter_ms": 20, "most_loss_percent": 2},
    {"type": "tunnel", "id": "brenna-basalt-cable"},
]


def _gate_rule(site: str, networks: tuple[str, str]) -> dict[str, Any]:
    """Gates keep to the radio link, which nobody else fills, while it is good enough."""
    return {
        "id": f"{site}-gates-by-radio",
        "gateway_id": f"{site}-gateway",
        "name": "gates by radio",
        "source_members": [{"type": "network", "id": networks[0]}],
        "destination_members": [{"type": "network", "id": networks[1]}],
        "dscp": ["AF41"],
        "paths": _RADIO_THEN_CABLE,
        "on_failure": "hold",
    }


_GATES: Final = ("brenna-gate-controllers", "basalt-booking-gate")
RULES: Final = [
    _gate_rule("brenna", _GATES),
    _gate_rule("basalt", (_GATES[1], _GATES[0])),
    {
        "id": "brenna-terminal-by-cable",
        "gateway_id": "brenna-gateway",
        "name": "terminal by cable",
        "position": 20,
        "sources": ["10.66.0.0/23"],
        "destinations": ["10.80.0.0/20"],
        "paths": [{"type": "tunnel", "id": "brenna-basalt-cable"}, {"type": "tunnel", "id": "brenna-basalt-radio"}],
        "on_failure": "hold",
    },
    {  # when the exit is down, the containers' traffic falls through to the yard's own line
        "id": "dock-containers-exit",
        "gateway_id": "dock-gateway",
        "name": "containers leave by Basalt",
        "source_members": [{"type": "network", "id": "dock-containers"}],
        "paths": [{"type": "tunnel", "id": "dock-exit"}],
        "on_failure": "fall-through",
    },
]


EXITS: Final = [
    {
        "id": "dock-exit-box",
        "gateway_id": "dock-gateway",
        "name": "Dry Dock's exit",
        "host_id": "dock-exit-box",
        "shared_by": [{"type": "host", "id": f"dock-{name}"} for name in ("crane-planner", "paint-stock", "tide-log")],
        "reached_from": ["10.72.0.0/24"],
    }
]


def _intent(name: str, sources: list[str], destinations: list[str], *services: str, **fields: Any) -> dict[str, Any]:
    def members(ids: list[str]) -> list[dict[str, str]]:
        return [{"type": "network", "id": id_} for id_ in ids]

    return {
        "id": name.lower().replace(" ", "-"),
        "name": name,
        "sources": members(sources),
        "destinations": members(destinations),
        "services": services,
        **fields,
    }


INTENTS: Final = [
    _intent("Ticket sales", ["ostvik-ticketing", "brenna-ticketing"], ["harbour-servers"], "tcp 443", rate_mbit_s=4),
    _intent("Cameras", ["harbour-staff"], ["ostvik-cameras"], "tcp 554", rate_mbit_s=6),
    _intent("Booking", ["harbour-staff", "brenna-ticketing"], ["basalt-booking-front"], "tcp 443", rate_mbit_s=3),
    _intent("Gate control", [_GATES[0]], [_GATES[1]], "tcp 8443", both_ways=True, dscp="AF41", rate_mbit_s=1),
    _intent("Vessels", ["aurelia-bridge", "corvina-bridge"], ["harbour-servers"], "tcp 443", rate_mbit_s=1),
    _intent("Berths", ["harbour-staff"], ["tarn-berth-system"], "tcp 443"),
    _intent("Rota", ["harbour-crew-access"], ["harbour-servers"], "tcp 443"),
    _intent("Reports", ["basalt-booking-data"], ["gneiss-reporting"], "tcp 5432", rate_mbit_s=20),
    _intent("Crane plans", ["dock-containers"], ["basalt-booking-front"], "tcp 443", rate_mbit_s=1),
]
