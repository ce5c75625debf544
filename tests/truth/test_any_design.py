"""No design that the repository accepts makes any analysis raise."""

from __future__ import annotations

from random import Random

import pytest

from pontifex.demo import demo_design
from tests.support.designs import TODAY
from tests.truth.any_design import MODELS, ask_everything, draw_design

SEEDS = range(90)


@pytest.mark.parametrize("seed", SEEDS)
def test_every_analysis_answers(seed):
    """Whatever every field of every kind of object holds: findings, both ends, address space, paths and plans have an answer."""
    random = Random(seed)
    ask_everything(draw_design(random, demo_design()), TODAY, random)


def test_the_draw_reaches_every_field_of_every_kind():
    """Each field of each kind takes another value than its default in some of the designs that are drawn."""
    base = demo_design()
    changed = set()
    for seed in range(3 * len(SEEDS)):
        design = draw_design(Random(seed), base)
        for type_, model in MODELS.items():
            for id_, one in design.by_type[type_].items():
                if base.by_type[type_].get(id_) != one:
                    changed |= {(type_, name) for name in one.model_fields_set & model.model_fields.keys()}
    assert {(type_, name) for type_, model in MODELS.items() for name in model.model_fields} <= changed
