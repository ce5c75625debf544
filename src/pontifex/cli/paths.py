"""Commands about where traffic goes: one flow, all networks at once, and every single failure."""

from __future__ import annotations

import json
from collections.abc import Iterable
from datetime import UTC, date, datetime
from pathlib import Path
from typing import Annotated

import typer

from pontifex.cli.addresses import CLEAN, FOUND, refuse
from pontifex.cli.design import read_design
from pontifex.core.addressing import Address, AddressError, Service, parse_address, parse_service
from pontifex.core.as_json import json_data, json_octets
from pontifex.core.errors import TooLarge
from pontifex.core.handover import linux_plan
from pontifex.core.kinds import Network, ObjectType
from pontifex.core.kinds.dscp import parse_dscp
from pontifex.core.model import Design
from pontifex.core.routing import Conditions, Flow, FlowPath, Quality, Tables, failing_tunnels, matrix, sweep, trace
from pontifex.core.routing.all_flows.matrix import Cell
from pontifex.core.routing.trace.flow_path import Hop
from pontifex.core.routing.trace.questions import parse_slow, place_of

_Json = Annotated[bool, typer.Option("--json", help="Print JSON.")]
_File = Annotated[Path, typer.Argument(help="A design file; - reads standard input.")]
_Slow = Annotated[
    list[str] | None,
    typer.Option("--slow", help="ID:delay=MS,jitter=MS,loss=PERCENT of an uplink or tunnel; each part as it is wanted."),
]
_Down = Annotated[list[str] | None, typer.Option("--down", help="Id of an uplink, tunnel, gateway or site that is down.")]


def trace_command(
    file: _File,
    source: Annotated[str, typer.Option("--from", help="Address, or the name or id of a host.")],
    destination: Annotated[str, typer.Option("--to", help="Address, or the name or id of a host.")],
    protocol: Annotated[str | None, typer.Option(help="Protocol, by name or number.")] = None,
    port: Annotated[int | None, typer.Option(help="Port at the destination.", min=1, max=65535)] = None,
    dscp: Annotated[str, typer.Option(help="Class of the traffic, by name or number.")] = "DF",
    down: _Down = None,
    slow: _Slow = None,
    as_json: _Json = False,
) -> None:
    """Follow a flow hop by hop, there and back. Exit with 0 (arrives and returns), 1 (it doesn't) or 2 (unreadable)."""
    design = read_design(file)
    (begin, source_network), (end, destination_network) = _place(design, source, "--from"), _place(design, destination, "--to")
    try:
        flow = Flow(begin, end, _service(protocol, port), parse_dscp(dscp))
    except ValueError as error:
        refuse(str(error))
    found = trace(Tables(design), flow, _conditions(design, down, slow), source_network, destination_network)
    sound = found.back is not None and found.back.end is found.forward.end
    if as_json:
        typer.echo(json_octets(found))
    else:
        typer.echo(found.verdict)
        for title, way in (("there", found.forward), ("back", found.back)):
            if way:
                typer.echo(f"{title}, {way.source} to {way.destination}:")
                typer.echo(_ladder(way))
        for remark in found.remarks:
            typer.echo(f"not modelled: {remark}", err=True)
    raise typer.Exit(CLEAN if sound else FOUND)


def _ladder(way: FlowPath) -> str:
    lines = [
        f"  {hop.where}: {hop.decision} ({hop.by})" + "".join(f"; {part}" for part in _asides(hop) if part) for hop in way.hops
    ]
    return "\n".join(lines or [f"  {way.reason}"])


def _asides(hop: Hop) -> tuple[str, ...]:
    return hop.translated, hop.filtered, hop.marked and f"marked {hop.marked}", "keeps no state" if hop.stateless else ""


def matrix_command(
    file: _File,
    service: Annotated[str, typer.Option(help="Which traffic: any, tcp 443, udp …")] = "any",
    down: _Down = None,
    slow: _Slow = None,
    as_json: _Json = False,
) -> None:
    """Print which networks reach which. Exit with 0, or 2 (unreadable, or too large)."""
    design = read_design(file)
    try:
        found = matrix(Tables(design), _conditions(design, down, slow), parse_service(service))
    except AddressError as error:
        refuse(f"--service: {error.reason}")
    except TooLarge as error:
        refuse(str(error))
    if as_json:
        typer.echo(json.dumps({"cells": [_cell(cell) for cell in found.cells()]}))
        return
    for cell in found.cells():
        part = "" if cell.whole else " in part"
        typer.echo(f"{cell.source.id} to {cell.destination.id}: {cell.reach.value}{part}")


