"""What intents name: members, prefixes, DNS names, and what of it stands outside."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.addressing import Family, Prefix, parse_prefix
from pontifex.core.catalogue import Code
from pontifex.core.findings import analyse
from pontifex.core.kinds import KINDS, Intent, Network, ObjectType
from pontifex.core.model import apply_operations, put
from pontifex.core.routing.wanted.blocks import parts_within, wants
from pontifex.core.starting.next_steps import NextAction, next_steps
from pontifex.demo import demo_design
from tests.support.designs import TODAY, bare_demo

DEMO, BARE = demo_design(), bare_demo()
SITES = ("basalt", "brenna", "harbour")
FIRST = 10 << 24
YARD = [{"type": "network", "id": "dock-yard"}]
EXIT = [{"type": "gateway", "id": "basalt-gateway"}]
OUTSIDE = ["198.51.100.192/28"]


def _intent(**fields: Any) -> Intent:
    return Intent.model_validate({"id": "want", "name": "Want", **fields})


def _wanted(**fields: Any) -> set[tuple[str, str]]:
    """Return what an intent alone asks for, by networks, of the demo design."""
    design = DEMO.changed(intents=(_intent(**fields),))
    return {(f"{want.source.id} {want.begin}", f"{want.destination.id} {want.end}") for want in wants(design)}


_BLOCKS = st.builds(
    lambda length, place: Prefix(Family.V4, FIRST | (place << 4 & ~Family.V4.host_mask(length) & 0xFF), length),
    st.integers(24, 28),
    st.integers(0, 15),
)


@given(st.lists(st.tuples(st.sampled_from(SITES), _BLOCKS), max_size=6), _BLOCKS)
def test_a_prefix_stands_for_the_networks_of_each_site_as_far_as_they_go(held, asked):
    """Address by address: what a prefix stands for at a site is what the site's networks hold of it, and nothing else."""
    networks = tuple(
        Network.model_validate({"id": f"n{at}", "name": f"n{at}", "site_id": site, "prefix": str(prefix)})
        for at, (site, prefix) in enumerate(held)
    )
    design = BARE.changed(networks=networks)
    parts = list(parts_within(design, asked))
    assert all(part.network.prefix.contains(part.prefix) and asked.contains(part.prefix) for part in parts)
    for site in SITES:
        own = {address for at, prefix in held if at == site for address in range(prefix.network, prefix.last + 1)}
        told = [range(part.prefix.network, part.prefix.last + 1) for part in parts if part.network.site_id == site]
        assert set().union(*told) == own & set(range(asked.network, asked.last + 1))


def test_prefixes_and_names_ask_for_what_they_stand_for():
    """A prefix within a network asks for a part of it, one around networks for all of them, a domain for all hosts below."""
    part, all_of_basalt = "10.66.0.16/28", "10.80.0.0/20"
    found = _wanted(source_prefixes=[part], destination_prefixes=[all_of_basalt])
    inside = {network.id for network in DEMO.networks if parse_prefix(all_of_basalt).contains(network.prefix)}
    assert len(inside) > 1
    assert {source for source, _ in found} == {f"brenna-ticketing {part}"}
    assert {destination.split()[0] for _, destination in found} == inside
    below = {f"{host.network_id} {host.address}/32" for host in DEMO.hosts if (host.dns_name or "").endswith(".skerry.example")}
    assert len(below) > 2
    assert {destination for _, destination in _wanted(source_prefixes=[part], destination_names=["*.skerry.example"])} == below
    one = next(host for host in DEMO.hosts if host.dns_name)
    assert one.dns_name
    assert _wanted(source_prefixes=[part], destination_names=[one.dns_name.upper()]) == {
        (f"brenna-ticketing {part}", f"{one.network_id} {one.address}/32")
    }


def test_an_intent_says_both_sides():
    """One that names nothing on a side is refused, with the side."""
    with pytest.raises(ValueError, match="say where it begins"):
        _intent(destination_prefixes=["10.80.0.0/20"])
    with pytest.raises(ValueError, match="say what is to be reached"):
        _intent(source_names=["*.skerry.example"])
    with pytest.raises(ValueError, match="host bits are set"):
        _intent(sources=YARD, destination_prefixes=["10.80.0.1/20"])


def test_what_a_kind_says_must_be_filled_is_refused_when_it_is_empty():
    """Each group of fields of which one says something: an object of the demo without any of them is refused."""
    groups = [(kind, group) for kind in KINDS for group in kind.one_of]
    assert {kind.name for kind, _ in groups} == {ObjectType.INTENT, ObjectType.ROUTE}
    for kind, group in groups:
        object_ = next(iter(getattr(DEMO, kind.members))).model_dump(mode="json", by_alias=True)
        with pytest.raises(ValueError, match=r"say|a route goes by"):
            kind.model.model_validate({name: value for name, value in object_.items() if name not in group})


def _found(code: Code, **fields: Any) -> list[str]:
    design = apply_operations(DEMO, [put(_intent(**fields))])
    return [str(finding.why) for finding in analyse(design, TODAY).findings if finding.code is code]


@pytest.mark.parametrize(
    ("fields", "code", "says"),
    [
        ({"destination_prefixes": OUTSIDE}, Code.ROUTE_NOT_OUTSIDE, ""),
        ({"destination_prefixes": ["10.99.0.0/24"]}, Code.ROUTE_NAMES_NOTHING, "Want names 10.99.0.0/24, of which"),
        (
            {"destination_names": ["updates.example", "*.gull.example"]},
            Code.ROUTE_NAMES_NOTHING,
            "updates.example and",
        ),
        (
            {"destination_prefixes": OUTSIDE, "destinations": EXIT},
            Code.ROUTE_OTHER_EXIT,
            "which the design doesn't hold, by Basalt cloud gateway; it leaves by Dock container host",
        ),
    ],
)
def test_what_stands_outside(fields, code, says):
    """A public prefix that the design doesn't hold is meant on the Internet; of private ones and unknown names it is told."""
    found = _found(code, sources=YARD, **fields)
    assert [candidate for candidate in found if says in candidate] if says else not found


def test_what_cannot_leave_is_told_once():
    """Where no uplink leads out, a prefix outside isn't reached, and its trace says why."""
    ups = [uplink for uplink in DEMO.uplinks if uplink.gateway_id != "dock-gateway"]
    tunnels = [tunnel for tunnel in DEMO.tunnels if "dock" not in tunnel.id]
    design = DEMO.changed(uplinks=tuple(ups), tunnels=tuple(tunnels), routes=(), rules=(), exits=())
    design = design.changed(intents=(_intent(sources=YARD, destination_prefixes=OUTSIDE),))
    found = [finding for finding in analyse(design, TODAY).findings if finding.code is Code.ROUTE_NOT_OUTSIDE]
    assert ["Want wants Dry Dock's yard to reach 198.51.100.192/28" in str(finding.why) for finding in found] == [True]


def test_a_network_that_a_prefix_names_is_asked_for_no_more():
    """What to do next doesn't ask to name a network that an intent names by its prefix."""
    unnamed = next(step for step in next_steps(DEMO) if step.action is NextAction.ADD_INTENTS)
    prefixes = [str(DEMO.network_by_id[id_].prefix) for id_ in unnamed.ids]
    assert unnamed.type is ObjectType.NETWORK
    named = DEMO.changed(intents=(*DEMO.intents, _intent(sources=YARD, destination_prefixes=prefixes)))
    assert not [step for step in next_steps(named) if step.action is NextAction.ADD_INTENTS]
