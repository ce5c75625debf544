"""The command that reads a partner's form."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Annotated, NoReturn

import typer

from pontifex.core.addressing import AddressError, Prefix, parse_prefix
from pontifex.core.forms import FormRead, read_form
from pontifex.core.forms.form import MOST_CHARACTERS
from pontifex.core.kinds import TunnelEnd

CLEAR, OPEN = 0, 2  # exit codes


def form_command(
    file: Annotated[Path, typer.Argument(help="What the partner has filled in; - reads standard input.")],
    ours: Annotated[str, typer.Option(help="Your own prefixes, parted by commas: they tell whose networks are whose.")] = "",
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Read a form into the fields of the partner's end. Exit with 0, or 2 (a line is ambiguous or unknown, or unreadable)."""
    form = read_form(_text(file), _prefixes(ours))
    typer.echo(_as_json(form) if as_json else _as_text(form))
    raise typer.Exit(CLEAR if form.is_clear else OPEN)


def _text(file: Path) -> str:
    try:
        text = sys.stdin.read() if str(file) == "-" else file.read_text("utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        _refuse(f"{file}: {'not UTF-8' if isinstance(error, UnicodeDecodeError) else error.strerror}")
    if len(text) > MOST_CHARACTERS:
        _refuse(f"{file}: a form has {MOST_CHARACTERS:,} characters at most")
    return text


def _prefixes(ours: str) -> list[Prefix]:
    try:
        return [parse_prefix(_with_length(text.strip())) for text in ours.split(",") if text.strip()]
    except AddressError as error:
        _refuse(f"--ours: {error.reason}")


def _with_length(text: str) -> str:
    """Return a prefix; an address alone is that of one host."""
    return text if "/" in text else f"{text}/{128 if ':' in text else 32}"


def _refuse(reason: str) -> NoReturn:
    typer.echo(reason, err=True)
    raise typer.Exit(OPEN)


def _as_json(form: FormRead) -> str:
    whole = TunnelEnd.model_validate({"gateway_id": "partner", **form.fields}).model_dump(mode="json")
    lines = [
        {
            "text": line.text,
            "state": line.state.value,
            "meaning": line.meaning,
            "field": line.field,
            "choices": list(line.choices),
        }
        for line in form.lines
    ]
    return json.dumps({"end": {field: whole[field] for field in form.fields}, "lines": lines}, indent=2, ensure_ascii=False)


def _as_text(form: FormRead) -> str:
    shown = []
    for line in form.lines:
        shown.append(f"{line.number:>4} {line.state.value}: {line.text}\n       {line.meaning}")
        shown += [f"       or: {choice}" for choice in line.choices]
    return "\n".join(shown)
