"""What people's devices are given when they dial in: addresses, resolvers and suffixes (RFC 7296 sections 2.19 and 3.15)."""

from __future__ import annotations

import json
from typing import Any

import pytest
from typer.testing import CliRunner

from pontifex.cli import app
from pontifex.core.addressing import Address, Selector, parse_address, parse_prefix
from pontifex.core.addressing.address_range import parse_range
from pontifex.core.design_file import write_design_file
from pontifex.core.ike.effects import ChildInstalled, Configured
from pontifex.core.ike.payloads import Configuration, NotifyType
from pontifex.core.ike.payloads.configuration import Attribute, ConfigurationAttribute, ConfigurationType
from pontifex.core.ike.settings import HandedOut
from pontifex.core.kinds import AuthMethod, DialInEnd, EapMethod, Profile
from pontifex.core.matching import Stage
from pontifex.core.people import dialled_in, place_named
from pontifex.core.rehearsal import Rehearsal, rehearse_dial_in
from pontifex.core.rehearsal.probes import ProbeKind
from pontifex.demo import demo_design
from tests.support.designs import TODAY
from tests.support.two_ends import TwoEnds
from tests.support.witness import keys_of, read_by_witness

ANYTHING = parse_prefix("0.0.0.0/0")


def _address(text: str) -> Address:
    return Address(*parse_address(text))


GIVEN = HandedOut(
    parse_prefix("10.64.30.0/29"),
    frozenset({_address("10.64.30.1")}),
    (parse_range("10.64.30.2-10.64.30.3"),),
    (_address("10.64.8.10"),),
    ("skerry.example",),
)


def _ends(given: HandedOut = GIVEN, **left: Any) -> TwoEnds:
    """A caller that asks for an address, and an end that hands them out."""
    pool, everything = Selector.of(given.pool), Selector.of(ANYTHING)
    right = {"hands_out": given, "remote_networks": (pool,), "child_lifetime_s": 400.0, "margin_s": 60.0}
    return TwoEnds.of({"asks_address": True, "local_networks": (everything,), **left}, right)


def _installed(ends: TwoEnds, side: str) -> list[tuple[int, int]]:
    """The caller's first and last address in the Child SAs of a side."""
    found = [effect.child for at, effect in ends.effects if at == side and isinstance(effect, ChildInstalled)]
    regions = [sa.local if side == "left" else sa.remote for sa in found]
    return [(region[0].first, region[-1].last) for region in regions]


def test_a_caller_gets_the_first_free_address_and_keeps_it():
    """The Child SA is narrowed to it at both ends, a rekey is too, and who calls again asks for the same one."""
    ends = _ends()
    ends.dial()
    ends.run(1000)
    given = [effect for side, effect in ends.effects if side == "left" and isinstance(effect, Configured)]
    assert given == [Configured(_address("10.64.30.4"), (_address("10.64.8.10"),), ("skerry.example",))]
    assert len(_installed(ends, "right")) >= 3
    mine = _address("10.64.30.4").value
    assert {*_installed(ends, "left"), *_installed(ends, "right")} == {(mine, mine)}
    ends.dial()
    ends.run(1010)
    asked = [sent.message.first(Configuration) for side, sent in ends.sent if side == "left"]
    again = [candidate for candidate in asked if candidate][-1]
    assert str(again.attributes[0].address) == "10.64.30.4"
    assert _installed(ends, "left")[-1] == (mine, mine)


_FULL = HandedOut(parse_prefix("10.64.30.0/30"), frozenset(map(_address, ("10.64.30.1", "10.64.30.2"))))


@pytest.mark.parametrize(
    ("left", "given", "error"),
    [
        (
            {},
            HandedOut(parse_prefix("10.64.30.0/30"), frozenset(map(_address, ("10.64.30.1", "10.64.30.2")))),
            "INTERNAL_ADDRESS_FAILURE",
        ),
        ({"asks_address": False}, GIVEN, "FAILED_CP_REQUIRED"),
    ],
    ids=["no address is free", "none is asked for"],
)
def test_without_an_address_there_is_no_child_sa(left, given, error):
    """The IKE SA stands, and carries nothing (section 3.15.4)."""
    ends = _ends(given, **left)
    ends.dial()
    ends.run(5)
    errors = [sent.message.error.kind for side, sent in ends.sent if side == "right" and sent.message.error]
    assert errors == [NotifyType[error]]
    assert ends.left.sas
    assert not _installed(ends, "left")


