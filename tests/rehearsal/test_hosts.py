"""What hosts behind the gateways try: connections, hops, the address outside and resolvers, against the trace."""

from __future__ import annotations

import struct

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.addressing import Address, Family
from pontifex.core.kinds import DesignMember, Filter, Network, Route, TunnelEnd
from pontifex.core.model import Design, apply_operations, put
from pontifex.core.rehearsal import Rehearsal, RehearsalConditions, rehearse
from pontifex.core.rehearsal.hosts.packet import DNS_PORT, HostPacket, Saying, read_host_packet
from pontifex.core.rehearsal.outcome import ProbePair
from pontifex.core.rehearsal.probes import ProbeKind
from pontifex.demo import demo_design
from tests.support.designs import TODAY
from tests.truth.ends import AGREED, design_of
from tests.truth.host_ways import judge

SEEDS = range(150)
_LANS = {"left": "10.64.0.0/24", "right": "10.65.0.0/24"}
_INNER = {"left": "10.95.0.1/30", "right": "10.95.0.2/30"}
_ENDS = {"mode": "route", "local_networks": ["0.0.0.0/0"], "remote_networks": ["0.0.0.0/0"]}


def _joined(*more: DesignMember, resolvers: tuple[str, ...] = ()) -> Design:
    """A network at each site, and routes both ways into a tunnel with inner addresses."""
    design = design_of(AGREED)
    tunnel = design.tunnels[0]
    ends = [
        TunnelEnd.model_validate({**end.model_dump(mode="json"), **_ENDS, "inner_address": _INNER[side]})
        for side, end in (("left", tunnel.left), ("right", tunnel.right))
    ]
    objects = [*more]
    for side, prefix in _LANS.items():
        given_by_dhcp = list(resolvers) if side == "left" else []
        lan = {"id": f"lan-{side}", "site_id": side, "name": f"lan-{side}", "prefix": prefix, "resolvers": given_by_dhcp}
        objects.append(Network.model_validate({**lan, "gateway_address": prefix.replace("0/24", "1")}))
        far = _LANS["right" if side == "left" else "left"]
        objects.append(Route.model_validate({"id": f"to-{side}", "gateway_id": side, "prefix": far, "tunnel_id": "tunnel"}))
    design = design.changed(tunnels=(tunnel.changed(left=ends[0], right=ends[1]),))
    return apply_operations(design, [put(member) for member in objects])


def _tried(design: Design, tunnel_id: str = "tunnel") -> dict[tuple[ProbeKind, str], ProbePair]:
    """What became of each trial, by its kind and the side that it began at."""
    found = rehearse(design, design.tunnel_by_id[tunnel_id], TODAY, RehearsalConditions(with_hosts=True))
    assert isinstance(found, Rehearsal)
    assert all(pair.agrees for pair in found.probes)
    return {(pair.after.kind, pair.after.sender.value): pair for pair in found.probes}


def test_what_hosts_try_ends_as_the_trace_says():
    """For drawn rules, routes, filters and translations at both gateways."""
    ends, differing = judge(SEEDS)
    assert not differing, "\n".join(differing)
    for kind in ("tcp", "hops", "outside", "resolver"):
        assert min(ends[f"{kind} passes"], ends[f"{kind} lost"]) >= 20  # the draw isn't idle


def test_the_way_is_followed_hop_by_hop():
    """Each gateway answers from an address of its own; before the tunnel is up nothing comes back from behind it."""
    pair = _tried(_joined())[ProbeKind.HOPS, "left"]
    assert [str(answer) for answer in pair.before.answers] == ["10.64.0.1"]
    assert [str(answer) for answer in pair.after.answers] == ["10.64.0.1", "10.95.0.2", "10.65.0.10"]


@pytest.mark.parametrize(("port", "connects"), [("443", True), ("80", False)])
def test_a_filter_lets_one_port_through(port, connects):
    """A stateful filter at the right lets a connection in, with its answers, and nothing else; what begins there isn't asked."""
    named = {"id": "f", "name": "f", "gateway_id": "right", "direction": "in", "destinations": [f"10.65.0.0/24 tcp {port}"]}
    tried = _tried(_joined(Filter.model_validate(named)))
    assert tried[ProbeKind.TCP, "left"].after.passes is connects
    assert not tried[ProbeKind.HOPS, "left"].after.passes
    assert tried[ProbeKind.TCP, "right"].after.passes


