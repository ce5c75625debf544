"""The command that rehearses tunnels: both ends dial each other in virtual time."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Any, NoReturn

import typer

from pontifex.cli.addresses import CLEAN, FOUND, refuse
from pontifex.cli.design import read_design
from pontifex.core.addressing import AddressError
from pontifex.core.as_json import json_data, json_octets
from pontifex.core.handover.plan import change_plan
from pontifex.core.kinds import Tunnel
from pontifex.core.model import Design
from pontifex.core.people import dialled_in, place_named
from pontifex.core.rehearsal import (
    NotRehearsed,
    Outcome,
    Rehearsal,
    RehearsalConditions,
    planned_states,
    rehearse,
    rehearse_dial_in,
    rehearse_plan,
)
from pontifex.core.rehearsal.capture import pcapng, seen_outside, session_keys
from pontifex.core.rehearsal.faults import FaultTextError, parse_duration, parse_fault, parse_order
from pontifex.core.rehearsal.outcome import ProbePair
from pontifex.kernel import NotPermittedError, rehearse_in_kernel, why_not


def rehearse_command(
    file: Annotated[Path, typer.Argument(help="A design file; - reads standard input.")],
    tunnel: Annotated[str | None, typer.Argument(help="Id or name of a tunnel.")] = None,
    every: Annotated[bool, typer.Option("--all", help="Rehearse every tunnel.")] = False,
    profile: Annotated[str | None, typer.Option(help="Rehearse the call of a device of this profile instead.")] = None,
    at: Annotated[str, typer.Option(help="Where it is: home, hotel, office, guest, proxy, or a prefix at home.")] = "home",
    until: Annotated[str | None, typer.Option(help="How long to go on: 30s, 15m or 2h.")] = None,
    fault: Annotated[list[str] | None, typer.Option(help='What is let happen, as "30s restart left"; again for more.')] = None,
    step: Annotated[list[str] | None, typer.Option(help='A step of the order: "start right", "save right", "wait 30s".')] = None,
    from_: Annotated[
        Path | None, typer.Option("--from", help="The design as it runs now: rehearse by the steps of the plan from there.")
    ] = None,
    seed: Annotated[int, typer.Option(help="What loss and jitter follow; the same seed gives the same course.", min=0)] = 0,
    pcap: Annotated[Path | None, typer.Option(help="Where to write what went over the wire, as pcapng.")] = None,
    keys: Annotated[Path | None, typer.Option(help="Where to write the session keys that open it, as JSON.")] = None,
    in_kernel: Annotated[
        bool, typer.Option("--kernel", help="Dial in network namespaces of this machine, with real sockets and real pings.")
    ] = False,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Rehearse a tunnel: exit with 0 (it comes up and lasts), 1 (it doesn't, or can't be rehearsed) or 2 (unreadable)."""
    design = read_design(file, as_json)
    if profile and (tunnel or every or from_ or in_kernel):
        refuse("a device's call is rehearsed by itself: without a tunnel, --all, --from and --kernel")
    chosen = () if profile else _chosen(design, tunnel, every)
    if every and (pcap or keys):
        refuse("a capture is of one tunnel")
    conditions = _conditions(seed, fault or (), step or (), until, with_hosts=not every)
    if (from_ or in_kernel) and (fault or step or until):
        refuse("the steps of a plan, and what is dialled in the kernel, go by themselves: without --fault, --step and --until")
    if from_ and in_kernel:
        refuse("the steps of a plan aren't walked in the kernel: leave out --from or --kernel")
    if profile:
        found = [_dialled_in(design, profile, at, conditions)]
    elif in_kernel:
        found = list(_in_kernel(design, chosen, seed))
    elif from_:
        found = list(_by_plan(read_design(from_, as_json), design, chosen, seed))
    else:
        found = [(dialled, rehearse(design, dialled, datetime.now(UTC).date(), conditions)) for dialled in chosen]
    for path, write in ((pcap, _capture), (keys, _keys)):
        if path and isinstance(found[0][1], Rehearsal):
            path.write_bytes(write(found[0][1]))
    _tell(found, as_json=as_json, every=every)


def _tell(found: list[tuple[Tunnel, Rehearsal | NotRehearsed]], *, as_json: bool, every: bool) -> NoReturn:
    """Print what came of it, and end with a status that says whether all came up."""
    answers = [_answer(tunnel, rehearsed) for tunnel, rehearsed in found]
    if as_json:
        typer.echo(json.dumps(answers if every else answers[0]))
    else:
        for line in _lines(found):
            typer.echo(line)
    raise typer.Exit(CLEAN if all(answer["up"] for answer in answers) else FOUND)


def _chosen(design: Design, tunnel: str | None, every: bool) -> Sequence[Tunnel]:
    if every == bool(tunnel):
        refuse("name one tunnel, or ask for --all")
    if every:
        return design.tunnels
    chosen = [candidate for candidate in design.tunnels if tunnel in (candidate.id, candidate.name)]
    if len(chosen) != 1:
        refuse(f"'{tunnel}' names {len(chosen)} tunnels of this design")
    return chosen


