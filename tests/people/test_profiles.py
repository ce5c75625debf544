"""Both ends of a dialled-in tunnel, what platforms can't do, and what a device takes for inside."""

from __future__ import annotations

from datetime import date
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.addressing import parse_prefix
from pontifex.core.catalogue import Code, Screen
from pontifex.core.findings.check import analyse
from pontifex.core.findings.finding import Finding
from pontifex.core.kinds import Ability, InsideTest, Mode, ObjectType, Platform, PlatformFamily, Profile, Route
from pontifex.core.matching import StageState
from pontifex.core.model import Design, apply_operations, put
from pontifex.core.people import asked, dial_outcome, dialled_in, lacking, place_named, places
from pontifex.core.people.abilities import usual_platform
from pontifex.core.rehearsal import Rehearsal, rehearse
from pontifex.demo import demo_design
from tests.support.remedies import remedies

TODAY = date(2026, 11, 27)
DEMO = demo_design()
CREW = DEMO.profiles[0]


def _crew(**fields: Any) -> Design:
    return apply_operations(DEMO, [put(Profile.model_validate({**CREW.model_dump(), **fields}))])


def _end(name: str, **fields: Any) -> dict[str, Any]:
    return {name: {**getattr(CREW, name).model_dump(), **fields}}


def _findings(design: Design) -> dict[Code, Finding]:
    """The findings about profiles, but for those that the demo has anyway."""
    known = {(finding.code, str(finding.why)) for finding in analyse(DEMO, TODAY).findings}
    found = [finding for finding in analyse(design, TODAY).findings if (finding.code, str(finding.why)) not in known]
    return {finding.code: finding for finding in found if any(place.type is ObjectType.PROFILE for place in finding.where)}


def test_the_dialled_tunnel_comes_up_as_foretold():
    """The forecast of a profile is what octets do when its device dials: it comes up, carries, rekeys and comes back."""
    dialled = dialled_in(DEMO, CREW, place_named(DEMO, CREW, "home"))
    call = dial_outcome(dialled, TODAY)
    assert call.state is StageState.HOLDS
    course = rehearse(dialled.design, dialled.tunnel, TODAY)
    assert isinstance(course, Rehearsal)
    assert course.outcome.up


BROKEN = {
    "proposals": (
        _end("gateway_end", ike_proposals=DEMO.tunnel_by_id["harbour-tarn"].right.model_dump()["ike_proposals"]),
        Code.IKE_NO_COMMON_PROPOSAL,
    ),
    "identity": (_end("device_end", remote_identity={"type": "fqdn", "value": "dail.skerry.example"}), Code.END_IDENTITY_DIFFERS),
    "authority": (
        _end("device_end", trust_anchors=DEMO.tunnel_by_id["dock-exit"].model_dump()["left"]["trust_anchors"]),
        Code.CERT_ROOT_LACKING,
    ),
    "proof": (_end("gateway_end", remote_auth="eap"), Code.AUTH_METHOD_DIFFERS),
    "server": ({"servers": ["203.0.113.9"]}, Code.REACH_WRONG_ADDRESS),
}


@pytest.mark.parametrize("what", BROKEN)
def test_what_keeps_a_tunnel_from_coming_up_keeps_a_profile(what: str):
    """Told at the profile, on its own screen; and a remedy that there is mends the profile."""
    fields, code = BROKEN[what]
    design = _crew(**fields)
    found = _findings(design)[code]
    assert (found.where[0].type, found.where[0].id, found.screen) == (ObjectType.PROFILE, "crew", Screen.PEOPLE)
    assert found.where[0].field.split("/")[0] in Profile.model_fields
    for remedy in remedies(design, found):
        assert code not in _findings(apply_operations(design, remedy.operations))


def test_a_profile_that_is_a_split_alone_is_asked_nothing():
    """While nobody has said how either end is set, no question about it stands in the worklist."""
    unset = {name: Profile.model_fields[name].get_default().model_dump() for name in ("device_end", "gateway_end")}
    assert Code.TUNNEL_NOT_KNOWN not in _findings(_crew(**unset, servers=[]))


