"""Skerry Line as a design."""

from __future__ import annotations

from functools import cache
from typing import Final

from pontifex.core.design_file import FORMAT, design_of
from pontifex.core.model import Design
from pontifex.demo.clouds import CLOUD_NETWORKS, CLOUD_RULES
from pontifex.demo.paths import EXITS, INTENTS, ROUTES, RULES
from pontifex.demo.people import PLATFORMS, PROFILES
from pontifex.demo.places import GATEWAYS, HOSTS, NETWORKS, RESERVATIONS, SITES, UPLINKS
from pontifex.demo.tunnels import KEY_SALT, tunnels

DEMO_ID: Final = "skerry-line"


@cache
def demo_design() -> Design:
    """Return the demo as revision 0 of a design."""
    content = {
        "name": "Skerry Line",
        "key_salt": KEY_SALT,
        "supernets": ["10.64.0.0/11", "172.22.0.0/15", "fd5c:9a1e:40::/48"],
        "sites": SITES,
        "networks": NETWORKS,
        "gateways": GATEWAYS,
        "uplinks": UPLINKS,
        "tunnels": tunnels(),
        "hosts": HOSTS,
        "prefix_reservations": RESERVATIONS,
        "routes": ROUTES,
        "rules": RULES,
        "exits": EXITS,
        "cloud_networks": CLOUD_NETWORKS,
        "cloud_rules": CLOUD_RULES,
        "intents": INTENTS,
        "platforms": PLATFORMS,
        "profiles": PROFILES,
    }
    return design_of({"format": FORMAT, "design": content}, DEMO_ID)
