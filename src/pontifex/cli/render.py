"""The command that writes a gateway's part of a design in an open form, or by a template of one's own."""

from __future__ import annotations

import json
import signal
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated, Final

import typer

from pontifex.cli.addresses import refuse
from pontifex.cli.design import read_design
from pontifex.core.handover import CantBeKept, files_text, linux_files, linux_plan
from pontifex.core.handover.renderings import TemplateRefused, ike_model, render_template, routing_model
from pontifex.core.model import Design
from pontifex.core.routing import Tables

_MOST_S: Final = 5
_FORMS: Final = "rfc9061, ietf-routing, linux, linux-files, or the file of a template"


def render_command(
    file: Annotated[Path, typer.Argument(help="A design file; - reads standard input.")],
    gateway: Annotated[str, typer.Argument(help="Id or name of a gateway.")],
    as_: Annotated[str, typer.Option("--as", help=f"One of {_FORMS}.")] = "ietf-routing",
) -> None:
    """Write a gateway's part of a design. Exit with 0, or 2 (unreadable, or a template that can't be rendered)."""
    design = read_design(file)
    found = [candidate for candidate in design.gateways if gateway in (candidate.id, candidate.name)]
    if len(found) != 1:
        refuse(f"'{gateway}' names {len(found)} gateways of this design")
    typer.echo(_rendered(design, found[0].id, as_))


@contextmanager
def _limited() -> Iterator[None]:
    """Let a template take so much time of the processor, and no more."""

    def over(_signal: int, _frame: object) -> None:
        raise TemplateRefused(f"it takes more than {_MOST_S} s", None)

    before = signal.signal(signal.SIGVTALRM, over)
    signal.setitimer(signal.ITIMER_VIRTUAL, _MOST_S)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_VIRTUAL, 0)
        signal.signal(signal.SIGVTALRM, before)


def _rendered(design: Design, gateway_id: str, form: str) -> str:
    if form == "rfc9061":
        return json.dumps(ike_model(design, gateway_id), indent=2, ensure_ascii=False)
    if form == "ietf-routing":
        return json.dumps(routing_model(design, gateway_id), indent=2, ensure_ascii=False)
    if form == "linux":
        plan = linux_plan(Tables(design), gateway_id)
        if not plan.apply:
            lacking = ", ".join(interface.name for interface in plan.interfaces if interface.needed and not interface.interface)
            refuse(f"no commands without the names of these interfaces: {lacking}")
        return "\n".join(plan.apply)
    if form == "linux-files":
        try:
            return files_text(linux_files(Tables(design), gateway_id))
        except CantBeKept as error:
            refuse(str(error))
    try:
        text = Path(form).read_text("utf-8-sig")
        with _limited():
            return render_template(text, design, gateway_id).removesuffix("\n")
    except OSError as error:
        refuse(
            f"{form}: {error.strerror or 'cannot be read'}; --as takes rfc9061, ietf-routing, linux, linux-files, or such a file"
        )
    except (TemplateRefused, UnicodeDecodeError) as error:
        refuse(f"{form}: {error}")
