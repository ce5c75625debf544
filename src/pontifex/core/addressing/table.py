"""A long list of prefixes with names: `name,prefix[,zone]` on each line, a million of them in seconds."""

from __future__ import annotations

import csv
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from typing import Final

from pontifex.core.addressing.address import AddressError, Family
from pontifex.core.addressing.overlap import Blocks, OverlapPairs, pairs_of
from pontifex.core.addressing.prefix import Prefix, parse_prefix

_HEADINGS: Final = ("name", "prefix")


class TableError(ValueError):
    """A line that can't be read: its number, from 1, and the reason."""

    def __init__(self, line: int, reason: str) -> None:
        super().__init__(f"line {line}: {reason}")
        self.line, self.reason = line, reason


@dataclass(frozen=True, slots=True)
class _Group:
    """The prefixes of one zone and family."""

    family: Family
    rows: list[int] = field(default_factory=list)  # positions in the table
    networks: list[int] = field(default_factory=list)
    lengths: list[int] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class PrefixTable:
    """What was read."""

    names: list[str]
    groups: dict[tuple[str, Family], _Group]

    def overlaps(self) -> Iterator[tuple[str, str, bool]]:
        """Yield the names of the outer and the inner prefix of each pair in one zone, and whether they are identical.

        Zones come by name, IPv4 before IPv6, and pairs in canonical order.
        """
        for _, group in sorted(self.groups.items(), key=lambda item: (item[0][0], item[0][1].bits)):
            pairs: OverlapPairs = pairs_of(Blocks.of(group.family, group.networks, group.lengths))
            rows, names = group.rows, self.names
            found = zip(pairs.outer.tolist(), pairs.inner.tolist(), pairs.identical.tolist(), strict=True)
            for outer, inner, identical in found:
                yield names[rows[outer]], names[rows[inner]], identical

    def prefixes(self) -> Iterator[Prefix]:
        """Yield all prefixes, group by group."""
        for group in self.groups.values():
            for network, length in zip(group.networks, group.lengths, strict=True):
                yield Prefix(group.family, network, length)


def read_prefix_table(lines: Iterable[str]) -> PrefixTable:
    """Read lines of comma-separated values; a first line of headings, empty lines and those after '#' are passed over.

    A line with one value alone is a prefix without a name. Raise TableError with the number of the first bad line.
    """
    names: list[str] = []
    groups: dict[tuple[str, Family], _Group] = {}
    reader = csv.reader(lines)
    try:
        for cells in reader:
            if not cells or cells[0].startswith("#") or not any(cells):
                continue
            text = cells[1] if len(cells) > 1 else cells[0]
            if not names and text.strip().lower() in _HEADINGS:
                continue
            family, network, length = _read(text)
            key = (cells[2].strip() if len(cells) > 2 else "", family)
            group = groups.get(key) or groups.setdefault(key, _Group(family))
            group.rows.append(len(names))
            group.networks.append(network)
            group.lengths.append(length)
            names.append(cells[0].strip())
    except AddressError as error:
        raise TableError(reader.line_num, error.reason) from None
    except csv.Error as error:
        raise TableError(reader.line_num, str(error)) from None
    return PrefixTable(names, groups)


_OCTETS: Final = {str(value): value for value in range(256)}
_LENGTHS: Final = {str(value): value for value in range(33)}
_HOST_MASKS: Final = [Family.V4.host_mask(length) for length in range(33)]


def _read(text: str) -> tuple[Family, int, int]:
    """Read a prefix: the plain way for a well-written IPv4 one, and the exact way, with its reasons, for all others."""
    address, _, length_text = text.strip().partition("/")
    parts = address.split(".")
    length = _LENGTHS.get(length_text)
    if len(parts) == 4 and length is not None:
        try:
            a, b, c, d = (_OCTETS[part] for part in parts)
        except KeyError:
            pass
        else:
            network = a << 24 | b << 16 | c << 8 | d
            if not network & _HOST_MASKS[length]:
                return Family.V4, network, length
    prefix = parse_prefix(text)
    return prefix.family, prefix.network, prefix.length
