"""Renumbering: everything that names the network moves, nothing else does, and undo is the identity."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.addressing import Address, Family, Prefix, Selector, parse_prefix
from pontifex.core.kinds import Host, Network, Profile, Route, Rule, Side, Translation
from pontifex.core.model import ChangeRefused, RenumberNetwork, apply_operations, difference, put
from pontifex.core.space.renumbering import renumber_plan
from tests.support.designs import bare_demo

DESIGN = bare_demo()


def _filled():
    """The demo with something of every kind about Ostvik's ticketing network 10.65.0.0/24."""
    network = DESIGN.network_by_id["ostvik-ticketing"].model_dump(mode="json")
    network |= {"dhcp_ranges": ["10.65.0.100-10.65.0.199"], "lease_time_s": 86400, "reserved_ranges": ["10.65.0.250-10.65.0.254"]}
    host = {"network_id": "ostvik-ticketing", "host_class": "device"}
    objects: list[Any] = [
        Network.model_validate(network),
        Host.model_validate(
            {**host, "id": "h1", "name": "printer", "address": "10.65.0.9", "dns_name": "printer.skerry.example"}
        ),
        Host.model_validate(
            {
                **host,
                "id": "h2",
                "name": "till",
                "address": "10.65.0.40",
                "assignment": "reserved",
                "hardware_address": "02:00:5e:10:00:07",
            }
        ),
        Route.model_validate(
            {"id": "r1", "gateway_id": "harbour-gateway", "prefix": "10.65.0.0/24", "tunnel_id": "harbour-ostvik"}
        ),
        Route.model_validate(
            {"id": "r2", "gateway_id": "harbour-gateway", "prefix": "10.65.0.0/16", "tunnel_id": "harbour-ostvik"}
        ),
        Route.model_validate({"id": "r3", "gateway_id": "ostvik-gateway", "prefix": "10.99.0.0/24", "via": "10.65.0.2"}),
        Rule.model_validate(
            {
                "id": "q1",
                "gateway_id": "harbour-gateway",
                "name": "tickets",
                "sources": ["10.64.0.0/22"],
                "destinations": ["10.65.0.0/25 tcp 443", "10.66.0.0/24"],
                "paths": [{"type": "tunnel", "id": "harbour-ostvik"}],
            }
        ),
        Profile.model_validate(
            {
                "id": "p1",
                "name": "crew",
                "gateway_id": "harbour-gateway",
                "mode": "only",
                "networks": ["10.65.0.0/24", "10.64.0.0/22"],
                "resolvers": ["10.65.0.9"],
            }
        ),
        Translation.model_validate(
            {"id": "t1", "gateway_id": "ostvik-gateway", "name": "t1", "inside": "10.65.0.0/25", "outside": "10.90.0.0/25"}
        ),
    ]
    return apply_operations(DESIGN, [put(item) for item in objects])


def _moved(design, target="10.72.5.0/24", id_="ostvik-ticketing"):
    return apply_operations(design, [RenumberNetwork(id=id_, prefix=parse_prefix(target))])


def test_everything_that_names_the_network_moves():
    """Gateway address, ranges, hosts, both ends of the tunnel, routes, rules, profiles and translations, each at its place."""
    after = _moved(_filled())
    network = after.network_by_id["ostvik-ticketing"]
    assert (str(network.gateway_address), str(network.dhcp_ranges[0])) == ("10.72.5.1", "10.72.5.100-10.72.5.199")
    assert str(network.reserved_ranges[0]) == "10.72.5.250-10.72.5.254"
    assert [str(host.address) for host in after.hosts] == ["10.72.5.9", "10.72.5.40"]
    tunnel = after.tunnel_by_id["harbour-ostvik"]
    assert [str(local_network) for local_network in tunnel.right.local_networks] == ["10.72.5.0/24", "10.65.4.0/23"]
    assert tunnel.left.remote_networks == tunnel.right.local_networks
    routes = {route.id: route for route in after.routes}
    assert str(routes["r1"].prefix) == "10.72.5.0/24"
    assert (str(routes["r2"].prefix), str(routes["r2-2"].prefix)) == ("10.65.0.0/16", "10.72.5.0/24")
    assert str(routes["r3"].via) == "10.72.5.2"
    assert [str(destination) for destination in after.rules[0].destinations] == ["10.72.5.0/25 tcp 443", "10.66.0.0/24"]
    assert [str(network) for network in after.profiles[0].networks] == ["10.72.5.0/24", "10.64.0.0/22"]
    assert str(after.profiles[0].resolvers[0]) == "10.72.5.9"
    assert (str(after.translations[0].inside), str(after.translations[0].outside)) == ("10.72.5.0/25", "10.90.0.0/25")


def test_a_summary_gets_the_new_prefix_beside_it():
    """What names the network and more keeps what it names, and the new prefix comes beside it, once."""
    wide = (Selector.of(parse_prefix("10.65.0.0/16")),)
    tunnel = DESIGN.tunnel_by_id["harbour-ostvik"]
    design = apply_operations(
        DESIGN, [put(tunnel.with_end(Side.RIGHT, local_networks=wide).with_end(Side.LEFT, remote_networks=wide))]
    )
    after = _moved(design).tunnel_by_id["harbour-ostvik"]
    assert [str(network) for network in after.right.local_networks] == ["10.65.0.0/16", "10.72.5.0/24"]
    within = _moved(design, "10.65.77.0/24").tunnel_by_id["harbour-ostvik"]
    assert within.right.local_networks == wide


