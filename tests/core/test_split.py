"""Split tunnels and the routes that DHCP hands out: RFC 3442's examples, every cut, and a brute-force oracle."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from pontifex.cli import app
from pontifex.core.addressing import Address, Family, Prefix, parse_prefix
from pontifex.core.addressing.dhcp_routes import (
    DhcpRoute,
    DhcpRoutesError,
    decode_dhcp_routes,
    encode_dhcp_routes,
    parse_dhcp_routes,
    parse_octets,
    with_default,
)
from pontifex.core.catalogue import Code
from pontifex.core.findings import findings
from pontifex.core.kinds import Network, Profile, SplitMode
from pontifex.core.model import apply_operations, put
from pontifex.core.routing import Split, route_list
from pontifex.core.routing.split.split import MOST_WASTE, missing
from tests.support.designs import TODAY, bare_demo
from tests.support.prefixes import SMALL
from tests.support.remedies import remedies

run = CliRunner().invoke
ROUTER = Address(Family.V4, 0x0A000001)


@pytest.mark.parametrize(
    ("prefix", "descriptor"),
    [
        ("0.0.0.0/0", [0]),
        ("10.0.0.0/8", [8, 10]),
        ("10.0.0.0/24", [24, 10, 0, 0]),
        ("10.17.0.0/16", [16, 10, 17]),
        ("10.27.129.0/24", [24, 10, 27, 129]),
        ("10.229.0.128/25", [25, 10, 229, 0, 128]),
        ("10.198.122.47/32", [32, 10, 198, 122, 47]),
    ],
)
def test_the_examples_of_rfc_3442(prefix, descriptor):
    """The destination descriptors of RFC 3442's own table, each with its router behind, there and back."""
    octets = bytes(descriptor) + bytes([10, 0, 0, 1])
    route = DhcpRoute(parse_prefix(prefix), ROUTER)
    assert encode_dhcp_routes([route]) == octets
    assert decode_dhcp_routes(octets) == (route,)


ROUTES = st.lists(
    st.builds(
        lambda length, value, via: DhcpRoute(
            Prefix(Family.V4, value >> (32 - length) << (32 - length), length), Address(Family.V4, via)
        ),
        st.integers(0, 32),
        st.integers(0, 2**32 - 1),
        st.integers(0, 2**32 - 1),
    ),
    min_size=1,
    max_size=8,
)


@given(ROUTES)
def test_there_and_back(routes):
    """Any routes come back from their octets, with the option's code and length in front or without, and from their text."""
    octets = encode_dhcp_routes(routes)
    assert list(decode_dhcp_routes(octets)) == routes
    assert list(decode_dhcp_routes(parse_octets(f"79:{len(octets):02x}:{octets.hex()}"))) == routes
    assert list(parse_dhcp_routes(", ".join(map(str, routes)))) == routes


@given(ROUTES, st.data())
def test_every_cut_is_told(routes, data):
    """Octets that end within a route are no such option, and the reason names the octet; no other error comes of it."""
    octets = encode_dhcp_routes(routes)
    cut = data.draw(st.integers(0, len(octets) - 1))
    whole = {len(encode_dhcp_routes(routes[:count])) for count in range(1, len(routes))}
    if cut in whole:
        assert list(decode_dhcp_routes(octets[:cut])) == routes[: sorted(whole).index(cut) + 1]
    else:
        with pytest.raises(DhcpRoutesError, match=r"octet \d+|no octets"):
            decode_dhcp_routes(octets[:cut])


