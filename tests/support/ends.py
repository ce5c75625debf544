"""Values that ends of tunnels have, as a file holds them."""

from __future__ import annotations

from typing import Any

from pontifex.core.ipsec.preshared_key import key_facts
from pontifex.demo.tunnels import KEY_SALT, key_reference

OTHER_KEY = key_facts("Another-key-8841", bytes.fromhex(KEY_SALT), key_reference("other"))


def identity(value: str, kind: str = "fqdn") -> dict[str, Any]:
    """Return an identity."""
    return {"type": kind, "value": value}


def proposals(*transforms: tuple[str, int, int | None]) -> list[dict[str, Any]]:
    """Return a list of one proposal of these transforms: type, number and key length."""
    return [{"transforms": [{"type": type_, "id": id_, "key_length": length} for type_, id_, length in transforms]}]
