"""Commands about route lists: what DHCP hands out, and what of a person's traffic goes through a tunnel."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

import typer

from pontifex.cli.addresses import CLEAN, FOUND, prefixes_of, refuse
from pontifex.cli.design import read_design
from pontifex.cli.profile import profile_named
from pontifex.core.addressing import Address, AddressError, parse_address
from pontifex.core.addressing.dhcp_routes import (
    MOST_OCTETS,
    DhcpRoute,
    DhcpRoutesError,
    decode_dhcp_routes,
    encode_dhcp_routes,
    parse_dhcp_routes,
    parse_octets,
    with_default,
    without_default,
)
from pontifex.core.as_json import json_octets
from pontifex.core.kinds import SplitMode
from pontifex.core.rehearsal.capture import pcapng
from pontifex.core.rehearsal.leases import LeaseCourse, lease_course
from pontifex.core.routing import Split, route_list

dhcp_routes = typer.Typer(help="Classless static routes as DHCP hands them out: option 121 (RFC 3442).", no_args_is_help=True)

_Json = Annotated[bool, typer.Option("--json", help="Print JSON.")]


@dhcp_routes.command("encode")
def encode_command(
    routes: Annotated[str, typer.Argument(help='"PREFIX via ADDRESS, …"')],
    default_via: Annotated[
        str,
        typer.Option("--default-via", "--router", help="Put the default route inside, by this router."),
    ] = "",
    no_default: Annotated[
        bool, typer.Option("--no-default", help="Leave the default route out: clients keep theirs beside the tunnel.")
    ] = False,
    as_json: _Json = False,
) -> None:
    """Print the octets of the option in hexadecimal. Exit with 0, or 2 (no such routes)."""
    if no_default and default_via:
        refuse("--no-default leaves out what --default-via puts in")
    try:
        given = parse_dhcp_routes(routes)
        wanted = without_default(given) if no_default else given
        octets = encode_dhcp_routes(with_default(wanted, Address(*parse_address(default_via))) if default_via else wanted)
    except DhcpRoutesError as error:
        refuse(str(error))
    except AddressError as error:
        refuse(f"--default-via: {error.reason}")
    typer.echo(json.dumps({"hex": octets.hex()}) if as_json else octets.hex())
    if len(octets) > MOST_OCTETS:
        typer.echo(f"{len(octets)} octets: more than one option holds; it is split over several (RFC 3396)", err=True)


@dhcp_routes.command("leases")
def leases_command(
    file: Annotated[Path, typer.Argument(help="A design file; - reads standard input.")],
    profile: Annotated[str, typer.Argument(help="Id or name of a profile whose pool hands the routes out.")],
    via: Annotated[str, typer.Option("--via", help="The router of the routes.")],
    no_default: Annotated[bool, typer.Option("--no-default/--default-inside", help="Default route: out or in.")] = True,
    pcap: Annotated[Path | None, typer.Option(help="Write what goes over the wire there (pcapng).")] = None,
    as_json: _Json = False,
) -> None:
    """Let the leases of a pool take their course once it hands out the routes of a split. Exit with 0, or 2 (unreadable)."""
    design = read_design(file, as_json=as_json)
    chosen = profile_named(design, profile)
    pool = design.network_by_id.get(chosen.pool_id or "")
    if pool is None:
        refuse(f"{chosen.name} has no pool yet")
    try:
        router = Address(*parse_address(via))
        listed = [DhcpRoute(prefix, router) for prefix in route_list(Split.of(chosen, pool.prefix), chosen.most_routes).prefixes]
        after = pool.changed(dhcp_routes=tuple(listed) if no_default else with_default(listed, router))
        course, packets = lease_course(pool, after, chosen.dhcp_block)
    except DhcpRoutesError as error:
        refuse(str(error))
    except AddressError as error:
        refuse(f"--via: {error.reason}")
    if pcap:
        pcap.write_bytes(pcapng(packets))
    typer.echo(json_octets(course) if as_json else "\n".join(_told(course)))


def _told(course: LeaseCourse) -> list[str]:
    events = [
        f"{event.at_s:+.0f} s: {event.who} {event.what}: {', '.join(map(str, event.routes)) or 'no route'}"
        for event in course.events
    ]
    steps = [f"{number}. {step}" for number, step in enumerate(course.steps, 1)]
    return [*events, *(f"until then {stopgap}" for stopgap in course.means), *steps]


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
        typer.echo(json.dumps({"routes": [{"prefix": str(route.prefix), "via": str(route.via)} for route in routes]}))
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
            "prefixes": [str(allowed) for allowed in found.prefixes],
            "count": len(found.prefixes),
            "limit": limit,
            "fits": found.fits,
        }
        document |= {"summary": [str(allowed) for allowed in found.summary], "waste": int(found.waste), "leaks": leaks}
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
