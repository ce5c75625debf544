"""Rules as sets of traffic: the algebra against brute force, what takes what, what a move changes, and what leaks."""

from __future__ import annotations

from itertools import product
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.addressing import Address, Family, Service
from pontifex.core.catalogue import Code
from pontifex.core.findings import analyse
from pontifex.core.findings.rules import rule_findings
from pontifex.core.kinds import Rule
from pontifex.core.model import apply_operations, put
from pontifex.core.reasons import paths
from pontifex.core.routing import Flow, Tables
from pontifex.core.routing.rules.algebra import Box, common, holds, without
from pontifex.core.routing.rules.rules import RuleList, acts_alike, decides, passes_on
from pontifex.core.routing.tables.tables import clause_of
from pontifex.core.routing.trace.decide import matches
from tests.support.designs import TODAY, bare_demo
from tests.support.reasons import is_said, like

DESIGN = bare_demo()
SIZE = 4  # of each measure of the small universe
POINTS = list(product(range(SIZE), repeat=5))
RANGES = st.tuples(st.integers(0, SIZE - 1), st.integers(0, SIZE - 1)).map(lambda pair: (min(pair), max(pair)))
BOXES = st.tuples(RANGES, RANGES, RANGES, RANGES, RANGES).map(lambda bounds: Box(Family.V4, bounds))


def _points(boxes):
    return {
        point
        for point in POINTS
        if any(all(low <= value <= high for value, (low, high) in zip(point, box.bounds, strict=True)) for box in boxes)
    }


@given(st.lists(BOXES, max_size=3), st.lists(BOXES, max_size=3))
def test_the_algebra_is_that_of_sets(some, others):
    """What two sets share, what is left of one, and whether one holds the other, point by point."""
    first, second = _points(some), _points(others)
    assert _points(common(some, others)) == first & second
    assert _points(without(some, others)) == first - second
    assert holds(some, others) == (second <= first)


BLOCKS = st.sampled_from(["10.66.0.0/30", "10.66.0.0/31", "10.66.0.2/31", "10.66.0.1/32", "10.66.0.0/29"])
PATHS = [[{"type": "tunnel", "id": id_}] for id_ in ("harbour-brenna", "harbour-ostvik", "harbour-basalt")]
RULES = st.lists(
    st.fixed_dictionaries(
        {
            "sources": st.lists(BLOCKS, max_size=1),
            "destinations": st.lists(st.builds("{} tcp {}".format, BLOCKS, st.sampled_from(["1-2", "2", "1-3"])), max_size=2),
            "dscp": st.sampled_from([[], ["CS1"], ["DF", "CS1"]]),
            "paths": st.sampled_from([*PATHS, []]),
            "on_failure": st.sampled_from(["hold", "hold", "fall-through"]),
        }
    ),
    min_size=1,
    max_size=6,
)
FLOWS = [
    Flow(Address(Family.V4, source), Address(Family.V4, target), Service((6, 6), (port, port)), dscp)
    for source in range((10 << 24) + (66 << 16), (10 << 24) + (66 << 16) + 6, 2)
    for target in range((10 << 24) + (66 << 16), (10 << 24) + (66 << 16) + 5)
    for port in (1, 2, 3)
    for dscp in (0, 8)
]


def _listed(fields: list[dict[str, Any]]) -> RuleList:
    rules = [
        Rule.model_validate({"id": f"r{k}", "name": f"r{k}", "gateway_id": "harbour-gateway", "position": k + 1, **field})
        for k, field in enumerate(fields)
    ]
    return RuleList([clause_of(DESIGN, rule) for rule in rules])


def _asked(listed: RuleList, flow: Flow) -> list[Rule]:
    """Return the rules that a flow is asked by, the first that settles it last; what only marks aside."""
    found = []
    for clause in listed.clauses:
        if matches(clause, flow) and not passes_on(clause.rule):
            found.append(clause.rule)
            if decides(clause.rule):
                break
    return found


@given(RULES)
def test_what_takes_a_rules_traffic(fields):
    """A rule that nothing is left for is never asked; one that is left whole is asked for all of its traffic."""
    listed = _listed(fields)
    shadows = {shadow.rule.id: shadow for shadow in listed.shadows()}
    for place, clause in enumerate(listed.clauses):
        mine = [flow for flow in FLOWS if matches(clause, flow)]
        taken = [flow for flow in mine if any(matches(above, flow) and decides(above.rule) for above in listed.clauses[:place])]
        shadow = shadows.get(clause.rule.id)
        if shadow and shadow.whole:
            assert len(taken) == len(mine)
        elif not shadow:
            wider = [above for above in listed.clauses[:place] if decides(above.rule)]
            inside = [above for above in wider if all(matches(clause, flow) for flow in FLOWS if matches(above, flow))]
            assert not taken or all(any(matches(above, flow) for above in inside) for flow in taken)


@given(RULES, st.data())
def test_a_move_changes_what_it_says(fields, data):
    """The preview names each pair of rules of which the other is asked first, and no flow outside of it is asked otherwise."""
    listed = _listed(fields)
    at, to = (data.draw(st.integers(0, len(fields) - 1)) for _ in range(2))
    moved, changes = listed.moved(f"r{at}", to)
    assert [rule.id for rule in moved.rules] == _inserted([rule.id for rule in listed.rules], at, to)
    told = {(change.before, change.after) for change in changes}
    for flow in FLOWS:
        before, after = _asked(listed, flow), _asked(moved, flow)
        for was, is_ in zip(before, after, strict=False):
            if was != is_:
                assert acts_alike(was, is_) or (was.name, is_.name) in told
                break