@given(st.binary(max_size=40))
def test_any_octets_are_routes_or_refused(octets):
    """Whatever is decoded is encoded to the same octets again."""
    try:
        routes = decode_dhcp_routes(octets)
    except DhcpRoutesError:
        return
    assert encode_dhcp_routes(routes) in (octets, octets[2:])


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["decode", "21 0a"], "the width 33 is more than 32"),
        (["decode", "18 0a 00 00 0a"], "a route of width 24 takes 8 octets, and 5 are left"),
        (["decode", "08 0a 0a 00 00 01 1"], "not written in hexadecimal octets"),
        (["decode", "19 0a e5 00 81 0a 00 00 01"], "bits are set behind the width of 25"),
        (["decode", "79 09 08 0a 0a 00 00 01"], "the length is 9, and 6 octets follow"),
        (["decode", ""], "one route at least"),
        (["encode", "10.0.0.1/8 via 10.0.0.1"], "host bits are set in 10.0.0.1/8"),
        (["encode", "10.0.0.0/8"], "is not written as PREFIX via ADDRESS"),
        (["encode", "fd00::/8 via fd00::1"], "carries IPv4 routes alone"),
        (["encode", " , "], "no route is given"),
        (["encode", "default via 10.0.0.1", "--no-default"], "nothing but a default route is given"),
        (["encode", "10.0.0.0/8 via 10.0.0.1", "--no-default", "--router", "10.0.0.1"], "leaves out what --default-via puts in"),
    ],
)
def test_what_is_no_such_option_exits_with_2(arguments, words):
    """Octets and texts that can't be are refused with the reason, on standard error."""
    answer = run(app, ["dhcp-routes", *arguments])
    assert answer.exit_code == 2
    assert words in answer.stderr
    assert not answer.stdout


def test_the_commands_speak_json():
    """Encoding and decoding with --json, and what doesn't fit one option is said."""
    made = json.loads(run(app, ["dhcp-routes", "encode", "10.17.0.0/16 via 10.0.0.1; default via 10.0.0.2", "--json"]).stdout)
    assert made == {"hex": "100a110a00000100" + "0a000002"}
    back = json.loads(run(app, ["dhcp-routes", "decode", made["hex"], "--json"]).stdout)
    assert back["routes"][1] == {"prefix": "0.0.0.0/0", "via": "10.0.0.2"}
    many = ", ".join(f"10.{k}.0.0/24 via 10.0.0.1" for k in range(40))
    assert "320 octets: more than one option holds" in run(app, ["dhcp-routes", "encode", many]).stderr


def test_the_default_route_is_repeated_inside():
    """A client with this option ignores the router option: the default route joins the others, once."""
    route = DhcpRoute(parse_prefix("10.17.0.0/16"), ROUTER)
    routes = with_default([route], Address(Family.V4, 9))
    assert [str(route.prefix) for route in routes] == ["0.0.0.0/0", "10.17.0.0/16"]
    assert with_default(routes, ROUTER) == routes
    left = run(app, ["dhcp-routes", "encode", "10.17.0.0/16 via 10.0.0.1, default via 10.0.0.2", "--no-default"])
    assert left.stdout.strip() == "100a110a000001"
    told = run(app, ["dhcp-routes", "encode", "10.17.0.0/16 via 10.0.0.1", "--router", "10.0.0.9"])
    assert told.stdout.strip() == "000a000009" + "100a110a000001"
    assert "--default-via: " in run(app, ["dhcp-routes", "encode", "10.17.0.0/16 via 10.0.0.1", "--router", "x"]).stderr


def _points(prefixes):
    return {value for prefix in prefixes for value in range(prefix.network, prefix.last + 1)}


@given(st.lists(SMALL, max_size=8), st.integers(1, 6))
def test_a_summary_holds_the_split_and_keeps_its_bound(blocks, limit):
    """The exact list says exactly the split; a summary leaves nothing out and takes in no more than the bound."""
    split = Split(SplitMode.ONLY, tuple(blocks), frozenset({Family.V4}))
    found = route_list(split, limit)
    assert _points(found.prefixes) == _points(blocks)
    assert found.fits == (len(found.prefixes) <= limit)
    if not found.fits:
        extra = _points(found.summary) - _points(blocks)
        assert _points(blocks) <= _points(found.summary)
        assert len(extra) == int(found.waste) <= len(_points(blocks)) * MOST_WASTE
        assert len(found.summary) <= len(found.prefixes)


