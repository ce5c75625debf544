"""Names of the product's code: a class is found in one guess, so no two share a name."""

from __future__ import annotations

import ast
from collections import defaultdict
from pathlib import Path
from typing import Final

import pontifex

SOURCES: Final = Path(pontifex.__file__).parent


def test_no_two_classes_share_a_name():
    """Neither in the code, private ones among them, nor in the description of the API, where one would be told by its module."""
    places: dict[str, list[str]] = defaultdict(list)
    for file in sorted(SOURCES.rglob("*.py")):
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.ClassDef):
                places[node.name].append(str(file.relative_to(SOURCES)))
    assert len(places) > 1000
    assert {name: found for name, found in places.items() if len(found) > 1} == {}
