"""A list of people and their devices, pasted or from a table: a line each, with what is wrong beside its line."""

from __future__ import annotations

import csv
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.kinds import Platform, PlatformFamily

MOST_LINES: Final = 100_000
LONGEST: Final = 80  # characters of a name
_HEAD: Final = 4096  # characters that show what parts the cells
MOST_FAULTS: Final = 200  # that are told one by one

_HEADINGS: Final = {
    "person": ("person", "name", "user", "who", "people"),
    "group": ("group", "team", "department", "crew"),
    "device": ("device", "hostname", "machine", "device name"),
    "platform": ("platform", "system", "os", "type", "family", "kind"),
}
_USUAL_ORDER: Final = ("person", "group", "device", "platform")


@dataclass(frozen=True, slots=True, kw_only=True)
class ListedDevice:
    """One device of one person."""

    person: str
    group: str
    device: str
    platform: Annotated[str, Field(title="Platform", description="The id of one of the design, or a family.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class ListFault:
    """A line that isn't taken."""

    line: Annotated[int, Field(title="Line", description="From 1.")]
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PeopleList:
    """What a list says. Lines with a fault are not among the devices."""

    devices: tuple[ListedDevice, ...]
    faults: Annotated[tuple[ListFault, ...], Field(title="Faults", description="The first ones.")]
    faults_count: Annotated[int, Field(title="How many lines have a fault")]


def platform_words(platforms: Iterable[Platform]) -> dict[str, str]:
    """Return the ids of a design's platforms by what a list may call them."""
    return {word.lower(): platform.id for platform in platforms for word in (platform.id, platform.name)}


def read_people(text: str, platforms: Mapping[str, str], taken: frozenset[str] = frozenset()) -> PeopleList:
    """Read a list of people.

    Columns are parted by commas, semicolons or tabs, with headings in any order or, without headings, as person, group,
    device, platform. `platforms` are the known names and ids, in lower case, with their ids; families are known anyway.
    `taken` are names of devices that are there already. Lines beyond MOST_LINES are a fault each.
    """
    known = {**{family.value: family.value for family in PlatformFamily}, **platforms}
    devices: list[ListedDevice] = []
    faults: list[ListFault] = []
    seen = {name.lower() for name in taken}
    order: Sequence[str] | None = None
    for number, cells in _lines(text):
        if order is None:
            order = _order(cells)
            if order is not None:
                continue
            order = _USUAL_ORDER
        fault = "there are more lines than are read at once" if number > MOST_LINES + 1 else ""
        named = dict(zip(order, cells, strict=False))
        fault = fault or _fault(named, len(cells), len(order), known, seen)
        if fault:
            faults.append(ListFault(line=number, reason=fault))
            continue
        seen.add(named["device"].lower())
        named["platform"] = known[named["platform"].lower()]
        devices.append(ListedDevice(**{field: named[field] for field in _USUAL_ORDER}))
    return PeopleList(devices=tuple(devices), faults=tuple(faults[:MOST_FAULTS]), faults_count=len(faults))


def _lines(text: str) -> Iterator[tuple[int, list[str]]]:
    """Yield the cells of each line that isn't empty, with its number; a quote that is never closed ends with its line."""
    parted = max(",;\t", key=text[:_HEAD].count)
    for number, line in enumerate(text.lstrip("\ufeff").splitlines(), 1):
        if line.strip():
            yield number, [cell.strip() for cell in next(csv.reader([line], delimiter=parted, skipinitialspace=True))]


def _order(cells: Sequence[str]) -> Sequence[str] | None:
    """Return which column is which, where the line is one of headings; None where it isn't."""
    names = {word: field for field, words in _HEADINGS.items() for word in words}
    found = [names.get(cell.lower(), "") for cell in cells]
    fields = [field for field in found if field]
    return found if "device" in fields and len(fields) == len(set(fields)) >= len(_USUAL_ORDER) - 1 else None


def _fault(named: dict[str, str], cells: int, columns: int, known: Mapping[str, str], seen: set[str]) -> str:
    """Return what is wrong with a line; empty where nothing is."""
    if cells > columns:
        return f"it has {cells} cells, and {columns} are read"
    lacking = [field for field in _USUAL_ORDER if not named.get(field)]
    if lacking:
        return f"its {lacking[0]} is lacking"
    long = [field for field in _USUAL_ORDER if len(named[field]) > LONGEST or not named[field].isprintable()]
    if long:
        return f"its {long[0]} has more than {LONGEST} characters, or one that can't be printed"
    if named["platform"].lower() not in known:
        return f"there is no platform '{named['platform']}' in this design, and no such family"
    if named["device"].lower() in seen:
        return f"the device '{named['device']}' is there already"
    return ""
