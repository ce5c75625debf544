"""Free text: lines with addresses in any of the usual forms; the words beside them are the name.

A line without addresses that ends with a colon names the site of the lines after it.
"""

from __future__ import annotations

import re
from typing import Final

from pontifex.core.addressing import Address, AddressError, AddressRange, Prefix
from pontifex.core.importing.masks import Block, is_mask, read_block
from pontifex.core.importing.record import (
    HostRecord,
    NetworkRecord,
    Passed,
    RangeRecord,
    Read,
    Record,
    SourceLine,
    Unread,
    shortened,
)

_V4: Final = r"\d{1,3}(?:\.\d{1,3}){3}"
_V6: Final = r"(?:[0-9A-Fa-f]{0,4}:){2,7}[0-9A-Fa-f.]{0,15}"
_ADDRESS: Final = rf"(?:{_V4}|{_V6})"
# an address; then a range's end, a length or a mask after a slash, or a mask after a blank
_BLOCK: Final = re.compile(
    rf"(?<![\w.:/-])(?P<address>{_ADDRESS})"
    rf"(?:\s*(?:-|–|to)\s*(?P<end>{_ADDRESS}|\d{{1,3}}(?![\d.]))|/(?P<length>{_V4}|\d{{1,3}}))?"
    rf"(?:\s+(?:(?:(?:net)?mask|wildcard)\s*)?(?P<mask>{_V4})(?![\d./]))?(?![\w/])",
    re.IGNORECASE,
)
_NOISE: Final = re.compile(
    r"^(?:network|networks|subnet|subnets|range|pool|host|net|is|uses?|we|and|the|with|for|at|in)$", re.IGNORECASE
)
_MOST_OF_A_LINE: Final = 2000
_LOOKS_LIKE: Final = re.compile(r"\d{1,3}\.\d{1,3}\.|[0-9a-f]{1,4}::?[0-9a-f]", re.IGNORECASE)


def read_free_text(text: str) -> Read:
    """Read every line: what is an address becomes a record, what only looks like one is told."""
    found: Read = []
    site: str | None = None
    for number, written in enumerate(text.splitlines(), 1):
        line = " ".join(written.split())  # so that no pattern meets a run of blanks
        if not line or line.startswith("#"):
            continue
        place = SourceLine(number, shortened(written))
        if len(line) > _MOST_OF_A_LINE:
            found.append((place, Unread(f"the line has {len(line)} characters; {_MOST_OF_A_LINE} at most")))
            continue
        matches = list(_BLOCK.finditer(line))
        if matches:
            found += [(place, record) for record in _records(line, matches, site)]
        elif _LOOKS_LIKE.search(line):
            found.append((place, Unread("this looks like an address and is none")))
        elif line.rstrip().endswith(":"):
            site = line.strip().rstrip(":").strip() or None
            found.append((place, Passed("names the site of the lines below")))
        else:
            found.append((place, Passed("no address in it")))
    return found


def _records(line: str, matches: list[re.Match[str]], site: str | None) -> list[Record]:
    name = _name(_BLOCK.sub(" ", line))
    found: list[Record] = []
    for at, match in enumerate(matches):
        label = name if name is None or len(matches) == 1 else f"{name} {at + 1}"
        mask = match["mask"] or ""
        after: list[Record] = []
        if mask and not is_mask(mask):  # another address, not a mask
            mask, after = "", [_record(match["mask"], "", site, label)]
        text = match["address"]
        if match["end"]:
            text = f"{text}-{match['end']}"
        elif match["length"]:
            text = f"{text}/{match['length']}"
        found += [_record(text, mask, site, label), *after]
    return found


def _record(text: str, mask: str, site: str | None, name: str | None) -> Record:
    try:
        return record_of(read_block(text, mask), site, name)
    except AddressError as error:
        return Unread(error.reason)


def record_of(block: Block, site: str | None, name: str | None) -> NetworkRecord | RangeRecord | HostRecord:
    """Return the record that a block stands for."""
    if isinstance(block, Prefix):
        return NetworkRecord(block, site, name)
    if isinstance(block, AddressRange):
        return RangeRecord(block, site, name)
    if isinstance(block, Address):
        return HostRecord(block, site, name)
    return NetworkRecord(block.prefix, site, name, note=f"the network that {block} stands in")


def _name(rest: str) -> str | None:
    """Return the words of a line beside its addresses, without those that only join them."""
    words = [word.strip(",;:()[]=|\"'") for word in rest.split()]
    kept = [word for word in words if word and not _NOISE.match(word) and re.search(r"\w", word)]
    return " ".join(kept)[:80] or None
