"""DHCP as octets: there and back, read by another reader, and what becomes of leases when a scope changes."""

from __future__ import annotations

import json
import re
import subprocess
from contextlib import suppress

import pytest
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from pontifex.cli import app
from pontifex.core.addressing import Address, AddressRange, Family, parse_prefix
from pontifex.core.addressing.dhcp_routes import DhcpRoute, DhcpRoutesError, parse_dhcp_routes
from pontifex.core.design_file import write_design_file
from pontifex.core.dhcp import (
    ClientState,
    DhcpClient,
    DhcpError,
    DhcpMessage,
    DhcpServer,
    LeaseBlock,
    MessageType,
    OptionCode,
    Scope,
    decode_message,
)
from pontifex.core.dhcp.options import OptionsError, addresses_in, decode_options
from pontifex.core.handover.plan import change_plan
from pontifex.core.model import apply_operations, put
from pontifex.core.rehearsal.leases import lease_course
from pontifex.demo import demo_design
from tests.support.designs import TODAY

run = CliRunner().invoke
DEMO = demo_design()
POOL = DEMO.network_by_id["harbour-crew-access"]
OLD = POOL.changed(dhcp_routes=parse_dhcp_routes("10.64.0.0/14 via 10.64.30.1"))
NEW = POOL.changed(dhcp_routes=parse_dhcp_routes("10.64.0.0/14 via 10.64.30.1, 10.80.0.0/20 via 10.64.30.1"))
SERVER = Address(Family.V4, 0x0A401E01)
ADDRESSES = st.integers(0, 2**32 - 1).map(lambda value: Address(Family.V4, value))
OPTIONS = st.dictionaries(
    st.integers(1, 254).filter(lambda code: code != OptionCode.MESSAGE_TYPE), st.binary(max_size=600), max_size=6
)
MESSAGES = st.builds(
    DhcpMessage,
    type=st.sampled_from(MessageType),
    transaction=st.integers(0, 2**32 - 1),
    hardware=st.binary(min_size=6, max_size=6),
    is_reply=st.booleans(),
    client=ADDRESSES,
    yours=ADDRESSES,
    options=OPTIONS,
)


@given(MESSAGES)
def test_a_message_there_and_back(message):
    """Long options are split and put together again (RFC 3396)."""
    assert decode_message(message.octets()) == message


@given(MESSAGES, st.integers(0, 10**6), st.integers(0, 255))
def test_octets_that_were_cut_or_changed(message, at, value):
    """They are a message or are refused; nothing else happens."""
    octets = bytearray(message.octets())
    octets[at % len(octets)] = value
    for some in (bytes(octets), bytes(octets[: at % len(octets)])):
        with suppress(DhcpError):
            assert decode_message(some).type in MessageType
    with pytest.raises(OptionsError):
        decode_options(bytes((1, 4, 255)))
    with pytest.raises(OptionsError):
        addresses_in(b"123")


def _scope(count: int, lease_s: int = 3600, routes: tuple[DhcpRoute, ...] = ()) -> Scope:
    first = 0x0A401E0A
    ranges = (AddressRange(Family.V4, first, first + count - 1),)
    return Scope(parse_prefix("10.64.30.0/24"), ranges, lease_s, router=SERVER, routes=routes)


def _talk(server: DhcpServer, client: DhcpClient, message: DhcpMessage | None, now_s: float) -> None:
    while message:
        reply = server.answer(decode_message(message.octets()), now_s)
        message = client.receive(decode_message(reply.octets()), now_s) if reply else None


COURSES = st.lists(st.tuples(st.integers(0, 5), st.sampled_from(["join", "wait", "leave"]), st.integers(1, 4000)), max_size=30)


@given(COURSES, st.integers(1, 4))
def test_no_address_has_two_clients(course, room):
    """Whoever comes and goes, and whenever: leases that are bound have addresses of their own, out of the ranges."""
    server, now = DhcpServer(_scope(room), SERVER), 0.0
    clients = [DhcpClient(bytes((2, 0, 94, 16, 0, k))) for k in range(6)]
    for who, what, seconds in course:
        client = clients[who]
        if what == "join" and client.state is not ClientState.BOUND:
            _talk(server, client, client.discover(), now)
        elif what == "leave" and client.state is ClientState.BOUND:
            server.answer(client.release(), now)
        now += seconds
        for told_client in clients:
            _talk(server, told_client, told_client.due(now), now)
        bound = [candidate.address for candidate in clients if candidate.state is ClientState.BOUND]
        assert len(set(bound)) == len(bound) <= room
        assert all(server.scope.hands_out(lease) for lease in bound)


def test_option_121_outranks_the_router():
    """With it a client goes by its routes alone, without it by the router (RFC 3442)."""
    routes = parse_dhcp_routes("10.80.0.0/20 via 10.64.30.1")
    for given_routes, expected in ((routes, ["10.80.0.0/20"]), ((), ["0.0.0.0/0"])):
        server, client = DhcpServer(_scope(2, routes=given_routes), SERVER), DhcpClient(bytes(6))
        _talk(server, client, client.discover(), 0)
        assert [str(route.prefix) for route in client.routes] == expected


