"""The command that plans a change: an order of steps, proved at each of them."""

from __future__ import annotations

import json
import sys
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Any, Final

import typer

from pontifex.cli.addresses import CLEAN, FOUND, refuse
from pontifex.cli.design import read_design
from pontifex.cli.drift import read_reading_of
from pontifex.core.as_json import json_data
from pontifex.core.handover.plan import ChangePlan, Step, change_plan
from pontifex.core.handover.plan.leftovers import leftovers
from pontifex.core.handover.readings import as_running
from pontifex.core.kinds import ObjectType
from pontifex.core.model import ChangeRefused, Design, Remove, apply_operations

_SHOWN_EVERY: Final = 50


def plan_command(
    file: Annotated[Path, typer.Argument(help="The design as it is meant to be; - reads standard input.")],
    from_: Annotated[Path | None, typer.Option("--from", help="The design as it runs now.")] = None,
    reading: Annotated[
        list[Path] | None, typer.Option(help="What a device runs, as its reading; the design holds for all others.")
    ] = None,
    without: Annotated[
        str | None, typer.Option(help="Take down instead: a type and id of FILE, such as tunnel/harbour-ostvik.")
    ] = None,
    minutes: Annotated[
        float, typer.Option("--minutes-a-step", min=0, help="How long a step takes, to tell how long an outage is.")
    ] = 2,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Plan a change: exit with 0 (proved: nothing that works goes dark), 1 (with an outage) or 2 (unreadable)."""
    if sum((from_ is not None, bool(reading), without is not None)) != 1:
        refuse("give one of --from, the design as it runs now, --reading, what devices run, and --without, what is taken down")
    design = read_design(file, as_json)
    if reading:
        before, after = as_running(design, [read_reading_of(design, path) for path in reading]), design
    elif from_:
        before, after = read_design(from_, as_json), design
    else:
        before, after = design, _without(design, without or "")
    plan = change_plan(before, after, datetime.now(UTC).date(), on_progress=_shown if sys.stderr.isatty() else _quiet)
    left = leftovers(before, after)
    if as_json:
        typer.echo(json.dumps(_answer(plan, minutes) | {"stays": json_data(left)}, ensure_ascii=False))
    else:
        for line in (*_lines(plan, minutes), *(f"stays: {leftover.where}: {leftover.what}" for leftover in left)):
            typer.echo(line)
    raise typer.Exit(CLEAN if plan.proved else FOUND)


def _quiet(_done: int, _of: int) -> None:
    """Tell nothing: nobody watches."""


def _shown(done: int, of: int) -> None:
    if done % _SHOWN_EVERY == 0 or done == of:
        typer.echo(f"\r{done} of {of}{chr(10) if done == of else ''}", nl=False, err=True)


def _without(design: Design, target: str) -> Design:
    kind, _, id_ = target.partition("/")
    if kind not in {object_type.value for object_type in ObjectType} - {ObjectType.SETTINGS.value} or not id_:
        refuse(f"'{target}' is no type and id, such as tunnel/harbour-ostvik")
    try:
        return apply_operations(design, [Remove(type=ObjectType(kind), id=id_, cascade=True)])
    except ChangeRefused as refused:
        refuse(str(refused))


def _answer(plan: ChangePlan, minutes: float) -> dict[str, Any]:
    """Return what a pipeline is told."""
    return {
        "steps": [
            json_data(step)
            | {"device": step.device.name, "does": _does(step), "check": "; ".join(check.text for check in step.checks)}
            for step in plan.steps
        ],
        "outage": [json_data(outage) | {"minutes": outage.steps * minutes} for outage in plan.outages],
        "proved": plan.proved,
        "is_least": plan.is_least,
        "no_return": plan.no_return,
    }


def _does(step: Step) -> str:
    return ". ".join([step.does, *(value.text for value in step.values)])


def _lines(plan: ChangePlan, minutes: float) -> Iterator[str]:
    if not plan.steps:
        yield "Nothing has to be entered anywhere."
        return
    for step in plan.steps:
        if step.number == plan.no_return:
            yield "-- from here on the way back touches what was there before --"
        yield f"{step.number:>3}. {step.device.name}: {step.does}"
        yield from (f"       {value.text}" for value in step.values)
        yield from (f"       check: {check.text}" for check in step.checks)
        if step.worked_over:
            yield f"       whoever works over {step.worked_over} may lose the connection"
        if step.action:
            yield f"       way back: {step.undo}"
        yield from (f"       DOWN: {what}" for what in step.down)
    for outage in plan.outages:
        how_long = f"about {outage.steps * minutes:g} min"
        steps = f"from step {outage.from_step} until step {outage.until_step} is done"
        yield f"{outage.what} is down {steps}, {how_long}: {outage.why}"
    if plan.proved:
        yield f"Proved: {plan.kept_tunnels} tunnels and {plan.kept_pairs} wanted pairs work after every step."
    else:
        yield "No order avoids it." if plan.is_least else "No better order was found; not all were tried."
