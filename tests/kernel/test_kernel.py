"""Tunnels dialled in the kernel: real sockets, real pings and connections, against the forecast and the trace."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from typer.testing import CliRunner

from pontifex.cli import app
from pontifex.core.design_file import write_design_file
from pontifex.core.kinds import Filter, Network, Role, Route, Technology, TunnelEnd
from pontifex.core.matching import Stage
from pontifex.core.model import Design, apply_operations, put
from pontifex.core.rehearsal import Rehearsal
from pontifex.core.rehearsal.probes import ProbeKind
from pontifex.demo import demo_design
from pontifex.kernel import rehearse_in_kernel
from tests.rehearsal.designs import certified
from tests.support.designs import TODAY
from tests.truth.ends import AGREED, Networks, PairData, design_of

_WAITS = {"role": "wait"}
_HIDDEN = {"address_kind": "behind-nat", "udp_arrives": False}
_OTHER_GROUP = ((("ENCR", 20, 128), ("PRF", 5, None), ("KE", 20, None)),)
_OTHER_CIPHER = ((("ENCR", 12, 128), ("INTEG", 12, None), ("ESN", 0, None)),)
_SIXES = {"left": "2001:db8:1::10", "right": "2001:db8:2::10"}


def _site(design: Design, *more: Any) -> Design:
    """Add the networks of both sites, with their routers, and what else is given."""
    objects: list[Any] = [*more]
    for side, prefix, router in (("left", "10.64.0.0/22", "10.64.0.1"), ("right", "10.65.0.0/24", "10.65.0.1")):
        fields = {"id": f"lan-{side}", "site_id": side, "name": f"lan-{side}", "prefix": prefix, "gateway_address": router}
        objects.append(Network.model_validate(fields))
    return apply_operations(design, [put(item) for item in objects])


def _pair(left: dict[str, Any], right: dict[str, Any], *more: Any) -> Design:
    return _site(design_of(PairData(replace(AGREED.left, **left), replace(AGREED.right, **right))), *more)


def _changed(design: Design, left: dict[str, Any], right: dict[str, Any]) -> Design:
    """Give the ends of the tunnel other values, as the model reads them."""
    tunnel = design.tunnels[0]
    ends = [
        TunnelEnd.model_validate({**end.model_dump(mode="json"), **fields})
        for end, fields in ((tunnel.left, left), (tunnel.right, right))
    ]
    return design.changed(tunnels=(tunnel.changed(left=ends[0], right=ends[1]),))


def _uplinks(design: Design, **fields: Any) -> Design:
    return design.changed(uplinks=tuple(uplink.with_valid(fields) for uplink in design.uplinks))


def _by_routes(*ways: tuple[str, str]) -> Design:
    """A tunnel that routes alone lead into, with inner addresses."""
    routes = [
        Route.model_validate({"id": side, "gateway_id": side, "prefix": prefix, "tunnel_id": "tunnel"}) for side, prefix in ways
    ]
    everything = {"mode": "route", "local_networks": ["0.0.0.0/0"], "remote_networks": ["0.0.0.0/0"]}
    inner = ({**everything, "inner_address": address} for address in ("10.95.0.1/30", "10.95.0.2/30"))
    return apply_operations(_changed(_pair({}, _WAITS), *inner), [put(route) for route in routes])


def _sixes() -> Design:
    """Over IPv6 outside, and IPv4 inside."""
    left, right = ({"address": _SIXES[side], "peer": _SIXES[other]} for side, other in (("left", "right"), ("right", "left")))
    return _pair(left, right | _WAITS)


def _to_port(port: str) -> Design:
    """Networks that name one port of TCP at the right: what begins there has another one, and isn't carried."""
    named = (Networks("10.65.0.0/24", "tcp", port),)
    return _pair({"remote": named}, _WAITS | {"local": named})


DESIGNS: dict[str, tuple[Callable[[], Design], Stage | None]] = {
    "both call": (lambda: _pair({}, {}), None),
    "on traffic": (lambda: _pair({"role": "on-traffic"}, _WAITS), None),
    "behind a NAT": (lambda: _pair(_HIDDEN | {"address": "198.51.100.10"}, _WAITS | {"peer": "any"}), None),
    "ESP in UDP without a NAT": (
        lambda: _changed(_pair({}, _WAITS), {"nat_traversal": "always"}, {"nat_traversal": "always"}), None,
    ),
    "over IPv6": (_sixes, None),
    "a small path": (lambda: _uplinks(_pair({}, _WAITS), mtu=1380), None),
    "by a certificate": (lambda: _site(certified(role=Role.WAIT)), None),
    "by routes": (lambda: _by_routes(("left", "10.65.0.0/24"), ("right", "10.64.0.0/22")), None),
    "no route back": (lambda: _by_routes(("left", "10.65.0.0/24")), None),
    "TCP 443 alone": (lambda: _to_port("443"), None),
    "TCP 80 alone": (lambda: _to_port("80"), None),
    "a filter": (
        lambda: _pair(
            {}, _WAITS,
            Filter.model_validate(
                {"id": "f", "name": "f", "gateway_id": "right", "direction": "in", "destinations": ["10.65.0.0/24 tcp 443"]}
            ),
        ),
        None,
    ),
    "calls don't arrive": (lambda: _pair({}, _WAITS | {"udp_arrives": False}), Stage.REACH),
    "no common proposal": (lambda: _pair({"ike": _OTHER_GROUP}, _WAITS), Stage.INIT),
    "another key": (lambda: _pair({"key": "another key 77"}, _WAITS), Stage.AUTH),
    "no common cipher for ESP": (lambda: _pair({"child": _OTHER_CIPHER}, _WAITS), Stage.CHILD),
    "ESP doesn't pass": (lambda: _uplinks(_pair({}, _WAITS), esp_passes=False), Stage.TRAFFIC),
}  # fmt: skip


