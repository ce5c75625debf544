"""A device followed through its day: what is dialled, who resolves a name, where a packet goes, and what when it drops."""

from __future__ import annotations

import ipaddress
import json
from datetime import date
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from pontifex.cli import app
from pontifex.core.addressing import Address, AddressError, Family, Prefix, Service, parse_address
from pontifex.core.addressing.dhcp_routes import DhcpRoute, parse_dhcp_routes
from pontifex.core.design_file import write_design_file
from pontifex.core.kinds import PlatformFamily, Profile, SplitMode, TrafficRule, TrafficWay
from pontifex.core.model import Design, apply_operations, put
from pontifex.core.people import DeviceTrace, Sends, all_flows, device_trace, place_named, places
from pontifex.core.people.abilities import usual_platform
from pontifex.core.people.device_trace import read_destination
from pontifex.core.people.place import DevicePlace, PlaceKind
from pontifex.core.people.sends import DeviceTunnelState, OutgoingPacket, Sender
from pontifex.core.routing import ANY_SERVICE, Split, Tables, route_list
from pontifex.demo import demo_design

run = CliRunner().invoke
TODAY = date(2026, 11, 27)
DEMO = demo_design()
CREW = DEMO.profiles[0]
LAPTOP = usual_platform(PlatformFamily.DESKTOP)


def _crew(**fields: Any) -> Design:
    return apply_operations(DEMO, [put(Profile.model_validate({**CREW.model_dump(), **fields}))])


def _followed(
    at: str, to: str, design: Design = DEMO, family: PlatformFamily = PlatformFamily.DESKTOP, wanting: str = ""
) -> DeviceTrace:
    profile = design.profiles[0]
    destination = read_destination(design, to, ANY_SERVICE, wanting)
    pool, platform = design.network_by_id.get(profile.pool_id or ""), usual_platform(family)
    return device_trace(Tables(design), profile, place_named(design, profile, at), platform, destination, TODAY, pool)


def test_a_day_of_the_deck_crew():
    """At home through the tunnel and back; in a hotel nothing leaves; at the quay nothing is dialled."""
    home = _followed("home", "timetable")
    assert (home.is_dialled, home.way, home.arrives, home.dropped_way) == (True, Sends.THROUGH, True, Sends.HELD)
    assert home.resolver
    assert (home.resolver.resolver, home.resolver.way) == ("10.64.8.10", Sends.THROUGH)
    hotel = _followed("hotel", "timetable")
    assert (hotel.is_dialled, hotel.way, hotel.arrives) == (False, Sends.HELD, False)
    assert "nothing but TCP 443 gets out" in hotel.dials
    office = _followed("office", "timetable")
    assert (office.is_dialled, office.way, office.beyond is not None) == (False, Sends.BESIDE, True)
    assert "suffix quay.skerry.example" in office.dials


def test_what_the_split_forgets_goes_beside():
    """Basalt isn't in the split: its address is nobody's at home."""
    found = _followed("home", "cloud resolver")
    assert (found.way, found.arrives) == (Sends.BESIDE, False)
    assert found.verdict.startswith("Lost: out by the network that the device is in")


def test_a_home_with_the_same_prefix_hides_the_office():
    """The narrower of both wins: a home in the servers' own prefix keeps what is for them."""
    found = _followed("10.64.8.0/23", "timetable")
    assert (found.way, found.arrives) == (Sends.LOCAL, False)
    wide = _followed("10.0.0.0/8", "timetable")
    assert wide.way is Sends.THROUGH


def test_names_without_a_resolver_are_asked_at_home():
    """Whoever is asked at home doesn't know the name, and nothing goes anywhere."""
    found = _followed("home", "rota.skerry.example", _crew(resolvers=[]))
    assert found.resolver
    assert (found.resolver.resolver, found.resolver.address, found.destination) == ("192.168.1.1", "", "")
    assert found.verdict == "rota.skerry.example isn't resolved: 192.168.1.1 doesn't know it"


