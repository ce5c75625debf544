"""What the words around a word make of it: numbers behind labels, what is negated, which SA a word is about."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import pairwise
from typing import Final

from pontifex.core.ipsec.proposal import Protocol, Transform
from pontifex.core.ipsec.reading.languages import NOT
from pontifex.core.ipsec.reading.word import Tag, Word, WordKind
from pontifex.core.ipsec.registry import REGISTRY, TransformType

_KE: Final = TransformType.KE
_GROUPS: Final = frozenset(row.id for row in REGISTRY if row.type is _KE and row.id)
_LEAST_S: Final = 600  # a lifetime of less is written with its unit
_SHORTEST_S: Final = 60
_UNITS: Final = {"s": 1, "min": 60, "h": 3600}
_MOST_S: Final = 86_400 * 30
_CLAUSE_END: Final = re.compile(r"[;,\n|\t]|\.\s|\.$|\s[–—]\s")
_JOINED: Final = re.compile(r"\s*[/_-]\s*|\s+")
_NOT_WORD: Final = re.compile(NOT, re.IGNORECASE)


def in_context(text: str, words: Sequence[Word]) -> list[Word]:
    """Return the words as those around them make them."""
    found = list(words)
    _resolve_numbers(text, found)
    _resolve_forward_secrecy(text, found)
    _negate(text, found)
    return found


def between(text: str, left: Word, right: Word) -> str:
    """Return what stands between two words."""
    return text[left.end : right.start]


def _resolve_numbers(text: str, words: list[Word]) -> None:
    """Give a number its meaning: a group behind a group, a label or a hash that it is joined to; else a lifetime."""
    for at, word in enumerate(words):
        if word.number is None:
            continue
        before = _significant(words, at)
        gap = text[before.end : word.start] if before else ""
        if before and word.number in _GROUPS and _expects_group(before, gap):
            transform = Transform(type=_KE, id=word.number)
            words[at] = replace(word, kind=WordKind.UNDERSTOOD, meaning=transform.label, transforms=(transform,), number=None)
        elif _behind_lifetime(text, words, at):
            words[at] = _lifetime(word)


def _significant(words: Sequence[Word], at: int) -> Word | None:
    """Return the word before one that isn't a mere joint."""
    return next((word for word in reversed(words[:at]) if word.tag not in (Tag.OR, Tag.AND, Tag.YES)), None)


def _expects_group(before: Word, gap: str) -> bool:
    if "\n" in gap:
        return False
    if before.tag in (Tag.GROUP, Tag.PFS) or any(transform.type is _KE for transform in before.transforms):
        return True
    return bool(before.is_value and _JOINED.fullmatch(gap) and gap.strip())  # as in 3des/sha/2


def _behind_lifetime(text: str, words: Sequence[Word], at: int) -> bool:
    """Whether a label of a lifetime stands before a number in its line, with nothing but numbers and joints between."""
    for before, word in zip(reversed(words[:at]), reversed(words[1 : at + 1]), strict=True):
        if "\n" in between(text, before, word) and before.tag is not Tag.LIFETIME:
            return False
        if before.tag is Tag.LIFETIME:
            return True
        if before.number is None and before.lifetime_s is None and before.tag not in (Tag.AND, Tag.OR) and before.section is None:
            return False
    return False


def _lifetime(word: Word) -> Word:
    seconds = word.number or 0
    if _LEAST_S <= seconds <= _MOST_S:
        return replace(word, kind=WordKind.UNDERSTOOD, meaning=f"lifetime {seconds} s", lifetime_s=seconds, number=None)
    choices = tuple(f"{seconds} {unit}" for unit, of_s in _UNITS.items() if _SHORTEST_S <= seconds * of_s <= _MOST_S)
    if not choices:
        return replace(word, meaning=f"{seconds} is no lifetime, of whichever unit", number=None)
    return replace(word, kind=WordKind.AMBIGUOUS, meaning=f"{seconds} of what?", choices=choices, number=None)


def _resolve_forward_secrecy(text: str, words: list[Word]) -> None:
    """Say whether forward secrecy is wanted: not where a no stands before it or behind it."""
    for at, word in enumerate(words):
        if word.tag is not Tag.PFS:
            continue
        before = words[at - 1] if at else None
        behind = words[at + 1] if at + 1 < len(words) else None
        refused = bool(before and _refuses(before) and not _CLAUSE_END.search(between(text, before, word)))
        refused |= bool(behind and behind.tag is Tag.NO and not re.search(r"[;,\n|]", between(text, word, behind)))
        says = "no" if refused else "yes"
        words[at] = replace(word, pfs=not refused, meaning=f"forward secrecy for the Child SA: {says}")


