"""Commands about addresses: overlaps of a long list, free room, and the fewest prefixes that cover a set.

What needs NumPy is loaded where it is used.
"""

from __future__ import annotations

import json
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from itertools import islice
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, NoReturn

import typer

from pontifex.core.addressing import AddressError, Family, Prefix, minimal_cover, parse_prefix

if TYPE_CHECKING:
    from pontifex.core.addressing.table import PrefixTable

CLEAN, FOUND, BAD_INPUT = 0, 1, 2
_AT_ONCE = 10_000  # pairs that are written in one piece

_Json = Annotated[bool, typer.Option("--json", help="Print JSON.")]


def overlaps_command(
    file: Annotated[Path, typer.Argument(help="Lines of name,prefix[,zone]; - reads standard input.")],
    as_json: _Json = False,
) -> None:
    """Print every pair of prefixes that overlap within a zone. Exit with 0, 1 (there are pairs) or 2 (unreadable)."""
    table = _table(file)
    pairs = (
        {"a": outer, "b": inner, "class": "identical" if identical else "contains"}
        for outer, inner, identical in table.overlaps()
    )
    count = 0
    sys.stdout.write('{"pairs": [' if as_json else "")
    while some := list(islice(pairs, _AT_ONCE)):
        if as_json:
            text = ", ".join(map(json.dumps, some))
            sys.stdout.write(f", {text}" if count else text)
        else:
            sys.stdout.writelines(f"{met['a']} {_VERBS[met['class']]} {met['b']}\n" for met in some)
        count += len(some)
    sys.stdout.write("]}\n" if as_json else "")
    raise typer.Exit(FOUND if count else CLEAN)


_VERBS = {"identical": "is identical to", "contains": "contains"}


def free_command(
    within: Annotated[list[str], typer.Option("--in", help="Where to look: a prefix; may be given several times.")],
    size: Annotated[int, typer.Option(help="Length of the wanted prefixes, in bits.", min=0, max=128)],
    used: Annotated[Path | None, typer.Option(help="What is taken: lines of name,prefix; - reads standard input.")] = None,
    count: Annotated[int, typer.Option(help="How many are wanted.", min=1, max=1_000_000)] = 1,
    as_json: _Json = False,
) -> None:
    """Print free prefixes, taken where the least large block is cut up. Exit with 0, 1 (not enough room) or 2 (unreadable)."""
    rooms = [_prefix(text, "--in") for text in within]
    family = rooms[0].family
    if any(room.family is not family for room in rooms):
        refuse("--in: prefixes of one address family are wanted")
    if size > family.bits:
        refuse(f"--size: {family.bits} is the most here")
    from pontifex.core.addressing import AddressSet, free_blocks

    taken = AddressSet.of(_table(used).prefixes() if used else (), family)
    found = free_blocks(AddressSet.of(rooms, family) - taken, size, count)
    _print(found, "free", as_json)
    raise typer.Exit(CLEAN if len(found) == count else FOUND)


def cover_command(
    only: Annotated[str, typer.Option(help="These prefixes, parted by commas.")] = "",
    all_but: Annotated[str, typer.Option(help="All but these prefixes, parted by commas.")] = "",
    as_json: _Json = False,
) -> None:
    """Print the fewest prefixes for a set: these, all but those, or these without those. Exit with 0, or 2 (unreadable)."""
    wanted, unwanted = prefixes_of(only, "--only"), prefixes_of(all_but, "--all-but")
    if not wanted and not unwanted:
        refuse("one of --only and --all-but is wanted")
    _print(_without(wanted, unwanted) if unwanted else minimal_cover(wanted), "prefixes", as_json)


def _without(wanted: list[Prefix], unwanted: list[Prefix]) -> list[Prefix]:
    """Return the fewest prefixes for what is wanted, or everything where nothing is, less what is unwanted."""
    from pontifex.core.addressing import AddressSet

    found: list[Prefix] = []
    for family in Family:
        if any(prefix.family is family for prefix in wanted or unwanted):
            whole = AddressSet.of(wanted, family) if wanted else AddressSet.everything(family)
            found += (whole - AddressSet.of(unwanted, family)).prefixes()
    return found


def _print(prefixes: list[Prefix] | tuple[Prefix, ...], key: str, as_json: bool) -> None:
    texts = [str(prefix) for prefix in prefixes]
    typer.echo(json.dumps({key: texts}) if as_json else "\n".join(texts))


def prefixes_of(text: str, option: str) -> list[Prefix]:
    """Read prefixes parted by commas or blanks; exit with 2 at the first that is none."""
    return [_prefix(part, option) for part in text.replace(",", " ").split()]


def _prefix(text: str, option: str) -> Prefix:
    try:
        return parse_prefix(text)
    except AddressError as error:
        refuse(f"{option}: {error.reason}")


def _table(file: Path) -> PrefixTable:
    from pontifex.core.addressing.table import TableError, read_prefix_table

    try:
        with _opened(file) as lines:
            return read_prefix_table(lines)
    except TableError as error:
        refuse(f"{file}: {error}")
    except OSError as error:
        refuse(f"{file}: {error.strerror or 'can not be read'}")
    except UnicodeDecodeError as error:
        refuse(f"{file}: octet {error.start}: not UTF-8")


@contextmanager
def _opened(file: Path) -> Iterator[Iterator[str]]:
    if str(file) == "-":
        yield sys.stdin
        return
    with file.open(encoding="utf-8-sig", newline="") as stream:
        yield stream


def refuse(reason: str) -> NoReturn:
    """Say why an input can't be taken, and exit with 2."""
    typer.echo(reason, err=True)
    raise typer.Exit(BAD_INPUT)
