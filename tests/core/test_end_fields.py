"""Every field of an end that some technology compares can be asked for, edited, and is told in the match."""

from __future__ import annotations

import pytest

from pontifex.core.kinds import Side, Technology, TunnelEnd
from pontifex.core.kinds.column import unwrapped
from pontifex.core.matching import match
from pontifex.core.matching.end_fields import TEXTS, Editor, described_field
from pontifex.core.matching.rows import FIELDS, ROWS
from tests.support.designs import SOUND, TODAY, with_end

COMPARED = sorted({field for fields in FIELDS.values() for field in fields})
NEVER_UNKNOWN = {"enabled", "technology"}


@pytest.mark.parametrize("field", COMPARED)
def test_a_field_that_is_compared_is_asked_for_and_edited(field):
    """A question that ends as one, and an editor that fits the values: choices where it has them, a number for a number."""
    described = described_field(field)
    assert described.question.rstrip().endswith(("?", ".", ")"))
    inner, _, _ = unwrapped(TunnelEnd.model_fields[field])
    assert (described.editor in {Editor.CHOICE, Editor.SEVERAL}) == bool(described.choices)
    assert (described.editor is Editor.NUMBER) == (inner is int)
    assert (described.editor is Editor.YES_NO) == (inner is bool)
    assert described.needed == (field in NEVER_UNKNOWN)


def test_nothing_is_said_of_fields_that_are_not_compared():
    assert set(TEXTS) == set(COMPARED)


@pytest.mark.parametrize("technology", Technology)
def test_what_is_not_known_is_asked_for(technology):
    """An end of which nothing is known is asked for every field that its rows compare, as far as it may be unknown."""
    lists = {field for field in COMPARED if isinstance(TunnelEnd.model_fields[field].default, tuple)}
    unknown = {field: () if field in lists else None for field in COMPARED if field not in NEVER_UNKNOWN}
    design = with_end(Side.LEFT, technology=technology.value)
    design = with_end(Side.RIGHT, design, **{**unknown, "technology": technology.value})
    found = match(design, design.tunnel_by_id[SOUND], TODAY)
    compared = {row.right.field for row in found.rows} - NEVER_UNKNOWN
    assert {field for field, text in TEXTS.items() if text.question in found.questions.right} == compared


def test_keys_of_rows_are_unique_in_each_technology():
    for specs in ROWS.values():
        keys = [spec.key for spec in specs]
        assert len(set(keys)) == len(keys)
