"""Which cloud networks a gateway of a cloud serves."""

from __future__ import annotations

from pontifex.core.kinds import CloudNetwork
from pontifex.core.model.design import Design


def cloud_networks_at(design: Design, gateway_id: str) -> tuple[CloudNetwork, ...]:
    """Return the cloud networks of the site of a gateway, in the order of the design."""
    site_id = design.gateway_by_id[gateway_id].site_id
    return tuple(network for network in design.cloud_networks if network.site_id == site_id)
