"""The command that follows a person's device: both ends of its tunnel, every flow, or one packet at one place."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated

import typer

from pontifex.cli.addresses import CLEAN, FOUND, refuse
from pontifex.cli.design import read_design
from pontifex.core.addressing import AddressError, parse_service
from pontifex.core.as_json import json_octets
from pontifex.core.kinds import PlatformFamily, Profile
from pontifex.core.model import Design
from pontifex.core.people import DeviceTrace, FlowTable, all_flows, device_trace, place_named
from pontifex.core.people.abilities import usual_platform
from pontifex.core.people.device_trace import read_destination
from pontifex.core.routing import Tables


def profile_command(
    file: Annotated[Path, typer.Argument(help="A design file; - reads standard input.")],
    profile: Annotated[str, typer.Argument(help="Id or name of a profile.")],
    at: Annotated[str, typer.Option("--at", help="home, hotel, proxy, office, guest, or the prefix of a home.")] = "home",
    to: Annotated[str, typer.Option("--to", help="Name or address that the device wants; without it, all flows.")] = "",
    service: Annotated[str, typer.Option(help='As in "tcp 443".')] = "any",
    application: Annotated[str, typer.Option(help="That wants it.")] = "",
    family: Annotated[PlatformFamily, typer.Option(help="Of the device.")] = PlatformFamily.DESKTOP,
    leased: Annotated[Path | None, typer.Option(help="The design file of when the device was given its lease.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Follow a device of a profile. Exit with 0 (arrives, or all flows), 1 (it doesn't) or 2 (unreadable)."""
    design = read_design(file, as_json=as_json)
    chosen, today = profile_named(design, profile), datetime.now(UTC).date()
    if not to:
        table = all_flows(Tables(design), chosen, today)
        typer.echo(json_octets(table) if as_json else "\n".join(_lines(table)))
        return
    try:
        place = place_named(design, chosen, at)
        destination = read_destination(design, to, parse_service(service), application)
    except AddressError as error:
        refuse(error.reason)
    then = read_design(leased, as_json=as_json) if leased else design
    pool = then.network_by_id.get(chosen.pool_id or "")
    found = device_trace(Tables(design), chosen, place, usual_platform(family), destination, today, pool)
    typer.echo(json_octets(found) if as_json else _told(found))
    raise typer.Exit(CLEAN if found.arrives else FOUND)


def profile_named(design: Design, text: str) -> Profile:
    """Return the profile of an id or a name; refuse where there is none, or several."""
    found = [profile for profile in design.profiles if text in (profile.id, profile.name)]
    if len(found) != 1:
        refuse(f"'{text}' names {len(found)} profiles of this design")
    return found[0]


def _told(found: DeviceTrace) -> str:
    lines = [f"{found.place}, in {found.prefix}: {found.dials}"]
    if found.resolver:
        lines.append(f"{found.resolver.name}: asks {found.resolver.resolver}, {found.resolver.why}")
    lines += [
        f"{found.way.value}: {found.why}",
        found.verdict,
        f"once the tunnel has dropped, {found.dropped_way.value}: {found.dropped}",
    ]
    if found.leased:
        lines.append(f"until its lease is renewed, {found.leased.way.value}: {found.leased.why}. {found.leased.verdict}")
    return "\n".join(lines + [f"can't be done there: {text}" for text in found.cannot])


def _lines(table: FlowTable) -> list[str]:
    return [
        f"{column.title}: {destination.name}: {row[at].way.value}, dropped: {row[at].dropped_way.value}"
        for at, column in enumerate(table.columns)
        for destination, row in zip(table.destinations, table.rows, strict=True)
    ]
