"""What the documents name is there: files, folders, links, commands, targets of make, settings and pictures."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Final

import pytest

from pontifex.cli import _COMMANDS
from pontifex.settings import Settings

ROOT: Final = Path(__file__).parents[1]
BASES: Final = [ROOT / base for base in ("", "src/pontifex", "src/pontifex/core", "web/src", "src/pontifex/core/matching")]
DOCUMENTS: Final = [ROOT / "README.md", ROOT / "CONTRIBUTING.md", *sorted((ROOT / "docs").rglob("*.md"))]
_PATH: Final = re.compile(r"`((?:[\w.-]+/)*[\w.-]+\.(?:py|ts|vue|md|txt|sh)|(?:[\w.-]+/)+)`")
_LINK: Final = re.compile(r"\]\(([^)#:]+)\)")


def _named(document: Path, text: str, path: str) -> bool:
    """Whether a path is there, from the root, from a part of the source, or beside another path that the document names."""
    beside = [match.rpartition("/")[0] for match in _PATH.findall(text)]
    candidates = [base / path for base in BASES] + [base / folder / path for base in BASES for folder in beside]
    return any(candidate.exists() for candidate in (*candidates, document.parent / path))


@pytest.mark.parametrize("document", DOCUMENTS, ids=lambda document: document.name)
def test_what_a_document_names_is_there(document: Path) -> None:
    """Paths in code style, links and pictures lead somewhere."""
    text = document.read_text()
    assert [path for path in _PATH.findall(text) if not _named(document, text, path)] == []
    assert [link for link in _LINK.findall(text) if not (document.parent / link).exists()] == []


def test_commands_and_targets_are_there() -> None:
    """Every command of the command line, target of make and setting that a document names."""
    text = "\n".join(document.read_text() for document in DOCUMENTS)
    commands = set(re.findall(r"(?:\.venv/bin/|`)pontifex\s+([a-z][a-z-]+)", text))
    assert {"backup", "trace", "ticket"} <= commands
    assert commands - _COMMANDS.keys() == set()
    targets = set(re.findall(r"^([a-z]+):", (ROOT / "Makefile").read_text(), re.MULTILINE))
    assert set(re.findall(r"`make ([a-z]+)`", text)) - targets == set()
    known = {f"PONTIFEX_{name.upper()}" for name in Settings.model_fields}
    assert set(re.findall(r"PONTIFEX_[A-Z_]*[A-Z]", text)) == known


def test_every_picture_is_shown() -> None:
    """Each picture of the folder is linked from the README, and there are under twenty."""
    pictures = {f"docs/screenshots/{path.name}" for path in (ROOT / "docs/screenshots").iterdir()}
    assert len(pictures) < 20
    assert pictures == {link for link in _LINK.findall((ROOT / "README.md").read_text()) if link.endswith(".png")}
