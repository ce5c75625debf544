"""All that reasons and findings are worded as, in one file: `python -m tests.core.test_wording` writes it anew."""

from __future__ import annotations

import inspect
import sys
from enum import Enum
from pathlib import Path

import pytest

from pontifex.core.catalogue import CATALOGUE
from pontifex.core.kinds import Side
from pontifex.core.reasons import (
    Names,
    Reason,
    addresses,
    auth,
    child,
    clouds,
    init,
    named,
    outcome,
    paths,
    people,
    reach,
    rekey,
    sentence,
    tunnels,
    unknown,
)
from pontifex.demo import demo_design

WORDING = Path(__file__).parent.parent / "data" / "wording.txt"
AREAS = (reach, init, auth, child, rekey, outcome, unknown, tunnels, addresses, people, paths, clouds)
NAMES = Names("Harbour", "Ostvik")


def wording() -> str:
    """Return each reason with its text, each choice that reasons name, and each entry of the catalogue."""
    lines = []
    for area in AREAS:
        lines.append(f"[{area.__name__.rpartition('.')[2]}]")
        for name, kind in vars(area).items():
            if not inspect.isclass(kind) or kind.__module__ != area.__name__:
                continue
            if issubclass(kind, Reason):
                lines.append(f"{name}: {kind.text}")
            elif issubclass(kind, Enum):
                lines += [f"{name}.{member.name}: {member.value}" for member in kind]
        lines.append("")
    lines.append("[catalogue]")
    for entry in CATALOGUE.values():
        lines.append(f"{entry.code.value}: {entry.title} | {entry.consequence} | {entry.reference}")
    return "\n".join([*lines, ""])


def test_the_wording_is_the_one_that_was_looked_at():
    """A changed word shows in one place, where it is read before it is taken."""
    assert wording() == WORDING.read_text(), "write it anew, and read what has changed"


def test_parameters_are_written_by_their_type():
    """Ends by their names, several by one rule, numbers with their noun, times in minutes, what isn't there not at all."""
    design = demo_design()
    said = {
        reach.RestartNotNoticed(Side.RIGHT).clause(NAMES): (
            "Ostvik doesn't notice when Harbour restarts, and sends into a dead tunnel"
        ),
        unknown.KeyNotKnown((Side.LEFT, Side.RIGHT)).clause(NAMES): "the key of Harbour and Ostvik is not known yet",
        tunnels.RowsNotComparable(4, ("a", "b", "c", "d")).clause(): "4 rows can't be compared (a, b, c and 1 more)",
        tunnels.RowsNotComparable(1, ("a",)).clause(): "1 row can't be compared (a)",
        rekey.FirstRekeyOf(Side.LEFT, 59).clause(NAMES): "each end keeps its own; Harbour rekeys first, after 59 s",
        sentence(outcome.ComesUp(reach.BothWait(), None)): "Comes up. Both ends wait, so nobody calls.",
        paths.NothingLeadsInto(named(design.gateways[0]), named(design.tunnels[0])).clause(): (
            f"neither a route nor a rule of {design.gateways[0].name} leads into {design.tunnels[0].name}"
        ),
    }
    assert list(said) == list(said.values())


def test_a_reason_says_what_it_knows():
    """A text that names another parameter than the reason has is refused where it is written, not where it is read."""
    with pytest.raises(TypeError, match="Wrong"):
        type("Wrong", (Reason,), {"__annotations__": {"side": Side}}, text="{other} calls")


if __name__ == "__main__":
    sys.stdout.write(f"{WORDING.write_text(wording())} characters\n")
