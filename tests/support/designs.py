"""Designs for tests: small changes to the demo, and large generated ones."""

from __future__ import annotations

from datetime import date
from typing import Any

from pontifex.core.addressing import Family, Prefix, Selector
from pontifex.core.catalogue import Severity
from pontifex.core.findings import AnalysisCache, analyse
from pontifex.core.ipsec import Proposal
from pontifex.core.kinds import KIND_BY_TYPE, Identity, IdentityType, Mode, ObjectType, Route, Side, Tunnel, TunnelEnd
from pontifex.core.model import AnyOperation, Design, Remove, apply_operations, put
from pontifex.demo import demo_design

MENDED = (Severity.BLOCKER, Severity.LATER, Severity.PARTIAL)
SOUND = "harbour-ostvik"
TODAY = date(2026, 11, 23)


def without(design: Design, *types: ObjectType) -> Design:
    """Return a design without any objects of some types, and without what hangs on them."""
    for type_ in types:
        for item in getattr(design, KIND_BY_TYPE[type_].members):
            if item.id in design.by_type[type_]:
                design = apply_operations(design, [Remove(type=type_, id=item.id, cascade=True)])
    return design


def tunnels_alone() -> Design:
    """Return the demo without intents: for tests of tunnels, which are not to be about what goes through them."""
    return without(demo_design(), ObjectType.INTENT)


_LATER_SITES = ("gneiss", "dock", "homes")


def bare_demo() -> Design:
    """Return the demo without what tests of addresses and routes bring themselves."""
    design = demo_design()
    gone = [Remove(type=ObjectType.SITE, id=id_, cascade=True) for id_ in _LATER_SITES]
    gone += [Remove(type=ObjectType.TUNNEL, id=f"brenna-basalt-{name}", cascade=True) for name in ("cable", "radio")]
    design = apply_operations(design, gone)
    named = (
        ObjectType.HOST,
        ObjectType.PREFIX_RESERVATION,
        ObjectType.PROFILE,
        ObjectType.ROUTE,
        ObjectType.RULE,
        ObjectType.INTENT,
    )
    design = without(design, *named)
    changed = {"dhcp_ranges": (), "lease_time_s": None, "own_table": False, "resolvers": ()}
    return apply_operations(design, [put(network.with_valid(changed)) for network in design.networks])


def with_end(side: Side, design: Design | None = None, tunnel_id: str = SOUND, **fields: Any) -> Design:
    """Return the demo with some fields of one end of a tunnel replaced, checked as the repository checks them."""
    design = design or tunnels_alone()
    tunnel = design.tunnel_by_id[tunnel_id]
    end = TunnelEnd.model_validate({**tunnel.end(side).model_dump(), **fields})
    return apply_operations(design, [put(tunnel.with_valid({side.value: end}))])


def with_uplink(uplink_id: str, design: Design | None = None, **fields: Any) -> Design:
    """Return the demo with some fields of an uplink replaced."""
    design = design or tunnels_alone()
    uplink = design.uplink_by_id[uplink_id]
    return apply_operations(design, [put(type(uplink).model_validate({**uplink.model_dump(), **fields}))])


def mended(design: Design) -> Design:
    """Return the design with the first remedy of its worst finding applied, again and again, until nothing stops."""
    for _ in range(100):
        memory = AnalysisCache()
        troubles = [finding for finding in analyse(design, TODAY, memory).findings if finding.severity in MENDED]
        if not troubles:
            return design
        design = apply_operations(design, next(filter(None, memory.remedies(troubles)))[0].operations)
    raise AssertionError("the remedies go round in circles")


def generated(tunnels: int) -> Design:
    """Return a hub with so many branches, each with a sound tunnel and two networks."""
    demo = demo_design()
    pattern = demo.tunnel_by_id[SOUND]
    operations: list[Any] = []
    for k in range(tunnels):
        site = demo.site_by_id["ostvik"].changed(id=f"s{k}", name=f"Branch {k}")
        gateway = demo.gateway_by_id["ostvik-gateway"].changed(id=f"g{k}", site_id=site.id)
        uplink = demo.uplink_by_id["ostvik-dsl"].changed(id=f"u{k}", gateway_id=gateway.id)
        blocks = [Prefix(Family.V4, (10 << 24) + (96 << 16) + (2 * k + part) * 256, 24) for part in range(2)]
        selectors = tuple(map(Selector.of, blocks))
        template = next(network for network in demo.networks if network.id == "ostvik-ticketing")
        networks = [
            template.changed(id=f"n{k}-{part}", site_id=site.id, name=f"lan {part}", prefix=block, gateway_address=None)
            for part, block in enumerate(blocks)
        ]
        named = Identity(type=IdentityType.FQDN, value=f"branch-{k}.skerry.example")
        fields = {"gateway_id": gateway.id, "uplink_id": uplink.id, "local_networks": selectors, "local_identity": named}
        right = pattern.right.with_valid(fields)
        left = pattern.left.changed(remote_networks=selectors, remote_identity=named)
        tunnel = pattern.changed(id=f"t{k}", name=f"Tunnel {k}", left=left, right=right)
        operations += [put(site), put(gateway), put(uplink), *map(put, networks), put(tunnel)]
    return apply_operations(demo, operations)


