"""Skerry Line: its cloud networks, of two accounts, and what their rules let through."""

from __future__ import annotations

from typing import Any, Final

BOOKING, REPORTING = "skerry-booking", "skerry-reporting"
CLOUD_NETWORKS: Final = [
    {
        "id": "basalt-network",
        "site_id": "basalt",
        "name": "Basalt network",
        "account": BOOKING,
        "region": "north",
        "blocks": ["10.80.0.0/20"],
    },
    {
        "id": "gneiss-network",
        "site_id": "gneiss",
        "name": "Gneiss network",
        "account": REPORTING,
        "region": "south",
        "blocks": ["10.81.0.0/20"],
    },
]


def _rule(site: str, name: str, level: str, direction: str, network: str, far: str, service: str) -> dict[str, Any]:
    return {
        "id": f"{site}-{name.replace(' ', '-')}",
        "site_id": site,
        "name": name,
        "level": level,
        "direction": direction,
        "members": [{"type": "network", "id": network}],
        "far": [far],
        "services": [service],
    }


# The subnet of Gneiss lets reports be asked for, and forgets the ports that its answers go to.
CLOUD_RULES: Final = [
    _rule("gneiss", "reports asked for", "subnet", "in", "gneiss-reporting", "10.80.0.0/20", "tcp 5432"),
    _rule("gneiss", "updates", "subnet", "out", "gneiss-reporting", "0.0.0.0/0", "tcp 443"),
    _rule("gneiss", "report database", "group", "in", "gneiss-reporting", "10.80.0.0/20", "tcp 5432"),
]