def test_only_what_certainly_means_the_network_moves():
    """Of two networks with one prefix, a route into the other's tunnel stays, and so does what says neither."""
    aurelia = {"gateway_id": "harbour-gateway", "prefix": "10.70.1.0/27"}
    objects = [
        Route.model_validate({**aurelia, "id": "a", "tunnel_id": "harbour-aurelia"}),
        Route.model_validate({**aurelia, "id": "c", "tunnel_id": "harbour-corvina", "metric": 5}),
        Route.model_validate({**aurelia, "id": "n", "via": "10.64.0.9"}),
    ]
    after = _moved(apply_operations(DESIGN, [put(item) for item in objects]), "10.70.1.32/27", "corvina-bridge")
    assert {route.id: str(route.prefix) for route in after.routes} == {
        "a": "10.70.1.0/27",
        "c": "10.70.1.32/27",
        "n": "10.70.1.0/27",
    }
    assert str(after.tunnel_by_id["harbour-aurelia"].left.remote_networks[0]) == "10.70.1.0/27"


@given(
    st.lists(st.integers(0, 255), max_size=5, unique=True),
    st.lists(st.tuples(st.integers(8, 32), st.integers(0, 255), st.booleans()), max_size=5),
    st.integers(0, 65535),
)
def test_renumbering_and_undo_is_the_identity(hosts, routes, at):
    """Whatever hangs on a network: the operations backward bring the very same design; forward again, the same move."""
    objects: list[Any] = [
        Host(id=f"h{k}", network_id="ostvik-ticketing", name=f"h{k}", address=Address(Family.V4, (10 << 24) + (65 << 16) + octet))
        for k, octet in enumerate(hosts)
    ]
    for k, (length, octet, beyond) in enumerate(routes):
        value = (10 << 24) + (65 << 16) + octet
        prefix = Prefix(Family.V4, value >> (32 - length) << (32 - length), length)
        gateway, tunnel = (
            ("harbour-gateway", "harbour-brenna" if octet % 2 else "harbour-ostvik")
            if beyond
            else ("ostvik-gateway", "harbour-ostvik")
        )
        objects.append(Route(id=f"r{k}", gateway_id=gateway, prefix=prefix, tunnel_id=tunnel))
    before = apply_operations(DESIGN, [put(item) for item in objects])
    target = Prefix(Family.V4, (10 << 24) + (72 << 16) + (at & 0xFF00), 24)
    after = apply_operations(before, [RenumberNetwork(id="ostvik-ticketing", prefix=target)])
    changed = difference(before, after)
    back = apply_operations(after, changed.backward)
    assert back.content() == before.content()
    assert apply_operations(back, changed.forward).content() == after.content()


@pytest.mark.parametrize(
    ("operation", "reason"),
    [
        (("nothing", "10.72.5.0/24"), "there is no network 'nothing' to renumber"),
        (
            ("ostvik-ticketing", "10.72.5.0/25"),
            "a network moves to a prefix of its own size; 10.65.0.0/24 can't become 10.72.5.0/25",
        ),
    ],
)
def test_a_move_that_can_not_be_is_refused(operation, reason):
    """An unknown network and a prefix of another size are refused with the reason."""
    with pytest.raises(ChangeRefused, match=reason):
        _moved(DESIGN, operation[1], operation[0])


def test_the_plan_makes_before_it_breaks():
    """Old and new stand side by side until the last step; clients, names and the moment of the cut are told."""
    design = _filled()
    network = design.network_by_id["ostvik-ticketing"]
    plan = renumber_plan(design, network, parse_prefix("10.72.5.0/24"))
    titles = [step.title for step in plan.steps]
    assert titles == [
        "Shorten the leases",
        "Put the new prefix beside the old one",
        "Let the far ends know both",
        "Let this end carry both",
        "Hand out the new addresses",
        "Set the hosts with static addresses",
        "Change the names",
        "Check that the old prefix is quiet",
        "Take the old prefix away",
    ]
    assert [bool(step.loses) for step in plan.steps] == [False] * 8 + [True]
    said = [detail for step in plan.steps for detail in step.details]
    assert "set the lease time to 300 s, and wait 86400 s: then no client holds a longer lease" in said
    assert "range 10.65.0.100-10.65.0.199 becomes 10.72.5.100-10.72.5.199; option 3 (router) becomes 10.72.5.1" in said
    assert "reservation of till (02:00:5e:10:00:07) becomes 10.72.5.40" in said
    assert "printer.skerry.example: 10.65.0.9 becomes 10.72.5.9" in said
    assert "crew: add 10.72.5.0/24; people get it when they dial in the next time" in said
    assert {client.who: client.by_hand for client in plan.clients} == {
        "up to 100 clients of the DHCP ranges": False,
        "printer": True,
        "till": False,
    }
    assert plan.moment == "In step 9, if you are connected to 10.65.0.1: after step 4, connect to 10.72.5.1."
    assert {change.name for change in plan.changes} >= {"ticketing", "printer", "till", "Harbour–Ostvik", "tickets", "crew", "t1"}


@pytest.mark.parametrize(
    ("working_from", "words"),
    [
        ("ostvik-ticketing", "In step 5: you sit in ticketing, and your own address changes. Connect anew to 10.72.5.1."),
        ("harbour-staff", "In step 9, when 10.65.0.1 goes: connect to 10.72.5.1 before it."),
    ],
)
def test_the_moment_depends_on_where_one_sits(working_from, words):
    """Who sits in the network loses the connection with the own address; who comes through a tunnel, when the old one goes."""
    design = _filled()
    plan = renumber_plan(design, design.network_by_id["ostvik-ticketing"], parse_prefix("10.72.5.0/24"), working_from)
    assert plan.moment.startswith(words)
