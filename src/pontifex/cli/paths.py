"""Commands about where traffic goes: routes that DHCP hands out, and the route list of a split tunnel."""

from __future__ import annotations

import json
from datetime import UTC, date, datetime
from pathlib import Path
from typing import Annotated

import typer

from pontifex.cli.addresses import CLEAN, FOUND, prefixes_of, refuse
from pontifex.cli.design import read_design
from pontifex.core.addressing import Address, AddressError, parse_address
from pontifex.core.addressing.dhcp_routes import (
    MOST_OCTETS,
    DhcpRoutesError,
    decode_dhcp_routes,
    encode_dhcp_routes,
    parse_dhcp_routes,
    parse_octets,
    with_default,
)
from pontifex.core.addressing.selector import PROTOCOLS
from pontifex.core.model import Design, Network, SplitMode
from pontifex.core.routing import Conditions, Flow, Split, Way, failing_tunnels, matrix, route_list, sweep, trace

dhcp_routes = typer.Typer(help="Classless static routes as DHCP hands them out: option 121 (RFC 3442).", no_args_is_help=True)

_Json = Annotated[bool, typer.Option("--json", help="Print JSON.")]


@dhcp_routes.command("encode")
def encode_command(
    routes: Annotated[str, typer.Argument(help='"PREFIX via ADDRESS, …"')],
    router: Annotated[str, typer.Option(help="The router of option 3: its default route is repeated inside.")] = "",
    as_json: _Json = False,
) -> None:
    """Print the octets of the option in hexadecimal. Exit with 0, or 2 (no such routes)."""
    try:
        wanted = parse_dhcp_routes(routes)
        octets = encode_dhcp_routes(with_default(wanted, Address(*parse_address(router))) if router else wanted)
    except DhcpRoutesError as error:
        refuse(str(error))
    except AddressError as error:
        refuse(f"--router: {error.reason}")
    typer.echo(json.dumps({"hex": octets.hex()}) if as_json else octets.hex())
    if len(octets) > MOST_OCTETS:
        typer.echo(f"{len(octets)} octets: more than one option holds; it is split over several (RFC 3396)", err=True)


@dhcp_routes.command("decode")
def decode_command(
    octets: Annotated[str, typer.Argument(help="The option's octets in hexadecimal, with its code and length or without.")],
    as_json: _Json = False,
) -> None:
    """Print the routes in the octets of an option. Exit with 0, or 2 (no such option)."""
    try:
        routes = decode_dhcp_routes(parse_octets(octets))
    except DhcpRoutesError as error:
        refuse(str(error))
    if as_json:
        typer.echo(json.dumps({"routes": [{"prefix": str(one.prefix), "via": str(one.via)} for one in routes]}))
    else:
        typer.echo("\n".join(map(str, routes)))


def split_command(
    only: Annotated[str, typer.Option(help="Only these prefixes go through, parted by commas.")] = "",
    all_but: Annotated[str, typer.Option(help="All but these prefixes go through, parted by commas.")] = "",
    limit: Annotated[int | None, typer.Option(help="How many routes the device allows.", min=1)] = None,
    as_json: _Json = False,
) -> None:
    """Print the fewest routes of a split tunnel. Exit with 0, 1 (more than the limit; a summary follows) or 2 (unreadable)."""
    if bool(only) == bool(all_but):
        refuse("one of --only and --all-but is wanted")
    mode, networks = (
        (SplitMode.ONLY, prefixes_of(only, "--only")) if only else (SplitMode.ALL_BUT, prefixes_of(all_but, "--all-but"))
    )
    families = frozenset(prefix.family for prefix in networks)
    split = Split(mode, tuple(networks), families)
    found = route_list(split, limit)
    leaks = [f"IPv{4 if family.bits == 32 else 6} goes beside the tunnel" for family in split.leaks]
    if as_json:
        document = {
            "prefixes": [str(one) for one in found.prefixes],
            "count": len(found.prefixes),
            "limit": limit,
            "fits": found.fits,
        }
        document |= {"summary": [str(one) for one in found.summary], "waste": int(found.waste), "leaks": leaks}
        typer.echo(json.dumps(document))
    else:
        typer.echo("\n".join(map(str, found.prefixes)))
        if not found.fits:
            typer.echo(
                f"{len(found.prefixes)} routes, {limit} allowed; with {found.waste} other addresses these would do:", err=True
            )
            typer.echo("\n".join(map(str, found.summary)), err=True)
        for leak in leaks:
            typer.echo(leak, err=True)
    raise typer.Exit(CLEAN if found.fits else FOUND)