def _cell(cell: Cell) -> dict[str, str | bool]:
    return {
        "source_id": cell.source.id,
        "destination_id": cell.destination.id,
        "reach": cell.reach.value,
        "whole": cell.whole,
    }


def sweep_command(file: _File, as_json: _Json = False) -> None:
    """Print what each single failure breaks, the worst first. Exit with 0, or 2 (unreadable, or too large)."""
    design = read_design(file)
    try:
        failures = sweep(Tables(design), failing_tunnels(design, _today()))
    except TooLarge as error:
        refuse(str(error))
    if as_json:
        typer.echo(json.dumps({"failures": [json_data(failure) for failure in failures]}))
        return
    for lost in failures:
        breaks = f"{lost.lost} pairs are worse off" if lost.lost else "breaks nothing"
        leaves = f", {lost.unprotected} of them leave unprotected" if lost.unprotected else ""
        typer.echo(f"{lost.type.value} {lost.name} ({lost.id}): {breaks}{leaves}")


def linux_plan_command(
    file: _File,
    gateway: Annotated[str, typer.Argument(help="Id of the gateway.")],
    interface: Annotated[
        list[str] | None,
        typer.Option(
            "--interface", help="TYPE/ID=NAME of the interface of a tunnel, uplink or network, beside those in the file."
        ),
    ] = None,
    router: Annotated[
        list[str] | None, typer.Option("--router", help="UPLINK=ADDRESS of the provider's router, where it isn't the far end.")
    ] = None,
    back: Annotated[bool, typer.Option("--back", help="Print the way back.")] = False,
    as_json: _Json = False,
) -> None:
    """Print a gateway's routes, rules and filters as commands of a Linux machine.

    Exit with 0, 1 (an interface has no name yet) or 2 (unreadable).
    """
    design = read_design(file)
    if gateway not in design.gateway_by_id:
        refuse(f"there is no gateway '{gateway}'")
    plan = linux_plan(Tables(design), gateway, dict(map(_interface, interface or ())), _routers(router or ()))
    if as_json:
        typer.echo(json_octets(plan))
    elif plan.apply:
        typer.echo("\n".join(plan.back if back else plan.apply))
    lacking = [
        named_interface for named_interface in plan.interfaces if named_interface.needed and named_interface.interface is None
    ]
    for unnamed in lacking:
        kind = unnamed.type.value
        typer.echo(f"what is the interface of {kind} {unnamed.name} called? --interface {kind}/{unnamed.id}=…", err=True)
    if lacking:
        raise typer.Exit(FOUND)
    if as_json:
        return
    for remark in plan.remarks:
        typer.echo(f"left to others: {remark}", err=True)


def _interface(text: str) -> tuple[tuple[ObjectType, str], str]:
    what, _, name = text.partition("=")
    type_, _, id_ = what.partition("/")
    if type_ not in ("tunnel", "uplink", "network") or not id_ or not name:
        refuse(f"--interface: '{text}' is not of the form tunnel/ID=NAME, uplink/ID=NAME or network/ID=NAME")
    return (ObjectType(type_), id_), name


def _routers(texts: Iterable[str]) -> dict[str, tuple[Address, ...]]:
    found: dict[str, tuple[Address, ...]] = {}
    for text in texts:
        uplink, _, address = text.partition("=")
        try:
            found[uplink] = (*found.get(uplink, ()), Address(*parse_address(address)))
        except AddressError as error:
            refuse(f"--router: {error.reason}")
    return found


def _today() -> date:
    return datetime.now(UTC).date()


def _conditions(design: Design, down: list[str] | None, slow: list[str] | None) -> Conditions:
    known = {item.id for items in (design.uplinks, design.tunnels, design.gateways, design.sites) for item in items}
    for id_ in down or ():
        if id_ not in known:
            refuse(f"--down: there is no uplink, tunnel, gateway or site '{id_}'")
    supposed = dict(_slow(design, text) for text in slow or ())
    return Conditions.of(design, frozenset(down or ()), failing_tunnels(design, _today()), supposed)


def _slow(design: Design, text: str) -> tuple[str, Quality]:
    try:
        return parse_slow(design, text)
    except ValueError as error:
        refuse(f"--slow: {error}")


def _place(design: Design, text: str, option: str) -> tuple[Address, Network | None]:
    try:
        return place_of(design, text)
    except AddressError as error:
        refuse(f"{option}: {error.reason}")


def _service(protocol: str | None, port: int | None) -> Service:
    """Read a protocol, by name or number, and a port."""
    text = protocol or ("any" if port is None else "port")
    word = f"protocol {text}" if text.isdigit() else text
    try:
        return parse_service(word if port is None else f"{word} {port}")
    except AddressError as error:
        refuse(f"--protocol, --port: {error.reason}")