def test_a_request_for_what_is_not_there_is_refused():
    """A client that asks for another's address, and one that has chosen another server."""
    server, client = DhcpServer(_scope(1), SERVER), DhcpClient(bytes(6))
    _talk(server, client, client.discover(), 0)
    wanted: dict[int, bytes] = {OptionCode.REQUESTED_ADDRESS: client.address.value.to_bytes(4)}
    other = DhcpMessage(MessageType.REQUEST, 7, bytes((2, 0, 0, 0, 0, 9)), options=wanted)
    refused = server.answer(other, 1)
    assert refused
    assert refused.type is MessageType.NAK
    elsewhere = DhcpMessage(MessageType.REQUEST, 7, bytes(6), options={**wanted, OptionCode.SERVER_ID: bytes((192, 0, 2, 1))})
    assert server.answer(elsewhere, 1) is None


def test_a_block_keeps_what_it_was_told():
    """Renewed or not: whoever dials in goes by the old routes until the block is given back and taken anew."""
    server = DhcpServer(_scope(5, routes=OLD.dhcp_routes), SERVER)
    block = LeaseBlock(bytes((2, 0, 94, 16, 10, 2)), 8)

    def exchange(message: DhcpMessage) -> DhcpMessage | None:
        return server.answer(decode_message(message.octets()), 0)

    assert block.take(exchange, 0) == 5
    assert len({block.address(place) for place in range(5)}) == 5
    assert block.address(5) is None
    server.scope = _scope(5, routes=NEW.dhcp_routes)
    block.renew(exchange, 1900)
    assert block.routes == OLD.dhcp_routes
    block.give_back(exchange)
    assert server.leases == {}
    block.take(exchange, 2000)
    assert block.routes == NEW.dhcp_routes


def test_when_new_routes_arrive():
    """By itself at a host, after half a lease; never at those who dial in through a block."""
    host, _ = lease_course(OLD, NEW, None)
    assert host.new_after_s == 14_400
    assert [event.is_new for event in host.events] == [False, True]
    block, packets = lease_course(OLD, NEW, 4)
    assert block.new_after_s is None
    assert [(event.who, event.is_new) for event in block.events][-3:] == [
        ("a person", False),
        ("the gateway", True),
        ("a person", True),
    ]
    assert block.means == ("10.80.0.0/20: go beside the tunnel, and are to go through",)
    assert len(packets) > 20


def test_ipv6_has_no_such_leases():
    """It is said, and not taken for IPv4."""
    six = POOL.changed(prefix=parse_prefix("fd5c:9a1e:40::/64"), gateway_address=None)
    with pytest.raises(DhcpRoutesError, match="of IPv4 alone"):
        lease_course(six, six, None)


def test_ranges_of_another_family_are_no_part_of_a_scope():
    """A pool that was given ranges of IPv6 as well hands out those of its own family alone."""
    pool = demo_design().network_by_id["harbour-crew-access"]
    mixed = pool.changed(dhcp_ranges=(AddressRange(Family.V6, 0xFD << 120, (0xFD << 120) + 9),))
    assert lease_course(mixed, mixed, None)[0] == lease_course(pool, pool, None)[0]


def test_another_reader_reads_what_goes_over_the_wire(tmp_path):
    """`tshark` finds each message whole, with its options; the capture comes from the command line."""
    design = apply_operations(DEMO, [put(POOL.changed(lease_time_s=600))])
    file, capture = tmp_path / "design.json", tmp_path / "leases.pcapng"
    file.write_text(write_design_file(design))
    told = run(app, ["dhcp-routes", "leases", str(file), "crew", "--via", "10.64.30.1", "--pcap", str(capture), "--json"])
    course = json.loads(told.stdout)
    assert (told.exit_code, course["new_after_s"]) == (0, 300)
    command = ["tshark", "-r", str(capture), "-V", "-Y", "dhcp"]
    read = subprocess.run(command, capture_output=True, text=True, check=True).stdout
    kinds = re.findall(r"Option: \(53\) DHCP Message Type \((\w+)\)", read)
    assert kinds == ["Discover", "Offer", "Request", "ACK", "Request", "ACK"]
    assert "Malformed" not in read
    assert read.count("10.64.0.0/14-10.64.30.1") == 1  # in the last answer alone
    words = run(app, ["dhcp-routes", "leases", str(file), "crew", "--via", "10.64.30.1", "--default-inside"])
    assert "0.0.0.0/0 via 10.64.30.1" in words.stdout
    assert "1. change the scope" in words.stdout
    for arguments, says in ((["crew", "--via", "x"], "--via: "), (["nobody", "--via", "10.64.30.1"], "names 0 profiles")):
        refused = run(app, ["dhcp-routes", "leases", str(file), *arguments])
        assert (refused.exit_code, says in refused.stderr) == (2, True)


def test_a_plan_has_the_steps_by_which_new_routes_arrive():
    """The block is given back at the gateway; then those who hold leases renew them."""
    ranged = OLD.changed(dhcp_ranges=(AddressRange(Family.V4, 0x0A401E0A, 0x0A401E40),))
    crew = DEMO.profiles[0].changed(dhcp_block=10)
    before = apply_operations(DEMO, [put(ranged), put(crew)])
    after = apply_operations(before, [put(ranged.changed(dhcp_routes=NEW.dhcp_routes))])
    steps = [(step.device.name, step.does) for step in change_plan(before, after, TODAY).steps]
    (back,) = [at for at, (_, does) in enumerate(steps) if does.startswith("Give back the leases that it took for Crew access")]
    assert steps[back][0] == "Harbour firewall pair"
    assert steps[back + 1][1].startswith("Let the hosts of crew access renew their leases")
    without = change_plan(
        apply_operations(before, [put(DEMO.profiles[0])]), apply_operations(after, [put(DEMO.profiles[0])]), TODAY
    )
    assert not any("Give back" in step.does for step in without.steps)
