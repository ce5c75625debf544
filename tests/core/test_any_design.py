"""Whatever the repository lets in: every analysis of address space and paths answers, and remedies can be applied."""

from __future__ import annotations

from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from pontifex.core.addressing import Family, Prefix, parse_address
from pontifex.core.find import find
from pontifex.core.findings import AnalysisCache, analyse
from pontifex.core.handover import linux_plan
from pontifex.core.importing import plan_import, read_text
from pontifex.core.kinds import Filter, Gateway, Host, Intent, Network, PrefixReservation, Profile, Route, Rule, Translation
from pontifex.core.model import ChangeRefused, DesignSettings, apply_operations, put
from pontifex.core.routing import Conditions, Tables, matrix
from pontifex.core.routing.links.capacity import IntentLoads
from pontifex.core.routing.wanted.blocks import wanted_blocks
from pontifex.core.routing.wanted.generate import missing_routes, needed_routes
from pontifex.core.space import Room, plan, usage
from pontifex.core.space.renumbering import renumber_plan
from pontifex.core.space.ways_out import ways_out
from tests.support.designs import TODAY, bare_demo

DESIGN = bare_demo()
GATEWAYS = st.sampled_from([gateway.id for gateway in DESIGN.gateways])
SITES = st.sampled_from([site.id for site in DESIGN.sites])
TUNNELS = st.sampled_from([tunnel.id for tunnel in DESIGN.tunnels])
STARTS = [("10.64.0.0", 32), ("10.70.1.0", 32), ("192.168.1.0", 32), ("0.0.0.0", 32), ("fd5c:9a1e:40::", 128), ("::", 128)]


@st.composite
def prefixes(draw) -> str:
    """A prefix of any size, near something that the demo has."""
    start, bits = draw(st.sampled_from(STARTS))
    family = Family.V4 if bits == 32 else Family.V6
    length = draw(st.integers(0, bits))
    value = parse_address(start)[1] + draw(st.integers(0, 2048))
    return str(Prefix(family, value & ~family.host_mask(length) & family.last, length))


ADDRESSES = prefixes().map(lambda text: text.partition("/")[0])
RANGES = st.lists(st.one_of(prefixes(), ADDRESSES), max_size=2)
NETWORKS = st.builds(
    lambda site, prefix, gateway, dhcp, kept, zone, expected, role: {
        "site_id": site,
        "prefix": prefix,
        "gateway_address": gateway,
        "dhcp_ranges": dhcp,
        "reserved_ranges": kept,
        "zone": zone,
        "hosts_expected": expected,
        "role": role,
    },
    SITES,
    prefixes(),
    st.none() | ADDRESSES,
    RANGES,
    RANGES,
    st.sampled_from(["", "apart"]),
    st.none() | st.integers(0, 3000),
    st.sampled_from(["user", "pool", "container"]),
)
MEMBERS = st.one_of(
    SITES.map(lambda id_: {"type": "site", "id": id_}),
    st.sampled_from([network.id for network in DESIGN.networks]).map(lambda id_: {"type": "network", "id": id_}),
)
OBJECTS: Any = st.one_of(
    st.tuples(st.just(Network), NETWORKS),
    st.tuples(
        st.just(Host),
        st.fixed_dictionaries({"network_id": st.sampled_from([network.id for network in DESIGN.networks]), "address": ADDRESSES}),
    ),
    st.tuples(st.just(PrefixReservation), st.fixed_dictionaries({"site_id": SITES, "prefix": prefixes()})),
    st.tuples(
        st.just(Translation),
        st.fixed_dictionaries(
            {
                "gateway_id": GATEWAYS,
                "tunnel_id": st.none() | TUNNELS,
                "side": st.sampled_from(["own", "far"]),
                "kind": st.sampled_from(["one-to-one", "behind-one"]),
                "inside": prefixes(),
                "outside": prefixes(),
            }
        ),
    ),
    st.tuples(st.just(Route), st.fixed_dictionaries({"gateway_id": GATEWAYS, "prefix": prefixes(), "via": ADDRESSES})),
    st.tuples(st.just(Route), st.fixed_dictionaries({"gateway_id": GATEWAYS, "prefix": prefixes(), "tunnel_id": TUNNELS})),
    st.tuples(
        st.just(Rule),
        st.fixed_dictionaries(
            {
                "gateway_id": GATEWAYS,
                "sources": st.lists(prefixes(), max_size=2),
                "destinations": st.lists(prefixes(), max_size=2),
                "paths": st.lists(TUNNELS.map(lambda id_: {"type": "tunnel", "id": id_}), max_size=2),
                "on_failure": st.sampled_from(["hold", "fall-through"]),
            }
        ),
    ),
    st.tuples(
        st.just(Filter),
        st.fixed_dictionaries(
            {
                "gateway_id": GATEWAYS,
                "direction": st.sampled_from(["in", "out", "through"]),
                "sources": st.lists(prefixes(), max_size=2),
                "destinations": st.lists(prefixes(), max_size=2),
            }
        ),
    ),
    st.tuples(
        st.just(Intent),
        st.fixed_dictionaries(
            {
                "sources": st.lists(MEMBERS, min_size=1, max_size=2),
                "destinations": st.lists(MEMBERS, min_size=1, max_size=2),
                "services": st.sampled_from([[], ["tcp 443"], ["udp"]]),
                "both_ways": st.booleans(),
                "dscp": st.sampled_from([None, "EF"]),
            }
        ),
    ),
    st.tuples(
        st.just(Gateway),
        st.builds(
            lambda id_, **fields: {**DESIGN.gateway_by_id[id_].model_dump(), **fields},
            GATEWAYS,
            forwarding=st.booleans(),
            default_router=st.booleans(),
            inside_address=st.none() | ADDRESSES,
            outranking=st.sampled_from(["nothing", "connected", "specific"]),
        ),
    ),
    st.tuples(
        st.just(Profile),
        st.fixed_dictionaries(
            {
                "gateway_id": GATEWAYS,
                "pool_id": st.none() | st.just("harbour-crew-access"),
                "people": st.none() | st.integers(0, 2000),
                "mode": st.sampled_from(["all", "only", "all-but"]),
                "networks": st.lists(prefixes(), max_size=3),
                "resolvers": st.lists(ADDRESSES, max_size=2),
                "suffixes": st.sampled_from([[], ["skerry.example"]]),
            }
        ),
    ),
)


