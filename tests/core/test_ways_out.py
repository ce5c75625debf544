"""The cheapest way out of collisions: against every subset, and applied."""

from __future__ import annotations

from itertools import chain, combinations

from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.addressing import Family, Prefix
from pontifex.core.catalogue import Code
from pontifex.core.kinds import Network, Site
from pontifex.core.model import DesignSettings, RenumberNetwork, apply_operations, put
from pontifex.core.space import meetings
from pontifex.core.space.meeting import all_meetings
from pontifex.core.space.ways_out import cheapest, grouped, ways_out
from pontifex.demo import demo_design
from tests.support.remedies import findings_with_remedies

NAMES = "abcdefgh"
EDGES = st.lists(
    st.tuples(st.sampled_from(NAMES), st.sampled_from(NAMES)).filter(lambda pair: pair[0] < pair[1]),
    min_size=1,
    max_size=14,
    unique=True,
)
WEIGHTS = st.fixed_dictionaries({name: st.integers(1, 30).map(float) for name in NAMES})


def _covers(edges):
    names = sorted(set(chain.from_iterable(edges)))
    for size in range(len(names) + 1):
        for chosen in combinations(names, size):
            if all(set(edge) & set(chosen) for edge in edges):
                yield frozenset(chosen)


@given(EDGES, WEIGHTS)
def test_the_cheapest_of_all_subsets_is_found(edges, weights):
    """The best set settles every collision, none of all subsets that do costs less, and the alternatives are the next best."""
    found = cheapest(edges, weights)
    covers = set(_covers(edges))
    minimal = sorted(sum(weights[name] for name in cover) for cover in covers if not any(other < cover for other in covers))
    assert found.exact
    assert frozenset(found.best.network_ids) in covers
    ranked = [found.best.total, *(way.total for way in found.alternatives)]
    assert ranked == minimal[: len(ranked)]
    assert len(ranked) == min(len(minimal), 5)


@given(EDGES)
def test_groups_share_no_network(edges):
    """Every collision is in exactly one group, and no network in two."""
    groups = grouped(edges)
    assert sorted(chain.from_iterable(groups)) == sorted(edges)
    names = [set(chain.from_iterable(group)) for group in groups]
    assert all(not one & other for one, other in combinations(names, 2))


def test_very_many_collisions_still_get_a_good_answer():
    """Where too many sets would have to be compared, the answer says that it is not proven, and what nothing can beat."""
    edges = [(f"n{k}", f"n{(k + step) % 80}") for k in range(80) for step in (1, 7)]
    found = cheapest(edges, {f"n{k}": 1.0 + k % 3 for k in range(80)})
    assert not found.exact
    assert all(set(edge) & set(found.best.network_ids) for edge in edges)
    assert found.bound <= found.best.total


def test_the_way_out_of_the_demo_leaves_no_collision():
    """All of it as one change: nothing collides any more, ours moves and not the partner's, and what it costs is itemised."""
    design = demo_design()
    found = ways_out(design)
    moved = {operation.id for operation in found.operations if isinstance(operation, RenumberNetwork)}
    assert "harbour-servers" in moved
    assert "tarn-berth-system" not in moved
    after = apply_operations(design, found.operations)
    assert not [meeting for meeting in meetings(after) if meeting.joined]
    assert found.total == sum(group.best.total for group in found.groups)
    partner = next(cost for cost in found.costs if cost.network_id == "tarn-berth-system")
    assert partner.total == sum(item.points for item in partner.items)
    assert any("not ours to move" in item.words for item in partner.items)


BLOCKS = st.builds(
    lambda length, at: Prefix(Family.V4, (10 << 24) + (at >> (32 - length) << (32 - length)), length),
    st.integers(26, 30),
    st.integers(0, 255),
)


@given(st.lists(st.tuples(st.sampled_from(["ostvik", "brenna", "corvina"]), BLOCKS), min_size=2, max_size=7))
def test_after_any_remedy_the_collision_is_gone_and_no_other_appears(blocks):
    """Whatever collides in 256 addresses: each remedy of each finding takes its collision away and makes none."""
    networks = [
        put(Network(id=f"n{k}", site_id=site_id, name=f"n{k}", prefix=block)) for k, (site_id, block) in enumerate(blocks)
    ]
    wide = put(DesignSettings(name="x", supernets=(Prefix(Family.V4, (10 << 24) + (64 << 16), 11),)))
    design = apply_operations(demo_design(), [wide, put(Site(id="new", name="New")), *networks])
    before = {(meeting.outer.id, meeting.inner.id) for meeting in all_meetings(design)}
    for finding, ways in findings_with_remedies(design):
        if finding.code != Code.ADDRESS_OVERLAP:
            continue
        pair = {place.id for place in finding.where}
        assert ways
        for remedy in ways:
            after = {
                (meeting.outer.id, meeting.inner.id) for meeting in all_meetings(apply_operations(design, remedy.operations))
            }
            assert after <= before
            assert not [candidate for candidate in after if set(candidate) == pair]
