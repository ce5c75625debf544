"""Values that ends of tunnels have, as a file holds them."""

from __future__ import annotations

from typing import Any

from pontifex.core.ipsec.preshared_key import key_facts
from pontifex.core.kinds import Gateway, Side
from pontifex.core.model import Design, apply_operations, put
from pontifex.demo import demo_design
from pontifex.demo.tunnels import KEY_SALT, key_reference
from tests.support.designs import with_end

OTHER_KEY = key_facts("Another-key-8841", bytes.fromhex(KEY_SALT), key_reference("other"))


def identity(value: str, kind: str = "fqdn") -> dict[str, Any]:
    """Return an identity."""
    return {"type": kind, "value": value}


def proposals(*transforms: tuple[str, int, int | None]) -> list[dict[str, Any]]:
    """Return a list of one proposal of these transforms: type, number and key length."""
    return [{"transforms": [{"type": type_, "id": id_, "key_length": length} for type_, id_, length in transforms]}]


def with_gateway(gateway_id: str, design: Design | None = None, **fields: Any) -> Design:
    """The demo with some fields of a gateway replaced."""
    design = design or demo_design()
    gateway = design.gateway_by_id[gateway_id]
    return apply_operations(design, [put(Gateway.model_validate({**gateway.model_dump(), **fields}))])


def both(left: dict[str, Any], right: dict[str, Any], design: Design | None = None) -> Design:
    """The demo with fields of both ends of the sound tunnel replaced."""
    return with_end(Side.RIGHT, with_end(Side.LEFT, design, **left), **right)
