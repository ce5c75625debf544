"""Routes that are made for a design, with an id of their own."""

from __future__ import annotations

from pontifex.core.addressing import Address, Prefix
from pontifex.core.kinds import Route
from pontifex.core.model.design import Design
from pontifex.core.model.ids import fresh_id


def new_route(
    design: Design,
    taken: set[str],
    gateway_id: str,
    prefix: Prefix,
    tunnel_id: str | None,
    subnet_id: str | None,
    via: Address | None = None,
    uplink_id: str | None = None,
) -> Route:
    """Return a route with an id that is not taken yet, and take it."""
    where = subnet_id or design.gateway_by_id[gateway_id].site_id
    id_ = fresh_id(f"{where} to {prefix}", taken)
    taken.add(id_)
    return Route(
        id=id_, gateway_id=gateway_id, prefix=prefix, tunnel_id=tunnel_id, network_id=subnet_id, via=via, uplink_id=uplink_id
    )