def _inserted(ids: list[str], at: int, to: int) -> list[str]:
    ids.insert(to, ids.pop(at))
    return ids


def _rule(id_, position, **fields):
    return Rule.model_validate({"id": id_, "gateway_id": "harbour-gateway", "name": id_, "position": position, **fields})


OSTVIK = [{"type": "tunnel", "id": "harbour-ostvik"}]
BRENNA = [{"type": "tunnel", "id": "harbour-brenna"}]
FIBRE = [{"type": "uplink", "id": "harbour-fibre"}]
HOLD = {"on_failure": "hold"}
STAFF: dict[str, Any] = {"sources": ["10.64.0.0/22"]}
PLANTED = [
    (
        [_rule("wide", 1, **STAFF, paths=OSTVIK, **HOLD), _rule("in", 2, sources=["10.64.1.0/24"], paths=BRENNA, **HOLD)],
        Code.POLICY_NEVER_MATCHES,
        "in",
        paths.TakesAll,
    ),
    (
        [
            _rule("a", 1, sources=["10.64.0.0/23"], paths=OSTVIK, **HOLD),
            _rule("b", 2, sources=["10.64.1.0/24", "10.64.2.0/24"], paths=BRENNA, **HOLD),
        ],
        Code.POLICY_SHADOWED,
        "b",
        paths.TakesPart,
    ),
    (
        [_rule("a", 1, sources=["10.64.1.0/24"], paths=OSTVIK, **HOLD), _rule("b", 2, **STAFF, paths=OSTVIK, **HOLD)],
        Code.POLICY_REDUNDANT,
        "a",
        like(paths.DoesTheSame, rule="b"),
    ),
    (
        [_rule("a", 5, **STAFF, paths=OSTVIK, **HOLD), _rule("b", 5, **STAFF, paths=BRENNA, **HOLD)],
        Code.POLICY_CONFLICTING,
        "a",
        like(paths.SameOrder, position="5"),
    ),
    ([_rule("a", 1, **STAFF, destinations=["10.65.0.0/24"], paths=OSTVIK)], "", "", ""),  # the tunnel's own policy holds it
    (
        [_rule("a", 1, **STAFF, destinations=["198.51.100.200/32"], paths=OSTVIK)],
        Code.POLICY_LEAK_ON_FAILURE,
        "a",
        like(paths.LeaksOnFailure, uplink="fibre"),
    ),
    ([_rule("a", 1, **STAFF, paths=OSTVIK + FIBRE, **HOLD)], Code.POLICY_NEVER_HOLDS, "a", like(paths.NeverHolds, rule="a")),
    (
        [_rule("a", 1, **STAFF, dscp=["EF"], paths=OSTVIK, **HOLD)],
        Code.POLICY_CLASS_UNMARKED,
        "a",
        like(paths.ClassUnmarked, rule="a"),
    ),
    (
        [_rule("a", 1, **STAFF, paths=[{"type": "tunnel", "id": "aurelia-corvina"}], **HOLD)],
        Code.POLICY_PATH_ELSEWHERE,
        "a",
        like(paths.PathElsewhere, rule="a"),
    ),
    (
        [_rule("a", 1, **STAFF, region="south", paths=OSTVIK, **HOLD)],
        Code.POLICY_REGION_UNKNOWN,
        "a",
        like(paths.RegionUnknown, rule="a", region="south"),
    ),
    (
        [_rule("a", 1, **STAFF, destination_names=["rota.skerry.example"], paths=OSTVIK, **HOLD)],
        Code.POLICY_NAME,
        "a",
        like(paths.RuleNames, rule="a", resolved="once, when the rule is loaded: an address that changes later is passed by"),
    ),
]


@pytest.mark.parametrize(("rules", "code", "id_", "said"), PLANTED, ids=[code or "sound" for _, code, _, _ in PLANTED])
def test_planted_faults_of_rules(rules, code, id_, said):
    """Each planted fault is told with its place and cause; its remedies are taken by the repository and mend it."""
    design = apply_operations(DESIGN, [put(rule) for rule in rules])
    found = {(told.finding.code, told.finding.where[0].id): told for told in rule_findings(Tables(design))}
    if not code:
        assert not found
        return
    finding, ways = found[code, id_]
    assert is_said(said, finding.why.reason)
    for remedy in ways() if ways else ():
        after = analyse(apply_operations(design, remedy.operations), TODAY).findings
        assert (code, id_) not in {(finding.code, finding.where[0].id) for finding in after}


def test_five_hundred_rules_answer_a_move():
    """A long list is compared within reason: only rules that share traffic with the moved one are looked at."""
    rules = [
        _rule(f"r{k}", k + 1, sources=[f"10.64.{k % 4}.0/24"], destinations=[f"10.{k % 250}.0.0/16"], paths=OSTVIK)
        for k in range(499)
    ]
    every = _rule("all", 500, paths=BRENNA, **HOLD)
    design = apply_operations(DESIGN, [put(rule) for rule in (*rules, every)])
    listed = RuleList.of(Tables(design), design.gateway_by_id["harbour-gateway"])
    moved, changes = listed.moved("all", 0)
    assert moved.rules[0].id == "all"
    assert changes[0].after == "all"