def _refuses(word: Word) -> bool:
    """Whether a word negates what follows it."""
    return word.tag is Tag.NOT or (word.tag is Tag.NO and bool(_NOT_WORD.fullmatch(word.text)))


def _negate(text: str, words: list[Word]) -> None:
    """Take out what isn't wanted: behind a word that negates up to the end of its clause, or before a no."""
    for at, word in enumerate(words):
        follows = at + 1 < len(words) and not _CLAUSE_END.search(between(text, word, words[at + 1]))
        if _refuses(word) and follows and words[at + 1].is_value:
            end = _negate_clause(text, words, at + 1)
            _ask_behind(text, words, end)
        elif word.tag is Tag.NO and at and words[at - 1].is_value and not (follows and _refuses(word)):
            gap = between(text, words[at - 1], word)
            if not _CLAUSE_END.search(gap):
                words[at - 1] = _negated(words[at - 1])


def _negate_clause(text: str, words: list[Word], at: int) -> int:
    """Negate values from a word on to the end of the clause; return the place of the first word behind it."""
    while at < len(words):
        if words[at].is_value:
            words[at] = _negated(words[at])
        elif words[at].tag not in (Tag.OR, Tag.AND):
            return at
        at += 1
        if at < len(words) and _CLAUSE_END.search(between(text, words[at - 1], words[at])):
            break
    return at


def _ask_behind(text: str, words: list[Word], at: int) -> None:
    """Where a comma alone parts a value from what is negated, it may be meant or not."""
    if at < len(words) and at and words[at].is_value and between(text, words[at - 1], words[at]).strip() == ",":
        word = words[at]
        choices = (f"; {word.text}", f"or not {word.text}")
        words[at] = replace(
            word, kind=WordKind.AMBIGUOUS, meaning=f"is {word.text} wanted?", choices=choices, transforms=(), hash=None
        )


def _negated(word: Word) -> Word:
    return replace(word, meaning=f"not {word.meaning}", transforms=(), hash=None, tag=Tag.NOT)


# which SA a word is about


def protocols(text: str, words: Sequence[Word], first: Protocol) -> list[Protocol]:
    """Return for each word which SA it is about: by the section before it, or by the column of a table that it stands in."""
    found = [first] * len(words)
    current, table = first, None
    for at, line in _lines(text, words):
        heads = _column_heads(text, line)
        if heads:
            table = heads
        elif table and len(_cells(text, line, table[0])) < 2:
            table = None
        for place, word in zip(range(at, at + len(line)), line, strict=True):
            if table:
                found[place] = table[1].get(_cell_of(text, word, table[0]), current)
            else:
                current = word.section or current
                found[place] = current
    _give_pairs(words, found)
    return found


def _give_pairs(words: Sequence[Word], found: list[Protocol]) -> None:
    """Give two lifetimes to two sections that are named together before them, as in "lifetime IKE/ESP 28800/3600"."""
    named: list[Protocol] = []
    times: list[int] = []
    for at, word in enumerate(words):
        if word.section:
            named = [*named, word.section] if not times else [word.section]
            times = []
        elif word.lifetime_s is not None:
            times.append(at)
            if len(times) == len(named) == len(set(named)) == 2:
                found[times[0]], found[times[1]] = named
        elif word.tag not in (Tag.AND, Tag.OR, Tag.LIFETIME):
            named, times = [], []


def _lines(text: str, words: Sequence[Word]) -> Iterator[tuple[int, Sequence[Word]]]:
    """Yield the words of each line of the text, with the place of the first."""
    start = 0
    for at, (left, right) in enumerate(pairwise(words), 1):
        if "\n" in between(text, left, right):
            yield start, words[start:at]
            start = at
    if words:
        yield start, words[start:]


_Heads = tuple[str, dict[int, Protocol]]


def _column_heads(text: str, line: Sequence[Word]) -> _Heads | None:
    """Return what parts the cells, and the SA of each column, where a line is the head of a table."""
    sections = [word for word in line if word.section]
    if len(sections) < 2 or len({word.section for word in sections}) < 2 or any(word.is_value for word in line):
        return None
    for mark in ("\t", "|", ";"):
        columns = {_cell_of(text, word, mark): word.section for word in sections if word.section}
        if len(columns) == len(sections):
            return mark, columns
    return None


def _cells(text: str, line: Sequence[Word], mark: str) -> list[str]:
    start = text.rfind("\n", 0, line[0].start) + 1
    end = text.find("\n", line[-1].end)
    return text[start : end if end >= 0 else len(text)].split(mark)


def _cell_of(text: str, word: Word, mark: str) -> int:
    """Return the number of the cell that a word stands in, from 0."""
    return text.count(mark, text.rfind("\n", 0, word.start) + 1, word.start)
