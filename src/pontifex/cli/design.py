"""Reading the design file that a command is given."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import NoReturn

import typer

from pontifex.core.design_file import UnreadableDesign, read_design_file
from pontifex.core.model import Design

UNREADABLE = 2  # exit code for any input that can't be read


def read_design(file: Path, as_json: bool = False) -> Design:
    """Return the design of a file, or of standard input for "-"; exit with 2 and every place that is wrong."""
    try:
        text = sys.stdin.read() if str(file) == "-" else file.read_text("utf-8-sig")
        return read_design_file(text, "checked")
    except OSError as error:
        _refuse(file, [("", error.strerror or "can't be read")], as_json)
    except UnicodeDecodeError as error:
        _refuse(file, [(f"octet {error.start}", "not UTF-8")], as_json)
    except UnreadableDesign as error:
        _refuse(file, [(problem.place, problem.reason) for problem in error.problems], as_json)


def _refuse(file: Path, problems: list[tuple[str, str]], as_json: bool) -> NoReturn:
    if as_json:
        typer.echo(json.dumps({"unreadable": [{"place": place, "reason": reason} for place, reason in problems]}))
    for place, reason in problems:
        typer.echo(": ".join(filter(None, (str(file), place, reason))), err=True)
    raise typer.Exit(UNREADABLE)
