"""Tables: lines of cells parted by commas, semicolons or tabs, with headings or without."""

from __future__ import annotations

import csv
from collections.abc import Iterable, Mapping
from typing import Final

from pontifex.core.addressing import AddressError
from pontifex.core.importing.free_text import record_of
from pontifex.core.importing.masks import Block, is_mask, read_block
from pontifex.core.importing.record import HostRecord, NetworkRecord, RangeRecord, Read, Record, SourceLine, Unread, shortened

# What a heading may say, and the field it means
HEADINGS: Final[Mapping[str, str]] = {
    **dict.fromkeys(("site", "location", "office", "branch"), "site"),
    **dict.fromkeys(("name", "network", "network name", "description", "label", "host", "hostname", "comment"), "name"),
    **dict.fromkeys(
        ("prefix", "subnet", "cidr", "range", "address", "ip", "ip address", "network address", "block", "addresses"), "block"
    ),
    **dict.fromkeys(("mask", "netmask", "subnet mask", "wildcard", "wildcard mask", "length"), "mask"),
    **dict.fromkeys(("start", "first", "from", "start address", "first address"), "start"),
    **dict.fromkeys(("end", "last", "to", "end address", "last address"), "end"),
    **dict.fromkeys(("gateway", "gateway address", "router", "default router"), "gateway_address"),
    **dict.fromkeys(("vlan", "vlan id"), "vlan"),
    **dict.fromkeys(("role", "type", "purpose"), "role"),
    **dict.fromkeys(("zone", "isolated zone", "vrf"), "zone"),
    **dict.fromkeys(("mac", "hardware address", "mac address"), "hardware_address"),
    **dict.fromkeys(("dns", "dns name", "fqdn"), "dns_name"),
}
_OF_NETWORK: Final = ("gateway_address", "vlan", "role", "zone")
_OF_HOST: Final = ("hardware_address", "dns_name")
_SEPARATORS: Final = "\t;,"
_LOOKED_AT: Final = 50  # lines


def looks_like_table(text: str) -> bool:
    """Whether a text is a table: its first line names columns, or most lines hold one address in a cell of its own."""
    lines = [line for line in text.splitlines() if line.strip() and not line.lstrip().startswith("#")][:_LOOKED_AT]
    separator = separator_of(lines[0]) if lines else ""
    if not separator:
        return False
    rows = list(csv.reader(lines, delimiter=separator))
    return bool(_fields(rows[0])) or sum(map(_is_row, rows)) * 2 > len(rows)


def _is_row(cells: list[str]) -> bool:
    """Whether cells are a row of a table: one address, perhaps a mask beside it, and words."""
    filled = [cell.strip() for cell in cells if cell.strip()]
    blocks = [cell for cell in filled if _is_block(cell) and not is_mask(cell)]
    return len(blocks) == 1 and len(filled) > 1


def separator_of(line: str) -> str:
    """Return what parts the cells of a line; empty when nothing does."""
    return next((separator for separator in _SEPARATORS if separator in line), "")


def read_table(text: str) -> Read:
    """Read a table line by line."""
    lines = text.splitlines()
    first = next((line for line in lines if line.strip() and not line.lstrip().startswith("#")), "")
    reader = csv.reader(lines, delimiter=separator_of(first) or ",")
    found: Read = []
    headings: dict[int, str] = {}
    seen_first = False
    try:
        for cells in reader:
            if not any(cell.strip() for cell in cells) or cells[0].lstrip().startswith("#"):
                continue
            if not seen_first:
                seen_first = True
                headings = _fields(cells)
                if headings:
                    continue
            place = SourceLine(reader.line_num, shortened(" · ".join(cell for cell in cells if cell.strip())))
            found.append((place, _row({headings[k]: cell.strip() for k, cell in enumerate(cells) if k in headings}, cells)))
    except csv.Error as error:
        found.append((SourceLine(reader.line_num, ""), Unread(str(error))))
    return found


def read_rows(rows: Iterable[Mapping[str, object]]) -> Read:
    """Read objects whose keys are headings, as a JSON file holds them."""
    found: Read = []
    for number, row in enumerate(rows, 1):
        named = {HEADINGS[key.strip().lower()]: str(value).strip() for key, value in row.items() if _is_field(key, value)}
        text = " · ".join(f"{key} {value}" for key, value in row.items())
        found.append((SourceLine(number, shortened(text)), _row(named, list(named.values()))))
    return found


def _is_field(key: str, value: object) -> bool:
    return value not in (None, "") and key.strip().lower().replace("_", " ") in HEADINGS


def _fields(cells: list[str]) -> dict[int, str]:
    """Return the field of each column when the cells are headings: at least one of them says where addresses stand."""
    named = {k: HEADINGS[word] for k, cell in enumerate(cells) if (word := cell.strip().lower().replace("_", " ")) in HEADINGS}
    return named if {"block", "start"} & set(named.values()) or ("name" in named.values() and len(named) > 1) else {}


def _row(named: dict[str, str], cells: list[str]) -> Record:
    """Return what a row says, by its headings; without them, cells are told apart by what they look like."""
    values = {field: text for field, text in named.items() if text} or _guessed(cells)
    try:
        if "start" in values:
            end = values.get("end", values["start"])
            block = read_block(values["start"] if end == values["start"] else f"{values['start']}-{end}")
        elif "block" in values:
            mask = values.get("mask", "")
            text, mask = (f"{values['block']}/{mask.lstrip('/')}", "") if mask and "." not in mask else (values["block"], mask)
            block = read_block(text, mask)
        elif "name" in values:  # a column called "network" may hold names or prefixes
            block = read_block(values.pop("name"), values.get("mask", ""))
        else:
            return Unread("no address in it")
        return _with_fields(block, values)
    except AddressError as error:
        return Unread(error.reason)


def _with_fields(block: Block, values: dict[str, str]) -> Record:
    record = record_of(block, values.get("site"), values.get("name"))
    if isinstance(record, RangeRecord):
        return record
    wanted = _OF_HOST if isinstance(record, HostRecord) else _OF_NETWORK
    fields: dict[str, object] = {field: values[field] for field in wanted if field in values}
    if "role" in fields:
        fields["role"] = str(fields["role"]).lower()
    if isinstance(record, HostRecord):
        return HostRecord(record.address, record.site, record.name, fields)
    assert isinstance(record, NetworkRecord)
    return NetworkRecord(record.prefix, record.site, record.name, record.note, fields)


def _guessed(cells: list[str]) -> dict[str, str]:
    """Tell cells apart without headings: the address and its mask by their look; of the words, the site before the name."""
    found: dict[str, str] = {}
    words: list[str] = []
    for cell in (cell.strip() for cell in cells):
        if not cell:
            continue
        if "block" in found and "mask" not in found and is_mask(cell):
            found["mask"] = cell
        elif "block" not in found and _is_block(cell):
            found["block"] = cell
        else:
            words.append(cell)
    if len(words) >= 2:
        found["site"] = words[0]
    if words:
        found["name"] = words[1] if len(words) >= 2 else words[0]
    return found if "block" in found else found | {"block": next((cell for cell in cells if any(map(str.isdigit, cell))), "")}


def _is_block(text: str) -> bool:
    try:
        read_block(text)
    except AddressError:
        return False
    return True