_File = Annotated[Path, typer.Argument(help="A design file; - reads standard input.")]
_Down = Annotated[list[str] | None, typer.Option("--down", help="Id of an uplink, tunnel, gateway or site that is down.")]


def trace_command(
    file: _File,
    source: Annotated[str, typer.Option("--from", help="Address, or the name or id of a host.")],
    destination: Annotated[str, typer.Option("--to", help="Address, or the name or id of a host.")],
    protocol: Annotated[str | None, typer.Option(help="Protocol, by name or number.")] = None,
    port: Annotated[int | None, typer.Option(help="Port at the destination.", min=1, max=65535)] = None,
    down: _Down = None,
    as_json: _Json = False,
) -> None:
    """Follow a flow hop by hop, there and back. Exit with 0 (arrives and returns), 1 (it doesn't) or 2 (unreadable)."""
    design = read_design(file)
    (begin, source_network), (end, target) = _place(design, source, "--from"), _place(design, destination, "--to")
    flow = Flow(begin, end, _protocol(protocol), port)
    found = trace(design, flow, _conditions(design, down), source_network, target)
    sound = found.back is not None and found.back.end is found.forward.end
    if as_json:
        typer.echo(found.model_dump_json())
    else:
        typer.echo(found.verdict)
        for title, way in (("there", found.forward), ("back", found.back)):
            if way:
                typer.echo(f"{title}, {way.source} to {way.destination}:")
                typer.echo(_ladder(way))
    raise typer.Exit(CLEAN if sound else FOUND)


def _ladder(way: Way) -> str:
    lines = [f"  {hop.where}: {hop.decision} ({hop.by})" + (f"; {hop.translated}" if hop.translated else "") for hop in way.hops]
    return "\n".join(lines or [f"  {way.reason}"])


def matrix_command(file: _File, down: _Down = None, as_json: _Json = False) -> None:
    """Print which networks reach which. Exit with 0, or 2 (unreadable)."""
    design = read_design(file)
    cells = matrix(design, _conditions(design, down))
    if as_json:
        typer.echo(json.dumps({"cells": [cell.model_dump(mode="json") for cell in cells]}))
        return
    for cell in cells:
        part = "" if cell.whole else " (in part)"
        typer.echo(f"{cell.source_id} to {cell.destination_id}: {cell.reach.value}{part}. {cell.verdict}")


def sweep_command(file: _File, as_json: _Json = False) -> None:
    """Print what each single failure breaks, the worst first. Exit with 0, or 2 (unreadable)."""
    design = read_design(file)
    failures = sweep(design, failing_tunnels(design, _today()))
    if as_json:
        typer.echo(json.dumps({"failures": [one.model_dump(mode="json") for one in failures]}))
        return
    for one in failures:
        breaks = f"{len(one.lost)} pairs are worse off" if one.lost else "breaks nothing"
        typer.echo(f"{one.type.value} {one.name} ({one.id}): {breaks}")


def _today() -> date:
    return datetime.now(UTC).date()


def _conditions(design: Design, down: list[str] | None) -> Conditions:
    known = {item.id for items in (design.uplinks, design.tunnels, design.gateways, design.sites) for item in items}
    for id_ in down or ():
        if id_ not in known:
            refuse(f"--down: there is no uplink, tunnel, gateway or site '{id_}'")
    return Conditions.of(design, frozenset(down or ()), failing_tunnels(design, _today()))


def _place(design: Design, text: str, option: str) -> tuple[Address, Network | None]:
    """Read an address, or the name of a host; the latter says which network is meant where several share addresses."""
    for host in design.hosts:
        if text in (host.id, host.name, host.dns_name):
            return host.address, design.network_by_id[host.network_id]
    try:
        return Address(*parse_address(text)), None
    except AddressError as error:
        refuse(f"{option}: {error.reason}")


def _protocol(text: str | None) -> int | None:
    if text is None:
        return None
    if text.lower() in PROTOCOLS:
        return PROTOCOLS[text.lower()]
    if not (text.isascii() and text.isdigit() and int(text) <= 255):
        refuse(f"--protocol: '{text}' is no protocol; say {', '.join(PROTOCOLS)}, or a number up to 255")
    return int(text)
