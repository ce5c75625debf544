"""Hosts, DHCP ranges, pools and what a platform keeps: each fault is told at its place, and each remedy mends it."""

from __future__ import annotations

from typing import Any

import pytest

from pontifex.core.addressing.home import HOME_PREFIXES, usual_at_home
from pontifex.core.addressing.prefix import parse_prefix
from pontifex.core.catalogue import Code
from pontifex.core.findings import findings
from pontifex.core.kinds import Host, Network, PrefixReservation, Profile, Side
from pontifex.core.model import DesignSettings, apply_operations, put
from pontifex.core.reasons import addresses, people
from pontifex.core.space import meetings
from pontifex.core.space.ways_out import ways_out
from tests.support.designs import TODAY, bare_demo, with_end
from tests.support.reasons import is_said, like
from tests.support.remedies import remedies

DESIGN = bare_demo()
KINDS: dict[str, Any] = {"network": Network, "host": Host, "prefix-reservation": PrefixReservation, "profile": Profile}


def _net(prefix="10.90.0.0/24", id_="x", site="ostvik", **fields):
    return ("network", {"id": id_, "site_id": site, "name": id_, "prefix": prefix, **fields})


def _host(address, id_="h", network="x", **fields):
    return ("host", {"id": id_, "network_id": network, "name": id_, "address": address, **fields})


def _reserved(prefix, site="ostvik", id_="c"):
    return ("prefix-reservation", {"id": id_, "site_id": site, "name": id_, "prefix": prefix})


def _profile(**fields):
    return ("profile", {"id": "p", "name": "Crew", "gateway_id": "harbour-gateway", **fields})


def _design(*objects):
    return apply_operations(DESIGN, [put(KINDS[kind].model_validate(fields)) for kind, fields in objects])


ABOUT_SPLITS = (Code.PROFILE_FORGETS, Code.PROFILE_LEAKS_FAMILY)  # examined elsewhere
CASES = [
    (
        [_net(dhcp_ranges=["10.90.0.200-10.90.1.20"])],
        Code.ADDRESS_DHCP_OUTSIDE,
        like(addresses.RangeOutside, range="10.90.0.200-10.90.1.20"),
    ),
    (
        [_net(dhcp_ranges=["10.90.0.0-10.90.0.20"])],
        Code.ADDRESS_DHCP_OUTSIDE,
        like(addresses.RangeOutside, range="10.90.0.0-10.90.0.20"),
    ),
    (
        [_net(dhcp_ranges=["10.90.0.10-40", "10.90.0.30-60"])],
        Code.ADDRESS_DHCP_TWICE,
        like(addresses.RangesOverlap, first="10.90.0.10-10.90.0.40"),
    ),
    ([_net(dhcp_ranges=["10.90.0.1-40"], gateway_address="10.90.0.1")], Code.ADDRESS_DHCP_STATIC, addresses.RangeTaken),
    ([_net(dhcp_ranges=["10.90.0.10-40"]), _host("10.90.0.20")], Code.ADDRESS_DHCP_STATIC, addresses.RangeTaken),
    ([_net(), _host("10.91.0.20")], Code.ADDRESS_HOST_OUTSIDE, like(addresses.HostOutside, host="h", prefix="10.90.0.0/24")),
    ([_net(), _host("10.65.0.20")], Code.ADDRESS_HOST_OUTSIDE, like(addresses.HostOutside, host="h")),
    (
        [_net(), _host("10.90.0.255")],
        Code.ADDRESS_HOST_UNUSABLE,
        like(addresses.HostUnusable, host="h", prefix="10.90.0.0/24", edge="all hosts of it"),
    ),
    ([_net(), _host("10.90.0.0")], Code.ADDRESS_HOST_UNUSABLE, like(addresses.HostUnusable, host="h", edge="the network itself")),
    ([_net(), _host("10.90.0.7"), _host("10.90.0.7", "g")], Code.ADDRESS_HOST_TWICE, addresses.HostsShareAddress),
    ([_net(gateway_address="10.90.0.1"), _host("10.90.0.1")], Code.ADDRESS_HOST_TWICE, like(addresses.HostIsGateway, host="h")),
    (
        [_net(reserved_ranges=["10.90.0.0-3"]), _host("10.90.0.2")],
        Code.ADDRESS_KEPT,
        like(addresses.HostKept, host="h", kept="10.90.0.0-10.90.0.3"),
    ),
    (
        [_net(reserved_ranges=["10.90.0.0-3"], dhcp_ranges=["10.90.0.2-9"])],
        Code.ADDRESS_KEPT,
        like(addresses.RangeKept, range="10.90.0.2-10.90.0.9"),
    ),
    (
        [_net(reserved_ranges=["10.66.0.0/24"])],
        Code.ADDRESS_KEPT_ELSEWHERE,
        like(addresses.KeptElsewhere, kept="10.66.0.0-10.66.0.255"),
    ),
    (
        [_net("10.90.0.0/25", hosts_expected=200)],
        Code.ADDRESS_TOO_SMALL,
        like(addresses.TooSmall, expected="200", prefix="10.90.0.0/25", room="126", spoken="0"),
    ),
    ([_reserved("10.66.0.0/16")], Code.ADDRESS_CLAIM_TAKEN, like(addresses.ReservedAndUsed, site="Ostvik Terminal")),
    (
        [_reserved("10.91.0.0/16"), _reserved("10.91.4.0/24", "brenna", "d")],
        Code.ADDRESS_CLAIM_TAKEN,
        like(addresses.ReservedTwice, other="Ostvik Terminal", other_prefix="10.91.0.0/16"),
    ),
    ([_net("192.168.1.0/25", role="pool")], Code.ADDRESS_HOME_PREFIX, like(people.UsualAtHome, home="192.168.1.0/24")),
    ([_net("192.168.0.0/22"), _profile()], Code.ADDRESS_HOME_PREFIX, like(people.UsualAtHome, prefix="192.168.0.0/22")),
    ([_profile(pool_id="harbour-crew-access", people=180)], Code.PROFILE_POOL_TOO_SMALL, like(people.PoolTooSmall, room="126")),
    (
        [_net("10.90.0.0/27", role="pool", dhcp_ranges=["10.90.0.2-10.90.0.26"]), _profile(pool_id="x", people=28)],
        Code.PROFILE_POOL_TOO_SMALL,
        like(people.PoolTooSmall, room="25"),
    ),
    (
        [
            _net("10.90.0.0/24", role="pool", dhcp_routes=["10.64.0.0/14 via 10.90.0.1", "default via 10.90.0.1"]),
            _profile(pool_id="x", mode="only", networks=["10.64.0.0/10"]),
        ],
        Code.PROFILE_DEFAULT_INSIDE,
        like(people.DefaultInside, pool="x"),
    ),
]


