"""One line a site: its name, its networks, and how it reaches the outside, in free words or in the cells of a table."""

from __future__ import annotations

import csv
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Final

from pontifex.core.addressing import Address, AddressError, Family, Prefix
from pontifex.core.addressing.interface import Interface
from pontifex.core.addressing.special import PRIVATE_SPACE, SHARED_SPACE, UNIQUE_LOCAL
from pontifex.core.importing.masks import is_mask, read_block
from pontifex.core.kinds import NetworkRole, SiteKind
from pontifex.core.starting.words import HEADINGS, NOISE, OUTSIDE, ROLES, SITE_KINDS, OutsideAccess

_LONGEST_NAME: Final = 253  # RFC 1035 section 2.3.4, as text
_V4: Final = r"\d{1,3}(?:\.\d{1,3}){3}"
_V6: Final = r"(?:[0-9A-Fa-f]{0,4}:){2,7}[0-9A-Fa-f.]{0,15}"
_BLOCK: Final = re.compile(
    rf"(?<![\w.:/-])(?P<block>(?:{_V4}|{_V6})(?:/(?:{_V4}|\d{{1,3}}))?)(?:\s+(?:(?:net)?mask\s*)?(?P<mask>{_V4})(?![\d./]))?(?![\w/])"
)
_JOINING: Final = re.compile(r"(?<!\w)(?:and|und|et|plus)(?!\w)|[&+/]", re.IGNORECASE)
_DNS: Final = re.compile(r"(?<![\w.@/-])(?:[A-Za-z0-9_](?:[A-Za-z0-9-]{0,61}[A-Za-z0-9])?\.)+[A-Za-z]{2,63}(?![\w.-])")
_SEPARATOR: Final = re.compile(r"[\t;|,]|:\s|:$|\s[–—-]\s")
_INSIDE: Final = (*PRIVATE_SPACE, SHARED_SPACE, UNIQUE_LOCAL)


class LineFault(Exception):
    """Why a line can't be taken."""


@dataclass(frozen=True, slots=True)
class SaidNetwork:
    """A network that a line names."""

    prefix: Prefix
    name: str
    role: NetworkRole


@dataclass
class SiteLine:
    """What a line says."""

    name: str = ""
    kind: SiteKind | None = None
    region: str = ""
    networks: list[SaidNetwork] = field(default_factory=list)
    outside: OutsideAccess | None = None
    address: Address | None = None
    dns_name: str = ""
    left_out: list[str] = field(default_factory=list)  # words that mean nothing here


def split_line(line: str, separator: str) -> list[str]:
    """Return the cells of a line of a table."""
    return [_plain(cell) for cell in next(csv.reader([line], delimiter=separator))]


def _plain(text: str) -> str:
    """Return a text as one line of what can be printed."""
    return " ".join("".join(sign if sign.isprintable() else " " for sign in text).split())


def headings_of(line: str) -> tuple[str, tuple[str, ...]] | None:
    """Return the separator and what each column holds where a line is the head of a table; empty for one that isn't known."""
    for separator in "\t;|,":
        if separator in line:
            cells = split_line(line, separator)
            fields = tuple(HEADINGS.get(cell.casefold(), "") for cell in cells)
            if "site" in fields and len(set(fields) - {""}) > 1:
                return separator, fields
    return None


def read_cells(cells: Sequence[str], fields: Sequence[str]) -> SiteLine:
    """Read a row of a table by its headings. Raise LineFault."""
    said = SiteLine()
    for cell, column in zip(cells, fields, strict=False):
        if column == "site":
            said.name = cell
        elif column == "region":
            said.region = cell[:200]
        elif cell and column:
            _read_part(said, cell)
        elif cell:
            said.left_out.append(cell)
    return _checked(said)


def read_line(line: str) -> SiteLine:
    """Read a line of free words: the name first, all else in any order. Raise LineFault."""
    line = line.strip().lstrip("-•* ").strip()
    first_block = _BLOCK.search(line)
    end = first_block.start() if first_block else len(line)
    separator = _SEPARATOR.search(line, 0, end)
    name_end = separator.start() if separator else end
    said = SiteLine(name=_plain(line[:name_end]).strip(" :;,|–—-"))
    rest = line[separator.end() if separator else name_end :]
    for part in re.split(r"[\t;|,]", rest):
        if part.strip():
            _read_part(said, part.strip())
    return _checked(said)


def _checked(said: SiteLine) -> SiteLine:
    if not said.name:
        raise LineFault("no name of a site stands in front")
    if len(said.name) > 80:
        raise LineFault("the name of the site has more than 80 characters")
    return said


def _read_part(said: SiteLine, part: str) -> None:
    """Read one part of a line: networks with what they are called, an address or name outside, or a word about either."""
    matches = list(_BLOCK.finditer(part))
    rest = _BLOCK.sub(" ", part)
    for name in _DNS.findall(rest):
        if len(name) > _LONGEST_NAME:
            raise LineFault(f"a DNS name has {_LONGEST_NAME} characters at most")
        said.dns_name = name.lower()
        rest = rest.replace(name, " ")
    for pattern, outside in OUTSIDE:
        if found := pattern.search(rest):
            said.outside = outside
            rest = rest[: found.start()] + " " + rest[found.end() :]
            break
    if any(_JOINING.sub("", part[match.end() : following.start()]).strip() for match, following in pairwise(matches)):
        raise LineFault(f"what is which network called in '{part}'? Part them by commas")
    prefixes = [prefix for match in matches for prefix in _taken_in(said, match)]
    words = _plain(NOISE.sub(" ", rest)).strip(" :=()[]/-–\"'")
    if prefixes:
        said.networks += _named(prefixes, words)
    elif words:
        _read_words(said, words)


def _taken_in(said: SiteLine, match: re.Match[str]) -> Iterator[Prefix]:
    """Yield the network that a match is; keep an address as the one outside."""
    mask = match["mask"] if match["mask"] and is_mask(match["mask"]) else None
    text = match["block"] if mask is None else f"{match['block']}/{mask}"
    try:
        block = read_block(text)
    except AddressError as error:
        raise LineFault(error.reason) from None
    if isinstance(block, Prefix) and "/" in text:
        yield block
    elif isinstance(block, Interface):
        raise LineFault(f"host bits are set in {text}; did you mean {block.prefix}?")
    elif isinstance(block, Address) and any(inside.holds(block) for inside in _INSIDE):
        said.left_out.append(str(block))
    elif isinstance(block, Address):
        said.address = block


def _named(prefixes: Sequence[Prefix], words: str) -> Iterator[SaidNetwork]:
    role = next((role for pattern, role in ROLES if pattern.search(words)), NetworkRole.USER)
    for number, prefix in enumerate(prefixes, 1):
        yield SaidNetwork(prefix, f"{words} {number}" if words and len(prefixes) > 1 else words, role)


def _read_words(said: SiteLine, words: str) -> None:
    kind = next((kind for pattern, kind in SITE_KINDS if pattern.fullmatch(words)), None)
    if kind:
        said.kind = kind
    else:
        said.left_out.append(words)


def family_of(prefix: Prefix) -> str:
    """Return what a network without a name of its own is called by its family."""
    return "LAN" if prefix.family is Family.V4 else "LAN IPv6"
