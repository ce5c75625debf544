"""Designs drawn at random over the demo: routes, rules, filters, translations, other routers, tables and technologies."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from hypothesis import strategies as st

from pontifex.core.kinds import CloudRule, Filter, Gateway, Network, Route, Rule, Translation, Tunnel
from pontifex.core.model import Design, apply_operations, put
from tests.support.designs import bare_demo

DESIGN = bare_demo()
SITES = ("harbour", "ostvik", "brenna", "basalt", "aurelia")
GATEWAYS = st.sampled_from([f"{site}-gateway" for site in SITES])
LINKS = ("harbour-ostvik", "harbour-brenna", "harbour-basalt", "harbour-aurelia", "x1", "x2")
PREFIXES = st.sampled_from(
    [
        "10.64.0.0/22",
        "10.64.0.128/25",
        "10.64.8.0/23",
        "10.65.0.0/24",
        "10.65.4.0/24",
        "10.66.0.0/23",
        "10.66.1.0/26",
        "10.80.0.0/20",
        "10.80.4.0/24",
        "10.80.8.0/24",
        "10.70.1.0/27",
        "0.0.0.0/0",
        "10.64.0.0/10",
    ]
)
SERVICES = st.sampled_from(["any", "tcp", "tcp 443", "udp 53"])
BOXES = st.builds(lambda prefix, service: prefix if service == "any" else f"{prefix} {service}", PREFIXES, SERVICES)


def some(strategy: st.SearchStrategy[Any], most: int = 2) -> st.SearchStrategy[list[Any]]:
    """Return lists of a few different ones."""
    return st.lists(strategy, max_size=most, unique=True)


def _members(ids: list[str]) -> list[dict[str, str]]:
    return [{"type": "network", "id": id_} for id_ in ids]


def _of(type_: Any, **fields: Any) -> Any:
    return st.tuples(st.just(type_), st.fixed_dictionaries(fields))


TUNNEL_PATHS = st.sampled_from(LINKS).map(lambda id_: {"type": "tunnel", "id": id_})
UPLINK_PATHS = st.sampled_from([uplink.id for uplink in DESIGN.uplinks]).map(lambda id_: {"type": "uplink", "id": id_})
OBJECTS = st.one_of(
    _of(Route, gateway_id=GATEWAYS, prefix=PREFIXES, tunnel_id=st.sampled_from(LINKS), metric=st.integers(0, 2)),
    _of(Route, gateway_id=GATEWAYS, prefix=PREFIXES, via=st.sampled_from(["10.64.0.1", "10.66.0.9", "10.80.4.9", "10.64.8.8"])),
    _of(
        Route,
        gateway_id=st.just("basalt-gateway"),
        network_id=st.just("basalt-booking-gate"),
        prefix=PREFIXES,
        tunnel_id=st.sampled_from([None, "harbour-basalt", "x1", "x2"]),
    ),
    _of(
        Rule,
        gateway_id=GATEWAYS,
        position=st.integers(1, 9),
        sources=some(PREFIXES),
        destinations=some(BOXES),
        dscp=st.sampled_from([[], [], ["EF"], ["DF"]]),
        marks=st.sampled_from([None, None, "EF"]),
        paths=some(st.one_of(TUNNEL_PATHS, UPLINK_PATHS).map(lambda path: tuple(sorted(path.items()))), 2).map(
            lambda some: [dict(entry) for entry in some]
        ),
        on_failure=st.sampled_from(["hold", "fall-through"]),
    ),
    _of(
        Filter,
        gateway_id=GATEWAYS,
        direction=st.sampled_from(["in", "out", "through"]),
        sources=some(PREFIXES),
        destinations=some(BOXES),
    ),
    st.builds(
        lambda members, **fields: (CloudRule, {"site_id": members[0].partition("-")[0], "members": _members(members), **fields}),
        st.sampled_from([["basalt-booking-front"], ["basalt-booking", "basalt-booking-gate"], ["harbour-servers"]]),
        level=st.sampled_from(["subnet", "group"]),
        direction=st.sampled_from(["in", "out"]),
        far=some(PREFIXES),
        services=some(SERVICES),
    ),
    _of(
        Translation,
        gateway_id=GATEWAYS,
        tunnel_id=st.sampled_from([None, *LINKS]),
        side=st.sampled_from(["own", "far"]),
        kind=st.just("one-to-one"),
        inside=st.sampled_from(["10.64.8.0/24", "10.66.0.0/24", "10.70.1.0/27"]),
        outside=st.sampled_from(["10.99.0.0/24", "10.98.0.0/24", "10.97.0.0/27"]),
    ),
    st.tuples(
        st.just(Gateway),
        st.builds(
            lambda id_, **fields: {**DESIGN.gateway_by_id[id_].model_dump(), **fields},
            GATEWAYS,
            forwarding=st.sampled_from([True, True, False]),
            default_router=st.booleans(),
            outranking=st.sampled_from(["nothing", "connected", "specific"]),
            inside_address=st.sampled_from([None, "10.64.0.1", "10.66.0.9"]),
        ),
    ),
    st.tuples(
        st.just(Network),
        st.builds(
            lambda id_, told, own: {**DESIGN.network_by_id[id_].model_dump(), "dhcp_routes": told, "own_table": own},
            st.sampled_from(["harbour-staff", "brenna-ticketing", "basalt-booking-gate"]),
            st.lists(st.builds(lambda prefix, via: f"{prefix} via {via}", PREFIXES, st.just("10.64.0.1")), max_size=2),
            st.booleans(),
        ),
    ),
)


def _links(kinds: tuple[str, str]) -> Iterator[Tunnel]:
    """Two more tunnels, of a technology each, so that there are ways round."""
    pattern = DESIGN.tunnel_by_id["harbour-ostvik"]
    for id_, ends, kind in (("x1", ("brenna", "basalt"), kinds[0]), ("x2", ("ostvik", "basalt"), kinds[1])):
        fields: dict[str, Any] = {"mode": "route", "local_networks": (), "remote_networks": (), "uplink_id": None}
        left, right = (
            {**pattern.left.model_dump(), **fields, "gateway_id": f"{site}-gateway", "technology": kind} for site in ends
        )
        yield Tunnel.model_validate({"id": id_, "name": id_, "left": left, "right": right})


def drawn_design(drawn: list[Any], kinds: tuple[str, str]) -> Design:
    """Return the demo with what was drawn, as far as it can be."""
    objects = list(_links(kinds))
    for k, (type_, fields) in enumerate(drawn):
        named = {"id": f"o{k}", "name": f"o{k}"} | fields
        try:
            objects.append(type_.model_validate(named))
        except ValueError:
            continue  # a route without a next hop
    return apply_operations(DESIGN, [put(tunnel) for tunnel in objects])


DRAWN = (
    st.lists(OBJECTS, max_size=14),
    st.tuples(*[st.sampled_from(["ipsec-ikev2", "ipsec-ikev2", "cloud-peering"])] * 2),
    some(st.sampled_from([*LINKS, "harbour-fibre", "brenna-cable", "basalt-gateway", "ostvik"])),
)
