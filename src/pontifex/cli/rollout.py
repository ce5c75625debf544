"""The command that foresees a roll-out: which devices could do what a profile asks, and the file that they would fetch."""

from __future__ import annotations

import json
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated

import typer

from pontifex.cli.addresses import CLEAN, FOUND, refuse
from pontifex.cli.design import read_design
from pontifex.cli.profile import profile_named
from pontifex.core.as_json import json_data
from pontifex.core.people.foreseen import ForeseenRollout, foreseen
from pontifex.core.people.people_list import PeopleList, platform_words, read_people
from pontifex.core.people.profile_file import profile_file


def rollout_command(
    file: Annotated[Path, typer.Argument(help="A design file; - reads standard input.")],
    profile: Annotated[str, typer.Argument(help="Id or name of a profile.")],
    people: Annotated[Path | None, typer.Option("--people", help="A list: person, group, device, platform.")] = None,
    as_json: Annotated[
        bool, typer.Option("--json", help="Print JSON, with the file that devices would fetch, unsigned.")
    ] = False,
) -> None:
    """Foresee a roll-out. Exit with 0 (every device can), 1 (some would refuse, or a line can't be read) or 2 (unreadable)."""
    design = read_design(file, as_json=as_json)
    chosen = profile_named(design, profile)
    listed = None
    if people:
        try:
            text = people.read_text()
        except (OSError, UnicodeDecodeError) as error:
            refuse(f"{people} can't be read: {type(error).__name__}")
        listed = read_people(text, platform_words(design.platforms))
    found = foreseen(design, chosen, listed.devices if listed else None)
    if as_json:
        document = profile_file(design, chosen, 1, datetime.now(UTC).replace(microsecond=0)).model_dump(mode="json")
        faults = json_data(listed.faults) if listed else []
        typer.echo(json.dumps({"rollout": json_data(found), "faults": faults, "file": document}, ensure_ascii=False))
    else:
        typer.echo("\n".join(_told(found, listed)))
    refused = any(platform.cannot for platform in found.platforms)
    raise typer.Exit(FOUND if refused or (listed and listed.faults_count) else CLEAN)


def _told(found: ForeseenRollout, listed: PeopleList | None) -> list[str]:
    lines = [f"{found.profile}, for {', '.join(found.groups) or 'no group yet'}"]
    if found.devices is not None:
        lines.append(f"{found.devices} devices, of which {found.would_refuse} would refuse it")
    for platform in found.platforms:
        many = f" ({platform.devices})" if platform.devices is not None else ""
        lines.append(f"{platform.platform}{many}: {_able(platform.cannot)}")
    if listed:
        lines += [f"line {fault.line}: {fault.reason}" for fault in listed.faults]
    return lines


def _able(cannot: tuple[str, ...]) -> str:
    return f"can't: {', '.join(cannot)}" if cannot else "can"
