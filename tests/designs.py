"""Designs for tests: small changes to the demo, and large generated ones."""

from __future__ import annotations

from datetime import date
from typing import Any

from pontifex.core.addressing import Family, Prefix, Selector
from pontifex.core.findings import Severity, analyse
from pontifex.core.model import Design, ObjectType, Remove, Side, TunnelEnd, apply_operations, put
from pontifex.demo import demo_design

MENDED = (Severity.BLOCKER, Severity.LATER, Severity.PARTIAL)
SOUND = "harbour-ostvik"
TODAY = date(2026, 11, 23)


def bare_demo() -> Design:
    """Return the demo without hosts, claims and profiles, and without DHCP ranges: for tests that bring their own."""
    design = demo_design()
    gone: list[tuple[ObjectType, tuple[Any, ...]]] = [(ObjectType.HOST, design.hosts), (ObjectType.CLAIM, design.claims)]
    gone.append((ObjectType.PROFILE, design.profiles))
    removed = [Remove(type=type_, id=one.id) for type_, items in gone for one in items]
    plain = [put(one.model_copy(update={"dhcp_ranges": (), "lease_time_s": None})) for one in design.networks]
    return apply_operations(design, [*removed, *plain])


def with_end(side: Side, design: Design | None = None, tunnel_id: str = SOUND, **fields: Any) -> Design:
    """Return the demo with some fields of one end of a tunnel replaced, checked as the door checks them."""
    design = design or demo_design()
    tunnel = design.tunnel_by_id[tunnel_id]
    end = TunnelEnd.model_validate({**tunnel.end(side).model_dump(), **fields})
    return apply_operations(design, [put(tunnel.model_copy(update={side.value: end}))])


def with_uplink(uplink_id: str, design: Design | None = None, **fields: Any) -> Design:
    """Return the demo with some fields of an uplink replaced."""
    design = design or demo_design()
    uplink = design.uplink_by_id[uplink_id]
    return apply_operations(design, [put(type(uplink).model_validate({**uplink.model_dump(), **fields}))])


def mended(design: Design) -> Design:
    """Return the design with the first remedy of its worst finding applied, again and again, until nothing stops."""
    for _ in range(100):
        troubles = [one for one in analyse(design, TODAY).findings if one.severity in MENDED]
        if not troubles:
            return design
        remedies = next(one.remedies for one in troubles if one.remedies)
        design = apply_operations(design, remedies[0].operations)
    raise AssertionError("the remedies go round in circles")


def generated(tunnels: int) -> Design:
    """Return a hub with so many branches, each with a sound tunnel and two networks."""
    demo = demo_design()
    pattern = demo.tunnel_by_id[SOUND]
    operations: list[Any] = []
    for k in range(tunnels):
        site = demo.site_by_id["ostvik"].model_copy(update={"id": f"s{k}", "name": f"Branch {k}"})
        gateway = demo.gateway_by_id["ostvik-gateway"].model_copy(update={"id": f"g{k}", "site_id": site.id})
        uplink = demo.uplink_by_id["ostvik-dsl"].model_copy(update={"id": f"u{k}", "gateway_id": gateway.id})
        blocks = [Prefix(Family.V4, (10 << 24) + (96 << 16) + (2 * k + part) * 256, 24) for part in range(2)]
        selectors = tuple(map(Selector.of, blocks))
        template = next(one for one in demo.networks if one.id == "ostvik-ticketing")
        networks = [
            template.model_copy(
                update={"id": f"n{k}-{part}", "site_id": site.id, "name": f"lan {part}", "prefix": block, "gateway_address": None}
            )
            for part, block in enumerate(blocks)
        ]
        right = pattern.right.model_copy(update={"gateway_id": gateway.id, "uplink_id": uplink.id, "local_networks": selectors})
        left = pattern.left.model_copy(update={"remote_networks": selectors})
        tunnel = pattern.model_copy(update={"id": f"t{k}", "name": f"Tunnel {k}", "left": left, "right": right})
        operations += [put(site), put(gateway), put(uplink), *map(put, networks), put(tunnel)]
    return apply_operations(demo, operations)


def crowded(networks: int, sites: int) -> Design:
    """Return a hub with so many branches that have so many networks in all, in address order and without a collision."""
    design = generated(sites)
    template = design.network_by_id["ostvik-ticketing"]
    each = networks // sites
    fields = {"gateway_address": None, "dhcp_ranges": (), "lease_time_s": None}
    operations = []
    for k in range(sites):
        for part in range(each):
            block = Prefix(Family.V4, (10 << 24) + (84 << 16) + (k * each + part) * 64, 26)
            network = {"id": f"c{k}-{part}", "name": f"part {part}", "site_id": f"s{k}", "prefix": block}
            operations.append(put(template.model_copy(update={**fields, **network})))
    return apply_operations(design, operations)