@pytest.mark.parametrize(
    ("family", "app", "way"),
    [("desktop", "Films", Sends.BESIDE), ("desktop", "", Sends.THROUGH), ("appliance", "Films", Sends.THROUGH)],
)
def test_rules_by_application(family: str, app: str, way: Sends):
    """A rule names an application; a platform that can't tell applications apart does without the rule."""
    design = _crew(rules=[{"application": "Films", "way": "beside"}])
    assert _followed("home", "10.64.8.10", design, PlatformFamily(family), app).way is way


def test_without_lock_down_what_was_protected_goes_out_in_clear():
    """Once the tunnel has dropped."""
    found = _followed("home", "203.0.113.200", _crew(mode="all", networks=[], lock_down=False))
    assert (found.way, found.dropped_way) == (Sends.THROUGH, Sends.BESIDE)
    assert found.dropped == "it goes out in clear, by the network that the device is in"


def test_a_target_that_is_none():
    """Neither a host nor an address."""
    with pytest.raises(AddressError, match="no host of the design is called 'the moon'"):
        read_destination(DEMO, "the moon", ANY_SERVICE, "")


BLOCKS = st.builds(
    lambda value, length: Prefix(Family.V4, (0x0A000000 | value) >> (32 - length) << (32 - length), length),
    st.integers(0, 2**12 - 1),
    st.integers(20, 32),
)
INSIDE = st.integers(0, 2**12 - 1).map(lambda value: Address(Family.V4, 0x0A000000 | value))
RULES = st.lists(
    st.builds(
        TrafficRule, prefix=st.none() | BLOCKS, service=st.none() | st.just(Service((6, 6))), way=st.sampled_from(TrafficWay)
    ),
    max_size=3,
)


@given(st.sampled_from(SplitMode), st.lists(BLOCKS, max_size=4), BLOCKS, RULES, st.lists(INSIDE, min_size=1, max_size=8))
def test_where_a_device_sends_a_packet(mode, networks, here, rules, addresses):
    """Held against a table of the standard library: the first rule that names it, else the longest of the prefixes."""
    fields = {"mode": mode, "networks": networks, "rules": tuple(rules), "lock_down": False, "pool_id": None}
    sender = Sender(
        DEMO, Profile.model_validate({**CREW.model_dump(), **fields}), DevicePlace(PlaceKind.HOME, "here", here), LAPTOP
    )
    for address in addresses:
        wanted = ipaddress.ip_address(str(address))
        named = [ipaddress.ip_network(str(network)) for network in networks]
        rule = next(
            (
                candidate
                for candidate in rules
                if candidate.service is None
                and (candidate.prefix is None or wanted in ipaddress.ip_network(str(candidate.prefix)))
            ),
            None,
        )
        sent = sender.sent(OutgoingPacket(address), DeviceTunnelState.UP)
        if rule:
            assert sent.way.value == {"through": "through", "beside": "beside", "blocked": "held"}[rule.way.value]
            continue
        split = {
            "all": True,
            "only": any(wanted in network for network in named),
            "all-but": not any(wanted in network for network in named),
        }[mode.value]
        home = ipaddress.ip_network(str(here))
        if wanted not in home:
            assert sent.way is (Sends.THROUGH if split else Sends.BESIDE)
        elif not split:
            assert sent.way is Sends.LOCAL
        else:  # a route that holds all of the home is no narrower than it, and one inside it is
            whole = all(_is_split(mode.value, named, address) for address in (home.network_address, home.broadcast_address))
            assert sent.way in ((Sends.LOCAL, Sends.THROUGH) if whole else (Sends.THROUGH,))


def _is_split(mode: str, named: list[Any], address: Any) -> bool:
    inside = any(address in network for network in named)
    return mode == "all" or inside == (mode == "only")