def migrated(tunnels: int) -> tuple[Design, list[AnyOperation]]:
    """Return a hub whose tunnels have one proposal for the IKE SA, and what gives all of them another one."""
    design = generated(tunnels)
    old, new = ((proposal,) for proposal in design.tunnel_by_id["harbour-corvina"].left.ike_proposals)

    def having(tunnel: Tunnel, proposals: tuple[Proposal, ...]) -> Tunnel:
        return tunnel.with_end(Side.LEFT, ike_proposals=proposals).with_end(Side.RIGHT, ike_proposals=proposals)

    mine = [candidate for candidate in design.tunnels if candidate.id.removeprefix("t").isdigit()]
    before = apply_operations(design, [put(having(end, old)) for end in mine])
    return before.changed(revision=design.revision), [put(having(end, new)) for end in mine]


def crowded(networks: int, sites: int) -> Design:
    """Return a hub with so many branches that have so many networks in all, in address order and without a collision."""
    design = generated(sites)
    template = design.network_by_id["ostvik-ticketing"]
    each = networks // sites
    template = template.changed(gateway_address=None, dhcp_ranges=(), lease_time_s=None)
    operations = []
    for k in range(sites):
        for part in range(each):
            block = Prefix(Family.V4, (10 << 24) + (84 << 16) + (k * each + part) * 64, 26)
            operations.append(put(template.changed(id=f"c{k}-{part}", name=f"part {part}", site_id=f"s{k}", prefix=block)))
    return apply_operations(design, operations)


def two_hubs(gateways: int) -> Design:
    """Return two hubs and branches of four networks each: all route to the first hub, and by a higher metric to the second.

    Every tenth branch is joined to the first hub alone, by a policy.
    """
    demo = demo_design()
    pattern = demo.tunnel_by_id[SOUND]
    bare: dict[str, Any] = {"mode": Mode.ROUTE, "local_networks": (), "remote_networks": (), "uplink_id": None}
    operations: list[Any] = []
    blocks = {k: [Prefix(Family.V4, (10 << 24) + (4 * k + part) * 256, 24) for part in range(4)] for k in range(gateways)}
    all_inside = Prefix(Family.V4, 10 << 24, 8)
    network = demo.network_by_id["ostvik-ticketing"].changed(gateway_address=None, dhcp_ranges=())

    def link(id_: str, hub: int, branch: int, of_hub: Any = None, of_branch: Any = None) -> None:
        ends = {
            side.value: pattern.end(side).with_valid({**bare, "gateway_id": f"g{site}", **(fields or {})})
            for side, site, fields in ((Side.LEFT, hub, of_hub), (Side.RIGHT, branch, of_branch))
        }
        operations.append(put(Tunnel(id=id_, name=id_, left=ends["left"], right=ends["right"])))

    def route(at: int, prefix: Prefix, tunnel: str, metric: int = 0) -> None:
        id_ = f"r{at}-{len(operations)}"
        operations.append(put(Route(id=id_, gateway_id=f"g{at}", prefix=prefix, tunnel_id=tunnel, metric=metric)))

    for k in range(gateways):
        operations.append(put(demo.site_by_id["ostvik"].changed(id=f"s{k}", name=f"Site {k}")))
        gateway = demo.gateway_by_id["ostvik-gateway"].changed(id=f"g{k}", site_id=f"s{k}")
        operations.append(put(gateway))
        operations.append(put(demo.uplink_by_id["ostvik-dsl"].changed(id=f"u{k}", gateway_id=gateway.id)))
        for part, block in enumerate(blocks[k]):
            fields = {"id": f"n{k}-{part}", "site_id": f"s{k}", "name": f"net {part}", "prefix": block}
            operations.append(put(network.with_valid(fields)))
        if k < 2:
            continue
        if k % 10 == 0:
            mine, theirs = tuple(map(Selector.of, blocks[k])), (Selector.of(all_inside),)
            here = {"mode": Mode.POLICY, "local_networks": mine, "remote_networks": theirs}
            there = {"mode": Mode.POLICY, "local_networks": theirs, "remote_networks": mine}
            link(f"t{k}-0", 0, k, there, here)
            continue
        for hub in range(2):
            link(f"t{k}-{hub}", hub, k)
            route(k, all_inside, f"t{k}-{hub}", hub)
            for block in blocks[k]:
                route(hub, block, f"t{k}-{hub}")
    link("hubs", 0, 1)
    for k in range(gateways):
        for block in blocks[k]:
            if k == 1 or k % 10 == 0:  # what stands at one hub alone
                route(0 if k == 1 else 1, block, "hubs")
    empty = apply_operations(demo, [Remove(type=ObjectType.SITE, id=site.id, cascade=True) for site in demo.sites])
    return apply_operations(empty, operations)