@pytest.mark.usefixtures("namespaces")
@pytest.mark.parametrize("name", DESIGNS)
def test_the_kernel_carries_what_the_forecast_says(name):
    """How far the call gets, and of each probe whether it passes; the largest packet does, one octet more doesn't."""
    make, stage = DESIGNS[name]
    design = make()
    found = rehearse_in_kernel(design, design.tunnels[0], TODAY)
    assert isinstance(found, Rehearsal), found
    assert (found.outcome.stopped_at, found.outcome.agrees) == (stage, True), found.outcome.why
    if stage is None:
        assert [(pair.after.kind, pair.after.passes) for pair in found.probes] == [
            (pair.after.kind, pair.expected) for pair in found.probes
        ], [pair.after for pair in found.probes]
    assert not any(pair.before.passes for pair in found.probes)


@pytest.mark.usefixtures("namespaces")
def test_the_hops_are_those_of_the_tunnel():
    """Without names: the own gateway, the far one by its inner address, and the host."""
    design = _by_routes(("left", "10.65.0.0/24"), ("right", "10.64.0.0/22"))
    found = rehearse_in_kernel(design, design.tunnels[0], TODAY)
    assert isinstance(found, Rehearsal)
    hops = {pair.after.sender.value: pair.after.text for pair in found.probes if pair.after.kind is ProbeKind.HOPS}
    assert hops == {"left": "10.64.0.1, 10.95.0.2, 10.65.0.10", "right": "10.65.0.1, 10.95.0.1, 10.64.0.10"}


@pytest.mark.usefixtures("namespaces")
def test_nothing_runs_on_once_a_rehearsal_is_over(tmp_path, monkeypatch):
    """The gateways' plans watch their links: that ends with the machines."""
    monkeypatch.setattr("tempfile.tempdir", str(tmp_path))  # named by what a plan runs
    design = _by_routes(("left", "10.65.0.0/24"), ("right", "10.64.0.0/22"))
    assert isinstance(rehearse_in_kernel(design, design.tunnels[0], TODAY), Rehearsal)
    assert not [process for process in Path("/proc").glob("[0-9]*") if str(tmp_path) in _command(process)]


def _command(process: Path) -> str:
    try:
        return (process / "cmdline").read_text()
    except OSError:
        return ""  # it has ended meanwhile


@pytest.mark.usefixtures("namespaces")
def test_the_command_line_tells_what_the_kernel_did(tmp_path):
    """`--kernel` prints what a pipeline reads, and what isn't rehearsed there says why."""
    file = tmp_path / "design.json"
    file.write_text(write_design_file(demo_design()))
    printed = CliRunner().invoke(app, ["rehearse", str(file), "harbour-ostvik", "--kernel", "--json"])
    told = json.loads(printed.stdout)
    assert (printed.exit_code, told["up"], told["agrees"]) == (0, True, True)
    assert {"ike", "esp"} & {event["exchange"] for event in told["events"]}
    assert all(probe["after"]["passes"] is probe["expected"] for probe in told["probes"])
    over_tls = next(tunnel.id for tunnel in demo_design().tunnels if tunnel.left.technology is Technology.TLS)
    refused = CliRunner().invoke(app, ["rehearse", str(file), over_tls, "--kernel", "--json"])
    assert json.loads(refused.stdout)["not_rehearsed"] == ["TLS isn't rehearsed in the kernel"]
    for more in (["--until", "1h"], ["--from", str(file)]):
        assert CliRunner().invoke(app, ["rehearse", str(file), "harbour-ostvik", "--kernel", *more]).exit_code == 2


def test_where_namespaces_are_not_permitted_it_says_so(tmp_path, monkeypatch):
    """Nothing is tried, and the reason is told."""
    file = tmp_path / "design.json"
    file.write_text(write_design_file(demo_design()))
    monkeypatch.setattr("pontifex.cli.rehearse.why_not", lambda: "network namespaces are not permitted here")
    told = CliRunner().invoke(app, ["rehearse", str(file), "harbour-ostvik", "--kernel"])
    assert (told.exit_code, "not permitted here" in told.output) == (1, True)