@given(st.lists(SMALL, max_size=6), st.lists(SMALL, max_size=6), st.sampled_from(SplitMode))
def test_what_is_missing_is_what_does_not_go_through(named, wanted, mode):
    """Each network is told exactly when an address of it doesn't go through; the outermost of nested ones."""
    split = Split(mode, tuple(named))
    inside = {SplitMode.ONLY: lambda value: value in _points(named), SplitMode.ALL: lambda _: True}.get(
        mode, lambda value: value not in _points(named)
    )
    left = {candidate for candidate in wanted if not all(inside(value) for value in range(candidate.network, candidate.last + 1))}
    told = set(missing(split, wanted))
    assert told <= left
    assert all(any(outer.contains(prefix) for outer in told) for prefix in left)


def test_split_on_the_command_line():
    """All but some prefixes, within the limit and over it; what passes beside is told; both modes at once are refused."""
    exact = json.loads(run(app, ["split", "--all-but", "10.0.0.0/8", "--json"]).stdout)
    assert (exact["count"], exact["fits"], exact["prefixes"][0]) == (8, True, "0.0.0.0/5")
    assert exact["leaks"] == ["IPv6 goes beside the tunnel"]
    over = run(app, ["split", "--only", "10.64.0.0/22,10.64.8.0/23,10.64.12.0/24,fd00::/8", "--limit", "2", "--json"])
    assert over.exit_code == 1
    assert json.loads(over.stdout)["summary"] == ["10.64.0.0/22", "10.64.8.0/23", "10.64.12.0/24", "fd00::/8"]
    assert run(app, ["split", "--only", "10.0.0.0/8", "--all-but", "10.0.0.0/9"]).exit_code == 2
    assert run(app, ["split"]).exit_code == 2


CREW = {"id": "p", "name": "Crew", "gateway_id": "harbour-gateway", "pool_id": "harbour-crew-access"}
ALL = ["10.64.0.0/14", "10.70.1.0/27", "10.80.0.0/20"]


@pytest.mark.parametrize(
    ("fields", "codes"),
    [
        ({"mode": "only", "networks": ALL}, set()),
        ({"mode": "only", "networks": ALL[:2]}, {Code.PROFILE_FORGETS}),
        (
            {"mode": "all-but", "networks": ["10.80.4.0/22"]},
            {Code.PROFILE_FORGETS, Code.PROFILE_LEAKS_FAMILY, Code.PROFILE_PLATFORM_CANNOT},
        ),
        ({"mode": "all"}, {Code.PROFILE_LEAKS_FAMILY}),
        ({"mode": "all", "pool_id": None}, set()),
        ({"mode": "only", "networks": ALL, "suffixes": ["skerry.example"]}, {Code.DNS_LEAK}),
        ({"mode": "only", "networks": ALL, "suffixes": ["skerry.example"], "resolvers": ["10.64.8.10"]}, set()),
        ({"mode": "only", "networks": ALL, "resolvers": ["192.0.2.53"]}, {Code.DNS_RESOLVER_BESIDE}),
    ],
)
def test_what_a_split_forgets_and_leaks(fields, codes):
    """Each fault of a profile has its finding, and each remedy mends it."""
    design = apply_operations(bare_demo(), [put(Profile.model_validate({**CREW, **fields}))])
    told = [finding for finding in findings(design, TODAY) if finding.where[0].id == "p"]
    assert {finding.code for finding in told} == codes
    for candidate in told:
        for remedy in remedies(design, candidate):
            after = findings(apply_operations(design, remedy.operations), TODAY)
            assert candidate.code not in {other.code for other in after if other.where[0].id == "p"}


def test_an_isolated_network_is_not_forgotten():
    """What stands in a zone of its own is nobody's to reach, so that no split forgets it."""
    apart = Network.model_validate({"id": "x", "site_id": "ostvik", "name": "x", "prefix": "10.90.0.0/24", "zone": "apart"})
    profile = Profile.model_validate({**CREW, "mode": "only", "networks": ALL})
    design = apply_operations(bare_demo(), [put(apart), put(profile)])
    assert not [finding for finding in findings(design, TODAY) if finding.where[0].id == "p"]
