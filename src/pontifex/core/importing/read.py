"""Telling what a text is, and reading it."""

from __future__ import annotations

import json
from typing import Any, Final

from pontifex.core.importing.free_text import read_free_text
from pontifex.core.importing.linux import kind_of, read_linux
from pontifex.core.importing.record import Read, SourceLine, Unread, shortened
from pontifex.core.importing.tables import looks_like_table, read_rows, read_table

MOST_CHARACTERS: Final = 8_000_000
_LISTS: Final = ("networks", "prefixes", "hosts", "rows", "data")


def read_text(text: str) -> tuple[str, Read]:
    """Return what a text was taken for, in words, and its records."""
    stripped = text.strip().removeprefix("\ufeff")
    if stripped[:1] in ("[", "{"):
        return _read_json(stripped)
    if looks_like_table(stripped):
        return "a table", read_table(text)
    return "free text", read_free_text(text)


def _read_json(text: str) -> tuple[str, Read]:
    try:
        found: Any = json.loads(text)
    except json.JSONDecodeError as error:
        return "JSON", [(SourceLine(error.lineno, ""), Unread(f"not JSON: {error.msg}, column {error.colno}"))]
    except ValueError:
        return "JSON", [(SourceLine(1, ""), Unread("a number in it has thousands of digits"))]
    except RecursionError:
        return "JSON", [(SourceLine(1, ""), Unread("it is nested too deeply"))]
    if isinstance(found, dict):
        if found.get("format"):
            return "JSON", [(SourceLine(1, ""), Unread("this is a whole design; import it on the page of all designs"))]
        found = next((found[key] for key in _LISTS if isinstance(found.get(key), list)), [found])
    if all(isinstance(row, str) for row in found):
        return "a list of prefixes", read_free_text("\n".join(found))
    rows = [row for row in found if isinstance(row, dict)]
    kind = kind_of(rows)
    if kind:
        return f"what 'ip -j {kind}' prints", read_linux(found, kind)
    others = [
        (SourceLine(k, shortened(str(row))), Unread("no object")) for k, row in enumerate(found, 1) if not isinstance(row, dict)
    ]
    return "JSON", [*read_rows(rows), *others]