@pytest.mark.parametrize(
    ("fields", "code", "says"),
    [
        (
            {"inside_tests": [{"by": "prefix", "value": "192.168.1.0/24"}]},
            Code.PROFILE_SEEMS_INSIDE,
            "knows the inside by prefix 192.168.1.0/24",
        ),
        ({"inside_tests": [{"by": "prefix", "value": "10.99.0.0/24"}]}, Code.PROFILE_SEEMS_OUTSIDE, "Harbour House's staff"),
        (
            {"inside_tests": [{"by": "probe", "value": "rota.skerry.example:443"}]},
            Code.PROFILE_PROBE_THROUGH,
            "10.64.8.10 answers through its tunnel",
        ),
        ({"servers": ["198.51.100.10", "spare.skerry.example"]}, Code.PROFILE_SERVER_ELSEWHERE, "dials spare.skerry.example"),
        (
            {"mode": "all", "networks": [], "lock_down": False, "dial": "always"},
            Code.PROFILE_OPEN_WHEN_DOWN,
            "sends everything through",
        ),
        ({"dial": "by-hand"}, Code.PROFILE_PLATFORM_CANNOT, "only with dialling always"),
    ],
)
def test_what_a_profile_gets_wrong(fields: dict[str, Any], code: Code, says: str):
    """Each fault by itself, with its values; and its remedy mends it."""
    design = _crew(**fields)
    found = _findings(design)[code]
    assert says in str(found.why)
    for remedy in remedies(design, found):
        assert code not in _findings(apply_operations(design, remedy.operations))


def test_no_way_back_to_the_pool():
    """A site whose gateway sends the pool's addresses elsewhere: people reach it, and get no answer."""
    tunnel = DEMO.tunnel_by_id["harbour-ostvik"]
    ends = [end.changed(mode=Mode.ROUTE, local_networks=(), remote_networks=()) for end in (tunnel.left, tunnel.right)]
    ways = (("harbour-gateway", "10.65.0.0/16"), ("ostvik-gateway", "10.64.0.0/22"))
    routes = [
        put(Route(id=f"way-{at}", name="", gateway_id=gateway, prefix=parse_prefix(prefix), tunnel_id=tunnel.id))
        for at, (gateway, prefix) in enumerate(ways)
    ]
    routed = apply_operations(DEMO, [put(tunnel.changed(left=ends[0], right=ends[1])), *routes])
    assert "Ostvik Terminal's cameras, and no answer" in str(_findings(routed)[Code.PROFILE_NO_WAY_BACK].why)
    wider = apply_operations(routed, [put(routed.routes[-1].changed(prefix=parse_prefix("10.64.0.0/16")))])
    assert Code.PROFILE_NO_WAY_BACK not in _findings(wider)


FAMILIES = st.sampled_from(PlatformFamily)
ABILITIES = st.sets(st.sampled_from(Ability), max_size=4).map(tuple)


@given(FAMILIES, ABILITIES, ABILITIES)
def test_what_a_platform_lacks(family: PlatformFamily, cannot: tuple[Ability, ...], can: tuple[Ability, ...]):
    """What is said that it can is never lacking; what is said that it can't is lacking where it is asked."""
    platform = Platform(id="p", name="p", family=family, cannot=cannot, can=can)
    lacks = {lack.asked.ability for lack in lacking(CREW, platform)}
    usual = {lack.asked.ability for lack in lacking(CREW, usual_platform(family))}
    assert not lacks & set(can)
    assert lacks <= usual | set(cannot)
    wanted = {need.ability for need in asked(CREW)}
    assert lacks >= wanted & (set(cannot) - set(can))


@pytest.mark.parametrize(
    ("by", "value", "reason"),
    [("prefix", "10.64.0.0/33", "the length /33 is out of range"), ("probe", "rota.skerry.example", "no host with a port")],
)
def test_a_test_that_tests_nothing_is_refused(by: str, value: str, reason: str):
    """With the reason."""
    with pytest.raises(ValueError, match=reason):
        InsideTest.model_validate({"by": by, "value": value})


def test_a_home_of_ones_own_and_a_place_that_is_none():
    """`--at` takes a place or a prefix; the places of the demo are known by name."""
    assert {place.kind.value for place in places(DEMO, CREW)} == {"home", "hotel", "proxy", "office"}
    assert str(place_named(DEMO, CREW, "10.64.8.0/24").prefix) == "10.64.8.0/24"
    with pytest.raises(ValueError, match="is no place"):
        place_named(DEMO, CREW, "the moon")


def test_an_end_that_says_it_is_anybody_is_refused():
    """Expecting any identity is possible; saying any isn't, of a profile's end as little as of a tunnel's."""
    with pytest.raises(ValueError, match="must say one of its own"):
        Profile.model_validate({**CREW.model_dump(), **_end("gateway_end", local_identity={"type": "any", "value": ""})})
