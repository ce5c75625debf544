"""Skerry Line: how its people dial in, and the platforms of their devices."""

from __future__ import annotations

from typing import Any, Final

from pontifex.demo.certificates import A_DEVICE, DIAL_IN, PEOPLE_AUTHORITY
from pontifex.demo.proposals import ESP_GCM, GCM, proposals

PLATFORMS: Final = [
    {"id": "tablet", "name": "bridge tablet", "family": "tablet", "remark": "screwed down beside the chart table"},
    {"id": "laptop", "name": "rota laptop", "family": "desktop"},
]
_BOTH: Final[dict[str, Any]] = {
    "local_auth": "certificate",
    "remote_auth": "certificate",
    "trust_anchors": [{"pem": PEOPLE_AUTHORITY}],
    "ike_proposals": proposals(GCM),
    "child_proposals": proposals(ESP_GCM),
    "ike_lifetime_s": 28_800,
    "child_lifetime_s": 3600,
    "rekey_margin_s": 180,
    "reauthenticate": False,
    "dead_peer_s": 60,
    "keepalive_s": 20,
}
_GATEWAY: Final = {"type": "fqdn", "value": "dial.skerry.example"}
PROFILES: Final = [  # the pool has room for 126, and the split forgets the cloud
    {
        "id": "crew",
        "name": "Crew access",
        "gateway_id": "harbour-gateway",
        "pool_id": "harbour-crew-access",
        "people": 180,
        "groups": ["Deck crew", "Rota clerks"],
        "families": ["desktop", "tablet"],
        "servers": ["198.51.100.10"],
        "mode": "only",
        "networks": ["10.64.0.0/14", "10.70.1.0/27"],
        "resolvers": ["10.64.8.10"],
        "suffixes": ["skerry.example"],
        "search": ["skerry.example"],
        "dial": "always",
        "inside_tests": [{"by": "suffix", "value": "quay.skerry.example"}],
        "rules": [
            {"domain": "*.films.example", "way": "beside"},
            {"application": "Rota", "way": "through"},
        ],
        "lock_down": True,
        "second_factor": False,
        "session_limit_s": 43_200,
        "device_end": {
            **_BOTH,
            "local_identity": {"type": "fqdn", "value": "tablet-1.skerry.example"},
            "remote_identity": _GATEWAY,
            "certificates": [{"pem": A_DEVICE}],
        },
        "gateway_end": {
            **_BOTH,
            "local_identity": _GATEWAY,
            "remote_identity": {"type": "any", "value": ""},
            "certificates": [{"pem": DIAL_IN}],
        },
    }
]