def test_a_gateway_that_does_not_forward_is_the_last_hop():
    """Its hosts get no further than to itself."""
    design = _joined()
    gateways = tuple(gateway.changed(forwarding=gateway.id == "left") for gateway in design.gateways)
    tried = _tried(design.changed(gateways=gateways))
    assert not tried[ProbeKind.TCP, "left"].after.passes
    assert not tried[ProbeKind.HOPS, "right"].after.answers


def test_the_second_resolver_answers_where_the_first_is_nowhere():
    """The first one's address is in no network; the second is behind the tunnel, and answers once that is up."""
    pair = _tried(_joined(resolvers=("10.99.0.53", "10.65.0.53")))[ProbeKind.RESOLVER, "left"]
    assert not pair.before.passes
    assert [str(answer) for answer in pair.after.answers] == ["10.65.0.53"]


def test_the_outside_sees_the_exit_once_the_tunnel_is_up():
    """Before, it sees the yard's own line."""
    pair = _tried(demo_design(), "dock-exit")[ProbeKind.OUTSIDE, "left"]
    assert [str(answer) for answer in (*pair.before.answers, *pair.after.answers)] == ["192.0.2.129", "192.0.2.130"]
    assert pair.foreseen == pair.after.answers


def test_what_is_lost_on_the_way_is_tried_again():
    """With a fifth of all packets lost at each uplink hosts still connect."""
    design = _joined()
    lossy = design.changed(uplinks=tuple(uplink.changed(loss_percent=20.0) for uplink in design.uplinks))
    found = rehearse(lossy, lossy.tunnels[0], TODAY, RehearsalConditions(until_s=30.0, with_hosts=True))
    assert isinstance(found, Rehearsal)
    tried = {pair.after.kind: pair.after.passes for pair in found.probes}
    assert tried[ProbeKind.TCP]
    assert tried[ProbeKind.HOPS]


_addresses = st.sampled_from(Family).flatmap(
    lambda family: st.tuples(*[st.integers(1, family.last - 1).map(lambda value: Address(family, value))] * 2)
)
_PORTS = {Saying.QUERY: (4711, DNS_PORT), Saying.ANSWER: (DNS_PORT, 4711), Saying.ECHO_REQUEST: (7, 0), Saying.ECHO_REPLY: (0, 7)}


@given(ends=_addresses, saying=st.sampled_from(Saying), hops=st.integers(1, 255), dscp=st.integers(0, 63))
def test_a_packet_of_a_host_is_read_as_it_was_written(ends, saying, hops, dscp):
    """In both families, with its class and hops; and what a gateway quotes of it is read, too."""
    ports = (0, 0) if saying is Saying.TIME_EXCEEDED else _PORTS.get(saying, (50_000, 443))
    packet = HostPacket(ends[0], ends[1], saying, ports, hops, dscp)
    assert read_host_packet(packet.octets()) == packet
    error = read_host_packet(packet.exceeded(ends[1]).octets())
    quoted = read_host_packet(error.quoted)
    assert (quoted.source, quoted.destination, quoted.protocol) == (packet.source, packet.destination, packet.protocol)
    _check_sum(packet)


def _check_sum(packet: HostPacket) -> None:
    """The sum over what RFC 1071 sums is all ones; ICMP of IPv4 sums no addresses."""
    family, octets = packet.source.family, packet.octets()
    body = octets[20 if family is Family.V4 else 40 :]
    width = family.bits // 8
    addresses = packet.source.value.to_bytes(width) + packet.destination.value.to_bytes(width)
    pseudo = addresses + len(body).to_bytes(4) + packet.protocol.to_bytes(4)
    summed = body if packet.protocol == 1 else pseudo + body
    total = sum(struct.unpack(f">{len(summed) // 2}H", summed))
    while total >> 16:
        total = (total & 0xFFFF) + (total >> 16)
    assert total == 0xFFFF
