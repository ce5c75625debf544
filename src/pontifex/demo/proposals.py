"""The proposals of the demo, as lists of transforms of IANA's registry."""

from __future__ import annotations

from typing import Any, Final

GCM: Final = [
    {"type": "ENCR", "id": 20, "key_length": 256},
    {"type": "PRF", "id": 6},
    {"type": "KE", "id": 20},
]
CBC: Final = [
    {"type": "ENCR", "id": 12, "key_length": 256},
    {"type": "PRF", "id": 5},
    {"type": "INTEG", "id": 12},
    {"type": "KE", "id": 14},
]
ESP_GCM: Final = [
    {"type": "ENCR", "id": 20, "key_length": 256},
    {"type": "KE", "id": 20},
    {"type": "ESN", "id": 1},
]
ESP_GCM_14: Final = [
    {"type": "ENCR", "id": 20, "key_length": 256},
    {"type": "KE", "id": 14},
    {"type": "ESN", "id": 1},
]


def proposals(*lists: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Return a proposal of each list of transforms."""
    return [{"transforms": transforms} for transforms in lists]
