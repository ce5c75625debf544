"""What people and links ask of the paths, read from text: where a flow begins, and how slow a link is supposed to be."""

from __future__ import annotations

from typing import Final

from pontifex.core.addressing import Address, parse_address
from pontifex.core.kinds import Network
from pontifex.core.model import Design
from pontifex.core.routing.links.quality import Quality

_MEASURES: Final = {"delay": "delay_ms", "jitter": "jitter_ms", "loss": "loss_percent", "used": "used_mbit_s"}


def place_of(design: Design, text: str) -> tuple[Address, Network | None]:
    """Read an address, or the id, name or DNS name of a host, or the id of a network, for its first host.

    A host or network says which network is meant where several share addresses. Raise AddressError.
    """
    for host in design.hosts:
        if text in (host.id, host.name, host.dns_name):
            return host.address, design.network_by_id[host.network_id]
    network = design.network_by_id.get(text)
    if network:
        return network.prefix.first_host, network
    return Address(*parse_address(text)), None


def parse_slow(design: Design, text: str) -> tuple[str, Quality]:
    """Read "brenna-basalt-radio:delay=80,loss=2" of an uplink or tunnel. Raise ValueError with the reason."""
    id_, _, rest = text.partition(":")
    if id_ not in design.uplink_by_id and id_ not in design.tunnel_by_id:
        raise ValueError(f"there is no uplink or tunnel '{id_}'")
    quality = Quality()
    for part in rest.split(","):
        name, _, value = part.partition("=")
        if name.strip() not in _MEASURES or not value.strip().replace(".", "", 1).isdigit():
            raise ValueError(f"'{part}' is not written as {', '.join(f'{measure}=NUMBER' for measure in _MEASURES)}")
        quality = quality.with_measure(_MEASURES[name.strip()], float(value))
    return id_, quality