@pytest.mark.parametrize(("objects", "code", "said"), CASES, ids=[f"{k}-{case[1]}" for k, case in enumerate(CASES)])
def test_each_fault_is_told_and_mended(objects, code, said):
    """A fault among hosts and ranges has its finding with the values; every remedy takes it away and stops nothing."""
    design = _design(*objects)
    before = findings(design, TODAY)
    told = next(candidate for candidate in before if candidate.code == code)
    assert is_said(said, told.why.reason)
    blockers = {candidate.code for candidate in before if candidate.severity.value == "blocker"}
    for remedy in remedies(design, told):
        after = findings(apply_operations(design, remedy.operations), TODAY)
        assert not [candidate for candidate in after if candidate.code == code and candidate.why == told.why]
        assert {candidate.code for candidate in after if candidate.severity.value == "blocker"} <= blockers


@pytest.mark.parametrize(
    "objects",
    [
        [_net(dhcp_ranges=["10.90.0.10-10.90.0.40"], gateway_address="10.90.0.1"), _host("10.90.0.7")],
        [_net(dhcp_ranges=["10.90.0.10-10.90.0.40"]), _host("10.90.0.20", assignment="reserved")],
        [_net(), _net("10.90.0.0/24", "y", "ostvik", zone="apart"), _host("10.90.0.7"), _host("10.90.0.7", "g", "y")],
        [_reserved("10.65.0.0/16")],
        [_net("192.168.1.0/24"), _profile(mode="only", networks=["10.64.0.0/22"])],
        [_net("192.168.1.0/24"), _profile(mode="all-but", networks=["192.168.0.0/16"], families=["desktop"])],
        [_profile(pool_id="harbour-crew-access", people=126)],
    ],
)
def test_what_is_sound_is_left_alone(objects):
    """A reservation in its range, twins in isolated zones, a reservation around one's own networks: nothing to say."""
    before = {finding.why for finding in findings(DESIGN, TODAY)}
    told = {finding.why for finding in findings(_design(*objects), TODAY) if finding.code not in ABOUT_SPLITS}
    assert told - before == set()


