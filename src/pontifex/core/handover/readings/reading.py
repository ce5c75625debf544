"""A reading of a device: what it runs and what it will run after a restart, with its time and its source.

It is written as JSON, in a form of our own: `{"format": "pontifex-reading", "version": 1, "gateway_id": …, "taken_at": …,
"source": …, "running": {path: value}, "after_restart": {path: value}}`.
"""

from __future__ import annotations

import json
import math
import re
from collections.abc import Mapping
from typing import Annotated, Any, Final, Literal

from pydantic import AwareDatetime, Field, StringConstraints, ValidationError, field_validator
from pydantic_core import PydanticCustomError

from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds.fields import ObjectId, Remark
from pontifex.core.validation_reasons import reason_of

MOST_SETTINGS: Final = 20_000
_DEEPEST: Final = 6
_LARGEST: Final = 2**63
_PRINTED: Final = re.compile(r"[^\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ud800-\udfff]*")
_Path = Annotated[str, StringConstraints(pattern=r"^(tunnel|gateway)/[a-z0-9][a-z0-9-]{0,63}/[^\x00-\x1f\x7f]{1,200}$")]
_Settings = Annotated[dict[_Path, Any], Field(max_length=MOST_SETTINGS)]


class UnreadableReading(ValueError):
    """A text that is no reading; the message says what is wrong."""


class Reading(FrozenModel):
    """What a device runs, and what it keeps."""

    format: Literal["pontifex-reading"] = "pontifex-reading"
    version: Literal[1] = 1
    gateway_id: ObjectId = Field(title="Gateway")
    taken_at: AwareDatetime = Field(title="Taken at")
    source: Remark = Field(title="Source", description="A connector, a pasted text, a sheet that was ticked.", examples=["sheet"])
    taken_by: Remark = Field(default="", title="Taken by")
    complete: bool = Field(default=True, title="All of it", description="What isn't named isn't there; else it wasn't read.")
    running: _Settings = Field(default={}, title="Runs now", description="Values by the paths of settings.")
    after_restart: _Settings | None = Field(
        default=None,
        title="After a restart",
        description="Null where that wasn't read; as it runs, where the device saves at once.",
    )

    @field_validator("running", "after_restart")
    @classmethod
    def _plain_values(cls, settings: dict[str, Any] | None) -> dict[str, Any] | None:
        for path, value in (settings or {}).items():
            if not _is_plain(value):
                raise PydanticCustomError(
                    "setting", "the value of '{path}' is neither a word, a number nor a list", {"path": path}
                )
        return settings


def _is_plain(value: Any, depth: int = _DEEPEST) -> bool:
    """Whether a value is one that a design file could have: lists and objects of words and numbers, not too deep or long."""
    if isinstance(value, list):
        return depth > 0 and len(value) <= 1000 and all(_is_plain(part, depth - 1) for part in value)
    if isinstance(value, Mapping):
        return depth > 0 and len(value) <= 50 and all(_is_plain(part, depth - 1) for part in (*value, *value.values()))
    if isinstance(value, str):
        return len(value) <= 20_000 and _PRINTED.fullmatch(value) is not None
    if isinstance(value, float):
        return math.isfinite(value)
    return value is None or isinstance(value, bool) or (isinstance(value, int) and abs(value) < _LARGEST)


def read_reading(text: str) -> Reading:
    """Read a reading from its file. Raise UnreadableReading for one that is cut off or no reading at all."""
    try:
        raw = json.loads(text)
    except json.JSONDecodeError as error:
        raise UnreadableReading(f"this is no JSON: line {error.lineno}, column {error.colno}: {error.msg}") from None
    except RecursionError:
        raise UnreadableReading("this is nested too deep to be a reading") from None
    except ValueError:
        raise UnreadableReading("a number in it has thousands of digits") from None
    try:
        return Reading.model_validate(raw)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(map(str, first["loc"])) or "the whole"
        raise UnreadableReading(f"{place}: {reason_of(first)}") from None