def test_all_flows_at_once_are_what_each_trace_says():
    """Every cell of the table, held against a device that is followed by itself."""
    tables = Tables(DEMO)
    table = all_flows(tables, CREW, TODAY)
    by_kind = {place.kind: place for place in places(DEMO, CREW)}
    compared = 0
    for destination, row in zip(table.destinations, table.rows, strict=True):
        if destination.name.startswith("rule"):
            continue
        for column, cell in zip(table.columns, row, strict=True):
            at, platform = by_kind[column.place], usual_platform(column.family)
            address = Address(*parse_address(destination.address))
            found = device_trace(tables, CREW, at, platform, read_destination(DEMO, str(address), ANY_SERVICE, ""), TODAY, None)
            assert (cell.way, cell.dropped_way, cell.why) == (found.way, found.dropped_way, found.why)
            assert column.is_dialled is found.is_dialled
            compared += 1
    assert compared == len(table.columns) * (len(table.destinations) - 2)


@pytest.fixture(scope="module")
def file(tmp_path_factory) -> str:
    path = tmp_path_factory.mktemp("design") / "demo.json"
    path.write_text(write_design_file(DEMO))
    return str(path)


def test_the_command_follows_a_device(file: str):
    """In words and as JSON, by its exit code, and with what can't be read refused."""
    told = run(app, ["profile", file, "Crew access", "--to", "timetable", "--at", "home"])
    assert (told.exit_code, told.stdout.splitlines()[0]) == (0, "at home, in 192.168.1.0/24: dialled at once")
    lost = run(app, ["profile", file, "crew", "--to", "cloud resolver", "--json"])
    assert (lost.exit_code, json.loads(lost.stdout)["way"]) == (1, "beside")
    flows = json.loads(run(app, ["profile", file, "crew", "--json"]).stdout)
    assert len(flows["rows"]) == len(flows["destinations"])
    for arguments, says in (
        (["nobody"], "names 0 profiles"),
        (["crew", "--to", "timetable", "--at", "the moon"], "is no place"),
        (["crew", "--to", "the moon"], "no host of the design"),
    ):
        refused = run(app, ["profile", file, *arguments])
        assert (refused.exit_code, says in refused.stderr) == (2, True)


def test_until_its_lease_is_renewed_a_device_goes_by_the_old_routes():
    """The pool hands out fewer routes than the split has: what they leave out goes beside, and through after the renewal."""
    pool = DEMO.network_by_id[CREW.pool_id or ""]
    through = _followed("home", "timetable")
    assert through.leased is None  # the pool hands out no routes
    narrow = pool.changed(dhcp_routes=parse_dhcp_routes("10.64.30.0/24 via 10.64.30.1"))
    held = _followed("home", "timetable", apply_operations(DEMO, [put(narrow)]))
    assert (held.way, held.arrives) == (Sends.THROUGH, True)
    assert held.leased
    assert (held.leased.way, held.leased.arrives, held.leased.differs) == (Sends.BESIDE, False, True)
    assert held.leased.why.startswith("the lease doesn't name")
    assert "isn't resolved" in held.leased.verdict  # its resolver is asked beside the tunnel, too
    by_address = _followed("home", "10.64.9.20", apply_operations(DEMO, [put(narrow)]))
    assert by_address.leased
    assert by_address.leased.verdict.startswith("Lost: ")
    renewed = pool.changed(dhcp_routes=tuple(DhcpRoute(prefix, narrow.dhcp_routes[0].via) for prefix in _handed_out(DEMO)))
    after = _followed("home", "timetable", apply_operations(DEMO, [put(renewed)]))
    assert after.leased
    assert (after.leased.way, after.leased.verdict, after.leased.differs) == (Sends.THROUGH, after.verdict, False)
    profile, laptop = DEMO.profiles[0], usual_platform(PlatformFamily.DESKTOP)
    destination, at_home = read_destination(DEMO, "timetable", ANY_SERVICE, ""), place_named(DEMO, profile, "home")
    older = device_trace(Tables(DEMO), profile, at_home, laptop, destination, TODAY, narrow)
    assert older.leased == held.leased


def _handed_out(design: Design) -> tuple[Prefix, ...]:
    profile = design.profiles[0]
    pool = design.network_by_id[profile.pool_id or ""]
    return route_list(Split.of(profile, pool.prefix), profile.most_routes).prefixes