def _design(drawn, supernets):
    objects = []
    for k, (kind, fields) in enumerate(drawn):
        try:
            objects.append(put(kind.model_validate({"id": f"o{k}", "name": f"o{k}"} | fields)))
        except ValueError:
            continue  # what can't be represented never gets here
    settings_ = DesignSettings.model_validate({"name": "x", "supernets": supernets})
    return apply_operations(DESIGN, [put(settings_), *objects])


@settings(max_examples=40, suppress_health_check=list(HealthCheck))
@given(
    st.lists(OBJECTS, max_size=9), st.lists(prefixes(), max_size=3), st.sampled_from([network.id for network in DESIGN.networks])
)
def test_every_analysis_answers(drawn, supernets, network_id):
    """No design that the repository lets in breaks an analysis; each remedy is taken by the repository, and so is the way out."""
    design = _design(drawn, supernets)
    found = analyse(design, TODAY)
    memory = AnalysisCache()
    analyse(DESIGN, TODAY, memory)
    assert analyse(design, TODAY, memory) == found
    for told in memory.remedies(found.findings):
        for remedy in told[:2]:
            apply_operations(design, remedy.operations)
    usage(design)
    apply_operations(design, out) if (out := ways_out(design).operations) else None
    for translation in design.translations:
        plan(design, translation)
    network = design.network_by_id[network_id]
    for offer in Room(design).offers(network.site_id, network.prefix.family, network.prefix.length, most=1):
        renumber_plan(design, network, offer.prefix, network.id)
    for text in ("10.64.0.1", "10.64.0.0/16", "fd5c:9a1e:40::1", "o1"):
        find(design, text)
    tables = Tables(design)
    missing = [put(route) for route in missing_routes(design, needed_routes(tables, wanted_blocks(design)))]
    apply_operations(design, missing) if missing else None
    for gateway in design.gateways:
        linux_plan(tables, gateway.id)
    IntentLoads(tables, Conditions()).loads()
    matrix(Tables(design), Conditions.of(design, frozenset({"harbour-ostvik"})))


@settings(max_examples=30)
@given(st.lists(st.one_of(prefixes(), ADDRESSES, RANGES.map(" - ".join)), max_size=6), SITES)
def test_what_importing_proposes_is_taken(lines, site_id):
    """Whatever blocks a text names, the change that importing proposes is one that the repository takes."""
    proposed = plan_import(DESIGN, *read_text("\n".join(lines)), site_id)
    try:
        apply_operations(DESIGN, proposed.operations)
    except ChangeRefused as refused:  # pragma: no cover - the message is what one wants to see
        raise AssertionError(str(refused)) from None