def test_a_request_is_written_as_the_standard_draws_it():
    """RFC 7296 section 3.15.1: type and three reserved octets, then attributes of type, length and value."""
    address = ConfigurationAttribute(Attribute.INTERNAL_IP4_ADDRESS, bytes((10, 64, 30, 4)))
    domain = ConfigurationAttribute(Attribute.INTERNAL_DNS_DOMAIN, b"a.example")
    written = Configuration(ConfigurationType.REPLY, (address, domain)).body()
    assert written.hex(" ") == "02 00 00 00 00 01 00 04 0a 40 1e 04 00 19 00 09 61 2e 65 78 61 6d 70 6c 65"


def _called(place: str, **profile: Any) -> Rehearsal:
    design = demo_design()
    crew = Profile.model_validate({**design.profiles[0].model_dump(mode="json"), **profile})
    found = rehearse_dial_in(dialled_in(design, crew, place_named(design, crew, place)), crew, TODAY)
    assert isinstance(found, Rehearsal), found
    assert found.outcome.agrees
    return found


def _without_esn(end: DialInEnd) -> dict[str, Any]:
    """An end with short sequence numbers: the independent reader doesn't count the high half of long ones."""
    written = end.model_dump(mode="json")
    for proposal in written["child_proposals"]:
        for transform in proposal["transforms"]:
            transform["id"] = 0 if transform["type"] == "ESN" else transform["id"]
    return written


def test_a_device_dials_in_from_home(tmp_path):
    """It is given an address of the pool and the profile's resolvers; what goes over the wire an independent reader parts."""
    profile = demo_design().profiles[0]
    found = _called("home", **{name: _without_esn(getattr(profile, name)) for name in ("device_end", "gateway_end")})
    assert found.outcome.up
    given = next(effect for _, effect in found.effects if isinstance(effect, Configured))
    assert demo_design().network_by_id[profile.pool_id or ""].prefix.holds(given.address)
    assert given.resolvers == profile.resolvers
    across = [pair.after for pair in found.probes if pair.after.kind is ProbeKind.ACROSS]
    assert all(trial.passes for trial in across)
    seen = read_by_witness(found, keys_of(found), tmp_path)
    assert seen.complaints == ()
    assert (seen.opened, seen.inner) == (seen.sealed, seen.esp)


def test_only_a_proxy_gets_out():
    """A device whose network lets nothing but TCP 443 out stops at Reach, as forecast."""
    assert _called("proxy").outcome.stopped_at is Stage.REACH


def test_a_person_proves_itself_by_eap():
    """Each has an account of their own, which the design doesn't know: one is made up."""
    design = demo_design()
    profile = design.profiles[0]
    shared = {"eap_method": EapMethod.MSCHAP_V2.value}
    device = profile.device_end.model_dump(mode="json") | shared | {"local_auth": AuthMethod.EAP.value}
    gateway = profile.gateway_end.model_dump(mode="json") | shared | {"remote_auth": AuthMethod.EAP.value}
    found = _called("home", device_end=device, gateway_end=gateway)
    assert found.outcome.up
    assert any(line.name == "EAP" for event in found.messages for line in event.payloads)


def test_the_command_line_rehearses_a_call(tmp_path):
    """A profile in the place of a tunnel; with both, or a place that nobody knows, it is refused."""
    file = tmp_path / "design.json"
    file.write_text(write_design_file(demo_design()))
    run = CliRunner().invoke(app, ["rehearse", str(file), "--profile", "crew", "--at", "hotel", "--json"])
    assert (run.exit_code, json.loads(run.stdout)["stopped_at"]) == (1, "reach")
    for more in (["harbour-ostvik"], ["--at", "the moon"]):
        assert CliRunner().invoke(app, ["rehearse", str(file), "--profile", "crew", *more]).exit_code == 2