def _conditions(
    seed: int, faults: Sequence[str], order: Sequence[str], until: str | None, *, with_hosts: bool
) -> RehearsalConditions:
    """Return under what is rehearsed; hosts try what they are for where one tunnel is looked at."""
    try:
        happening = [parse_fault(text) for text in faults]
        return RehearsalConditions(seed, happening, parse_order(order), parse_duration(until) if until else None, with_hosts)
    except FaultTextError as error:
        refuse(str(error))


def _dialled_in(design: Design, name: str, at: str, under: RehearsalConditions) -> tuple[Tunnel, Rehearsal | NotRehearsed]:
    """Rehearse the call of a device from a place."""
    chosen = [profile for profile in design.profiles if name in (profile.id, profile.name)]
    if len(chosen) != 1:
        refuse(f"'{name}' names {len(chosen)} profiles of this design")
    try:
        place = place_named(design, chosen[0], at)
    except AddressError as error:
        refuse(error.reason)
    dialled = dialled_in(design, chosen[0], place)
    return dialled.tunnel, rehearse_dial_in(dialled, chosen[0], datetime.now(UTC).date(), under)


def _by_plan(
    before: Design, after: Design, chosen: Sequence[Tunnel], seed: int
) -> Iterator[tuple[Tunnel, Rehearsal | NotRehearsed]]:
    today = datetime.now(UTC).date()
    plan = change_plan(before, after, today)
    for tunnel in chosen:
        yield tunnel, rehearse_plan(planned_states(before, after, plan, tunnel.id), tunnel.id, today, seed)


def _in_kernel(design: Design, chosen: Sequence[Tunnel], seed: int) -> Iterator[tuple[Tunnel, Rehearsal | NotRehearsed]]:
    """Rehearse in the kernel; end with status 1 and the reason where that isn't permitted."""
    reason = why_not()
    if reason:
        typer.echo(f"Not rehearsed in the kernel: {reason}.", err=True)
        raise typer.Exit(FOUND)
    today = datetime.now(UTC).date()
    for tunnel in chosen:
        try:
            yield tunnel, rehearse_in_kernel(design, tunnel, today, seed)
        except NotPermittedError as error:
            yield tunnel, NotRehearsed((f"the kernel refuses it: {error}",))


def _capture(rehearsal: Rehearsal) -> bytes:
    return pcapng(seen_outside(rehearsal.sent))


def _keys(rehearsal: Rehearsal) -> bytes:
    return json_octets(session_keys(rehearsal.effects))


def _answer(tunnel: Tunnel, found: Rehearsal | NotRehearsed) -> dict[str, Any]:
    """Return what a pipeline is told of a tunnel."""
    if isinstance(found, NotRehearsed):
        return {"tunnel": tunnel.id, "up": None, "not_rehearsed": list(found.reasons)}
    outcome = found.outcome
    return {
        "tunnel": tunnel.id,
        "up": outcome.up,
        "stopped_at": outcome.stopped_at.value if outcome.stopped_at else None,
        "why": outcome.why,
        "forecast_stage": outcome.forecast_stage.value if outcome.forecast_stage else None,
        "agrees": outcome.agrees if outcome.is_judged else None,
        "events": [
            {
                "at_s": event.at_s,
                "from": event.sender.value,
                "to": event.sender.other.value,
                "exchange": event.exchange or event.carries.value,
                "octets": event.octets,
                "notify": event.notify or None,
                "dropped": event.dropped or None,
            }
            for event in found.messages
        ],
        "probes": [_probe(pair, is_judged=outcome.is_judged) for pair in found.probes],
    }


def _probe(pair: ProbePair, *, is_judged: bool) -> dict[str, Any]:
    """Return what a pipeline is told of a probe, before the call and after it."""
    return {"kind": pair.after.kind.value, **json_data(pair), "agrees": pair.agrees if is_judged else None}


def _held_against_forecast(outcome: Outcome) -> str:
    if not outcome.is_judged:
        return ""
    stage = outcome.forecast_stage.value.capitalize() if outcome.forecast_stage else "nothing"
    return (
        " (as forecast)" if outcome.agrees else f" (forecast to stop at {stage}: one of the two is wrong, and that is our fault)"
    )


def _lines(found: list[tuple[Tunnel, Rehearsal | NotRehearsed]]) -> Iterator[str]:
    """Yield what a person is told: how each tunnel ended, and for one alone how it came to that."""
    for tunnel, rehearsed in found:
        if isinstance(rehearsed, NotRehearsed):
            yield f"{tunnel.name}: not rehearsed: {'; '.join(rehearsed.reasons)}"
            continue
        outcome = rehearsed.outcome
        yield f"{tunnel.name}: {outcome.why}{_held_against_forecast(outcome)}"
        if len(found) == 1:
            yield from (f"  {line.at_s:>10.3f} s  {line.side.value:<5}  {line.text}" for line in rehearsed.logs)
            yield from (_probe_line(pair, is_judged=outcome.is_judged) for pair in rehearsed.probes)


def _probe_line(pair: ProbePair, *, is_judged: bool) -> str:
    before, after = pair.before, pair.after
    expected = ", ".join(map(str, pair.foreseen)) or ("passes" if pair.expected else "lost")
    otherwise = "" if pair.agrees or not is_judged else " (one of the two is wrong, and that is our fault)"
    tried = f"  {after.kind.value:<9}  from {after.sender.value:<5}  before: {before.text}; after: {after.text}"
    return f"{tried}; expected: {expected}{otherwise}"