def test_findings_at_one_place_are_mended_each_by_its_own():
    """Two ranges of one network lie outside it: what mends one of them leaves the other to be told."""
    ranges = ("10.65.9.1-10.65.9.9", "10.65.10.1-10.65.10.9")
    design = _design(_net("10.65.7.0/24", "x", dhcp_ranges=ranges))
    told = [finding for finding in findings(design, TODAY) if finding.code is Code.ADDRESS_DHCP_OUTSIDE]
    assert len({finding.at for finding in told}) == 1
    for mended, other in (told, told[::-1]):
        (remedy,) = remedies(design, mended)
        after = findings(apply_operations(design, remedy.operations), TODAY)
        assert [finding.why for finding in after if finding.code is Code.ADDRESS_DHCP_OUTSIDE] == [other.why]


def test_widening_takes_the_selectors_along():
    """A pool that is widened where it stands is named at its new size by every tunnel and route that named the old one."""
    design = _design(_net("10.65.0.0/24", "ostvik-ticketing", hosts_expected=400))
    told = next(finding for finding in findings(design, TODAY) if finding.code == Code.ADDRESS_TOO_SMALL)
    after = apply_operations(design, remedies(design, told)[0].operations)
    assert str(after.network_by_id["ostvik-ticketing"].prefix) == "10.65.0.0/23"
    assert "10.65.0.0/23" in {str(network) for network in after.tunnel_by_id["harbour-ostvik"].left.remote_networks}


def test_home_prefixes_are_ranked_and_reasoned():
    """Each row says why it is thought to be usual; the first that a prefix touches is told; nothing speaks of odds."""
    assert all(row.reasoning and "%" not in row.reasoning for row in HOME_PREFIXES)
    found = usual_at_home(parse_prefix("192.168.0.0/16"))
    assert found == HOME_PREFIXES[0]
    assert usual_at_home(parse_prefix("10.64.0.0/11")) is None


def test_home_prefixes_are_never_offered():
    """Even a supernet that holds nothing else offers no block that is usual at home."""
    wide = put(DesignSettings(name="x", supernets=(parse_prefix("192.168.0.0/23"),)))
    design = apply_operations(_design(_net("192.168.1.0/25", role="pool")), [wide])
    told = next(finding for finding in findings(design, TODAY) if finding.code == Code.ADDRESS_HOME_PREFIX)
    assert not remedies(design, told)


def test_two_equal_networks_are_mended_without_supernets():
    """Where no supernets are given a collision has a remedy all the same: supernets first, and then the move into them."""
    twins = _design(_net("192.168.1.0/24", "one", "ostvik"), _net("192.168.1.0/24", "two", "harbour"))
    design = apply_operations(twins, [put(DesignSettings(name="x"))])
    told = next(
        finding
        for finding in findings(design, TODAY)
        if finding.code == Code.ADDRESS_OVERLAP and finding.where[0].id in ("one", "two")
    )
    first = remedies(design, told)[0]
    assert first.title.startswith("Take 10.0.0.0/8 as supernet, and renumber ")
    after = apply_operations(design, first.operations)
    assert after.name == "x"
    assert [str(supernet) for supernet in after.supernets] == ["10.0.0.0/8"]
    assert not [finding for finding in findings(after, TODAY) if finding.why == told.why]
    out = ways_out(design)
    assert not meetings(apply_operations(design, out.operations))


def test_an_inner_network_that_equals_a_lan_is_mended_without_supernets():
    """The tunnel's own network moves into free space, which is proposed as supernet first."""
    design = apply_operations(DESIGN, [put(DesignSettings(name="x"))])
    design = with_end(Side.LEFT, design, inner_address="10.65.0.1/24")
    design = with_end(Side.RIGHT, design, inner_address="10.65.0.2/24")
    told = next(finding for finding in findings(design, TODAY) if finding.code == Code.ADDRESS_INNER_NETWORK)
    after = apply_operations(design, remedies(design, told)[0].operations)
    assert after.supernets
    assert Code.ADDRESS_INNER_NETWORK not in {finding.code for finding in findings(after, TODAY)}
