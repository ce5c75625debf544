"""No regular expression of the product can take more than linear time by two repetitions that may share what they match."""

from __future__ import annotations

import ast
import importlib
import inspect
import pkgutil
import re
import re._constants as op  # type: ignore[import-not-found]
import re._parser as parser  # type: ignore[import-not-found]
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any, Final

import pytest

import pontifex

SOURCES: Final = Path(pontifex.__file__).parent
ALL: Final = frozenset(range(256))  # the first characters of Unicode stand for all of them
_MANY: Final = 65  # repetitions that may be so many count as without an end
_CATEGORIES: Final = {
    op.CATEGORY_DIGIT: r"\d",
    op.CATEGORY_NOT_DIGIT: r"\D",
    op.CATEGORY_SPACE: r"\s",
    op.CATEGORY_NOT_SPACE: r"\S",
    op.CATEGORY_WORD: r"\w",
    op.CATEGORY_NOT_WORD: r"\W",
}


def _category(category: Any) -> frozenset[int]:
    return frozenset(code for code in ALL if re.match(_CATEGORIES[category], chr(code)))


def _class(items: Iterable[Any]) -> frozenset[int]:
    found: set[int] = set()
    negated = False
    for kind, value in items:
        if kind is op.NEGATE:
            negated = True
        elif kind is op.LITERAL:
            found.add(value)
        elif kind is op.RANGE:
            found |= set(range(value[0], min(value[1], 255) + 1))
        elif kind is op.CATEGORY:
            found |= _category(value)
    return ALL - found if negated else frozenset(found)


def _characters(items: Iterable[Any]) -> frozenset[int]:
    """Return the characters that any part of a pattern may consume, both cases of letters among them."""
    found: set[int] = set()
    for kind, value in items:
        if kind is op.LITERAL:
            found.add(value)
        elif kind is op.NOT_LITERAL:
            found |= ALL - {value}
        elif kind is op.ANY:
            found |= ALL
        elif kind is op.IN:
            found |= _class(value)
        else:
            for inner in _inner(kind, value):
                found |= _characters(inner)
    return frozenset(other for code in found for text in (chr(code).lower(), chr(code).upper()) for other in map(ord, text))


def _inner(kind: Any, value: Any) -> list[Any]:
    """Return the parts of a part that consume something; looking ahead or behind doesn't."""
    if kind in (op.MAX_REPEAT, op.MIN_REPEAT, op.POSSESSIVE_REPEAT):
        return [value[2]]
    if kind is op.SUBPATTERN:
        return [value[3]]
    if kind is op.BRANCH:
        return list(value[1])
    return [value] if kind is op.ATOMIC_GROUP else []


def _first(items: Iterable[Any]) -> frozenset[int]:
    """Return the characters that what a pattern consumes may begin with."""
    found: frozenset[int] = frozenset()
    for kind, value in items:
        inner = _inner(kind, value)
        found |= frozenset().union(*map(_first, inner)) if inner else _characters([(kind, value)])
        if not _item_may_be_empty(kind, value):
            break
    return found


def _may_be_empty(items: Iterable[Any]) -> bool:
    return all(_item_may_be_empty(kind, value) for kind, value in items)


def _item_may_be_empty(kind: Any, value: Any) -> bool:
    if kind in (op.LITERAL, op.NOT_LITERAL, op.ANY, op.IN):
        return False
    if kind in (op.MAX_REPEAT, op.MIN_REPEAT, op.POSSESSIVE_REPEAT):
        return value[0] == 0 or _may_be_empty(value[2])
    inner = _inner(kind, value)
    return any(map(_may_be_empty, inner)) if inner else True


def _is_endless(kind: Any, value: Any) -> bool:
    return kind in (op.MAX_REPEAT, op.MIN_REPEAT) and value[1] >= _MANY


def _flat(items: Iterable[Any]) -> Iterator[tuple[Any, Any]]:
    """Yield the parts of a sequence, those of plain groups in their place."""
    for kind, value in items:
        if kind is op.SUBPATTERN:
            yield from _flat(value[3])
        else:
            yield kind, value


def overlapping(items: Iterable[Any]) -> bool:
    """Whether a pattern holds two endless repetitions, one in or after the other, between which a text can be split at will."""
    before: frozenset[int] = frozenset()  # what endless repetitions that may go on here consume
    for kind, value in _flat(items):
        if any(map(overlapping, _inner(kind, value))):
            return True
        consumed = _characters([(kind, value)])
        if _is_endless(kind, value):
            if before & _first(value[2]) or _splits_itself(value[2]):
                return True
            before = before | consumed if _item_may_be_empty(kind, value) else consumed
        elif not _item_may_be_empty(kind, value):
            before = frozenset()
    return False


def _splits_itself(body: Any) -> bool:
    """Whether what is repeated is, all else being empty, an endless repetition itself."""
    parts = list(_flat(body))
    endless = [at for at, (kind, value) in enumerate(parts) if _is_endless(kind, value)]
    return any(_may_be_empty(parts[:at] + parts[at + 1 :]) for at in endless)


def _compiled(value: Any) -> Iterator[str]:
    if isinstance(value, re.Pattern):
        yield value.pattern
    elif isinstance(value, tuple | list | frozenset):
        for part in value:
            yield from _compiled(part)
    elif isinstance(value, dict):
        yield from _compiled([*value, *value.values()])


def _is_made_when_asked_for(value: Any) -> bool:
    return hasattr(value, "cache_info") and not inspect.signature(value).parameters


def _patterns() -> set[str]:
    """Return every pattern: those that modules hold compiled, and those that stand in calls of `re` and in constraints."""
    found: set[str] = set()
    for module in pkgutil.walk_packages([str(SOURCES)], "pontifex."):
        if "__main__" not in module.name and "migrations" not in module.name:
            for value in vars(importlib.import_module(module.name)).values():
                found |= set(_compiled(value() if _is_made_when_asked_for(value) else value))
    for file in SOURCES.rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.Call):
                of_re = isinstance(node.func, ast.Attribute) and getattr(node.func.value, "id", "") == "re"
                texts = [
                    *(node.args[:1] if of_re else []),
                    *(keyword.value for keyword in node.keywords if keyword.arg == "pattern"),
                ]
                found |= {text.value for text in texts if isinstance(text, ast.Constant) and isinstance(text.value, str)}
    return found


@pytest.mark.parametrize(
    ("pattern", "is_bad"),
    [
        (r"\d+\d*x", True),
        (r"(a+)+b", True),
        (r"(a*b?)*c", True),
        (r"\s*,?\s*x", True),
        (r"(?:a|a)+", False),
        (r"\w+\s+\w+", False),
        (r"(\w+,)+", False),
        (r"[a-z]+(?:-[a-z]+)*", False),
        (r".*foo.*", False),
        (r"[^,]*.*x", True),
        (r"\d{1,3}\d{1,3}", False),
        (r"a{0,100}a{0,100}", True),
    ],
)
def test_the_check_tells_good_from_bad(pattern, is_bad):
    """Repetitions that can share what they match are found; those that something parts, or that are short, are not."""
    assert overlapping(parser.parse(pattern)) is is_bad


def test_no_pattern_has_overlapping_repetitions():
    """All patterns of the product, the vocabulary of proposals included."""
    patterns = _patterns()
    assert len(patterns) > 400
    assert {pattern for pattern in patterns if overlapping(parser.parse(pattern))} == set()
