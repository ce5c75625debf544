"""Rows that are pasted into a grid: each becomes a new object, a change of one, or says what is wrong with it."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.importing import LineOutcome, plan_rows
from pontifex.core.importing.grid_rows import MOST_ROWS
from pontifex.core.kinds import KINDS, Group, ObjectType
from pontifex.core.kinds.column import CellForm, columns_of
from pontifex.core.model import apply_operations
from pontifex.demo import demo_design

DEMO = demo_design()
NEW, CHANGES, SAME, UNREAD = LineOutcome.NEW, LineOutcome.CHANGES, LineOutcome.SAME, LineOutcome.UNREAD
GRIDS = [kind for kind in KINDS if kind.group is not Group.MATCH]


def _outcomes(type_, *lines):
    plan = plan_rows(DEMO, type_, "\n".join(lines))
    return plan, [line.outcome for line in plan.lines]


def test_each_row_says_what_it_becomes():
    """Under headings, in any letter case; a site that isn't there is made, and what stands there keeps its other fields."""
    plan, outcomes = _outcomes(
        ObjectType.NETWORK,
        "Site\tNetwork\tPrefix",
        "ostvik terminal\tkiosks\t10.65.8.0/24",
        "Ostvik Terminal\tcameras\t10.65.4.0/23",
        "Ostvik Terminal\tCameras\t10.65.6.0/23",
        "North Quay\tyard\t10.72.0.1/24",
        "North Quay\tyard\t10.72.0.0/24",
        "North Quay\toffice",
    )
    assert outcomes == [NEW, SAME, CHANGES, UNREAD, NEW, UNREAD]
    assert plan.lines[-1].detail == "still needs: Prefix"
    after = apply_operations(DEMO, plan.operations)
    before = DEMO.network_by_id["ostvik-cameras"]
    changed = after.network_by_id["ostvik-cameras"]
    assert (str(changed.prefix), changed.role, changed.vlan) == ("10.65.6.0/23", before.role, before.vlan)
    assert {site.name for site in after.sites} - {site.name for site in DEMO.sites} == {"North Quay"}


@pytest.mark.parametrize(
    ("type_", "row", "words"),
    [
        (ObjectType.NETWORK, "Ostvik Terminal, kiosks, 10.65.8.1/24", "Prefix: "),
        (ObjectType.NETWORK, "Ostvik Terminal, kiosks, 10.65.8.0/24, visitor", "Role: must be one of"),
        (ObjectType.NETWORK, ",".join("x" * 40), "has 40 cells"),
        (ObjectType.HOST, "no such network, printer, 10.65.0.9", "Network: there is no network"),
        (ObjectType.UPLINK, "ostvik-gateway, spare, carrier nat, , , perhaps", "UDP 500/4500 arrives: must be true or false"),
        (ObjectType.RULE, "basalt-gateway,quick,5,,,,,,,,,,brenna-basalt-cable (fast)", "Paths: 'fast' is no limit"),
    ],
)
def test_a_row_that_is_wrong_says_where(type_, row, words):
    """The column and the reason, or what the design as a whole has against it; nothing of such a row is dropped in silence."""
    plan, outcomes = _outcomes(type_, row)
    assert outcomes == [UNREAD]
    assert words in plan.lines[0].detail


def test_too_many_rows_are_refused_with_the_limit():
    plan, outcomes = _outcomes(ObjectType.NETWORK, *["a,b,c"] * (MOST_ROWS + 1))
    assert (outcomes, plan.operations) == ([UNREAD], ())
    assert f"{MOST_ROWS} at most" in plan.lines[0].detail


def _cell(column, value):
    """Write a value as somebody would type it."""
    if isinstance(value, list):
        return "; ".join(_cell(column, item) for item in value)
    if isinstance(value, bool):
        return "yes" if value else "no"
    if column.form is CellForm.STRUCTURE:
        return f"{value['suffix']} by {value['resolver']}"
    if isinstance(value, dict):
        limits = {"most_delay_ms": "delay", "most_jitter_ms": "jitter", "most_loss_percent": "loss"}
        said = [f"{word} {value[field]}" for field, word in limits.items() if value.get(field) is not None]
        return value["id"] + (f" ({', '.join(said)})" if said else "")
    return "" if value is None else str(value)


@given(st.sampled_from([(kind, item) for kind in GRIDS for item in getattr(DEMO, kind.members)]))
def test_whatever_stands_in_a_grid_is_read_again(drawn):
    """Every object of the demo, written cell by cell and pasted, is the very object."""
    kind, item = drawn
    fields = item.model_dump(mode="json")
    row = "\t".join(_cell(column, fields[column.field]) for column in columns_of(kind))
    plan, outcomes = _outcomes(kind.name, row)
    assert outcomes == [SAME], plan.lines
