"""The design file: what *Export* writes, *Import* and the command line read."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final, Literal

from pydantic import Field, ValidationError

from pontifex.core.errors import NotAccepted
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds import KINDS
from pontifex.core.model import (
    ChangeRefused,
    Design,
    DesignContent,
    DesignObject,
    OperationProblem,
    apply_operations,
    put,
    without_weak_secrets,
)
from pontifex.core.validation_reasons import reason_of

FORMAT: Final = "pontifex-design-2"
_FIRST_FORMAT: Final = "pontifex-design-1"
_RENAMED: Final = {"claims": "prefix_reservations"}  # lists of the first format that are called otherwise now


class DesignFile(FrozenModel):
    """A design as a file. It holds no keys: only their references, fingerprints and strength."""

    format: Literal["pontifex-design-2"] = Field(
        title="Format",
        description="Name and version of this format. Version 1, which called reserved prefixes claims, is read, too.",
    )
    design: DesignContent = Field(title="Design")


@dataclass(frozen=True, slots=True)
class FileProblem:
    """What can't be read, and where: a path such as `design.networks[2].prefix`, or line and column."""

    place: str
    reason: str


class UnreadableDesign(NotAccepted):
    """A file that is no design file, with every place that is wrong."""

    title = "This is no design file"

    def __init__(self, problems: Sequence[FileProblem]) -> None:
        super().__init__("; ".join(f"{problem.place}: {problem.reason}" for problem in problems))
        self.problems = tuple(problems)


def write_design_file(design: Design, *, weak_secrets: bool = True) -> str:
    """Return the text of a design's file. The same design gives the same text.

    Without `weak_secrets` it says nothing of secrets that could be guessed from what the design knows of them.
    """
    content = design.content() if weak_secrets else without_weak_secrets(design.content())
    file = DesignFile(format=FORMAT, design=content)
    return file.model_dump_json(indent=2) + "\n"


def read_design_file(text: str, design_id: str) -> Design:
    """Read a design file as revision 0 of a design. Raise UnreadableDesign with every place that is wrong."""
    try:
        raw = json.loads(text)
    except json.JSONDecodeError as error:
        raise UnreadableDesign([FileProblem(f"line {error.lineno}, column {error.colno}", f"not JSON: {error.msg}")]) from None
    except ValueError:
        raise UnreadableDesign([FileProblem("the whole file", "a number in it has thousands of digits")]) from None
    except RecursionError:
        raise UnreadableDesign([FileProblem("line 1, column 1", "not a design: it is nested too deeply")]) from None
    return design_of(raw, design_id)


def design_of(raw: Any, design_id: str) -> Design:
    """Check what was read from JSON and return it as revision 0 of a design. Raise UnreadableDesign."""
    try:
        content = DesignFile.model_validate(_in_this_format(raw)).design
    except ValidationError as error:
        raise UnreadableDesign([FileProblem(_path(refusal["loc"]), reason_of(refusal)) for refusal in error.errors()]) from None
    return _assembled(content, design_id)


def _in_this_format(raw: Any) -> Any:
    """Return what was read from a file of the first format as one of this format."""
    if not isinstance(raw, dict) or raw.get("format") != _FIRST_FORMAT or not isinstance(raw.get("design"), dict):
        return raw
    design = {_RENAMED.get(name, name): value for name, value in raw["design"].items()}
    return raw | {"format": FORMAT, "design": design}


def _assembled(content: DesignContent, design_id: str) -> Design:
    """Put all objects through the same checks as a change, so that a file lets in nothing that the repository refuses."""
    empty = Design(id=design_id, revision=0, key_salt=content.key_salt, **content.settings.by_field())
    placed: list[tuple[str, DesignObject]] = [
        (f"design.{kind.members}[{k}]", item) for kind in KINDS for k, item in enumerate(getattr(content, kind.members))
    ]
    problems = _repeated_ids(placed)
    try:
        design = apply_operations(empty, [put(item) for _, item in placed])
    except ChangeRefused as refused:
        problems += [_file_problem(placed, problem) for problem in refused.problems]
    if problems:
        raise UnreadableDesign(problems)
    return design.changed(revision=0)


def _repeated_ids(placed: list[tuple[str, DesignObject]]) -> list[FileProblem]:
    seen: set[tuple[type, str]] = set()
    problems = []
    for place, item in placed:
        key = (type(item), getattr(item, "id", ""))
        if key in seen:
            problems.append(FileProblem(f"{place}.id", f"the id '{key[1]}' stands twice"))
        seen.add(key)
    return problems


def _file_problem(placed: list[tuple[str, DesignObject]], problem: OperationProblem) -> FileProblem:
    place = placed[problem.index][0]
    return FileProblem(f"{place}.{problem.field.replace('/', '.')}".rstrip("."), problem.reason)


def _path(location: tuple[int | str, ...]) -> str:
    """Write a location in JSON as `design.networks[2].prefix`."""
    text = "".join(f"[{part}]" if isinstance(part, int) else f".{part}" for part in location)
    return text.removeprefix(".") or "the whole file"
