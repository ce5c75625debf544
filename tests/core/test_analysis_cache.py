"""What is taken over from an earlier analysis, and what isn't: a check depends on all that it reads, and on no list by hand."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import pytest

from pontifex.core.catalogue import Code
from pontifex.core.findings import Analysis, AnalysisCache, Finding, analyse, check
from pontifex.core.findings.algorithms import end_place, in_tunnel
from pontifex.core.findings.finding import Place, Remark, remark
from pontifex.core.findings.recorded import Recorder, changed_places
from pontifex.core.findings.tunnels import TUNNEL_CHECKS
from pontifex.core.kinds import Gateway, Network, ObjectType, Side
from pontifex.core.matching import TunnelEnds
from pontifex.core.model import Design, apply_operations, put
from pontifex.core.reasons.tunnels import CheckFailed
from pontifex.demo import demo_design
from tests.support.designs import SOUND, TODAY, with_end
from tests.support.remedies import remedies

DESIGN = demo_design()


def _gateway(design: Design, **fields: Any) -> Design:
    changed = Gateway.model_validate({**design.gateway_by_id["brenna-gateway"].model_dump(), **fields})
    return apply_operations(design, [put(changed)])


EDITS: dict[str, Callable[[Design], Design]] = {
    "an intent": lambda design: apply_operations(design, [put(design.intents[0].changed(name="another"))]),
    "a gateway elsewhere": lambda design: _gateway(design, name="another"),
    "a lifetime": lambda design: with_end(Side.LEFT, design, "harbour-brenna", child_lifetime_s=1234),
    "a network": lambda design: apply_operations(design, [put(design.networks[-1].changed(name="another"))]),
    "the horizon": lambda design: apply_operations(design, [put(design.settings.changed(planning_horizon_days=7))]),
}


def _said_of_tunnel(ends: TunnelEnds) -> Iterator[Remark]:
    """A check that reads what no other check of a tunnel reads: an intent, a foreign gateway, a lifetime of another tunnel."""
    design = ends.design
    other = design.tunnel_by_id["harbour-brenna"].left.child_lifetime_s
    words = (design.intents[0].name, design.gateway_by_id["brenna-gateway"].name, other, design.networks[-1].name)
    reason = CheckFailed(" ".join(map(str, words)), "", str(design.planning_horizon_days))
    yield in_tunnel(ends, Code.ANALYSIS_CHECK_FAILED, (end_place(ends, Side.LEFT, "name"),), reason)


def _said_of_network(design: Design, network: Network) -> Iterator[Remark]:
    """The same of a network, whose checks see the outlines of tunnels."""
    other = design.tunnel_by_id["harbour-brenna"].left.child_lifetime_s
    words = (design.intents[0].name, design.gateway_by_id["brenna-gateway"].name, other, design.networks[-1].name)
    place = Place(type=ObjectType.NETWORK, id=network.id, name=network.name, field="name")
    reason = CheckFailed(" ".join(map(str, words)), "", str(design.planning_horizon_days))
    yield remark(Code.ANALYSIS_CHECK_FAILED, (place,), reason)


@pytest.mark.parametrize("edit", EDITS)
@pytest.mark.parametrize("planted", [_said_of_tunnel, _said_of_network])
def test_a_check_that_reads_one_field_more_is_never_stale(monkeypatch, planted, edit):
    """Whatever a check begins to read, an analysis from memory is the one from scratch."""
    if planted is _said_of_network:
        monkeypatch.setattr(check, "network_findings", planted)
    else:
        monkeypatch.setitem(TUNNEL_CHECKS, "keys", planted)
    memory = AnalysisCache()
    analyse(DESIGN, TODAY, memory)
    changed = EDITS[edit](DESIGN)
    assert analyse(changed, TODAY, memory).findings == analyse(changed, TODAY).findings


def test_what_is_not_read_is_taken_over():
    """A changed lifetime costs its own tunnel: all other forecasts and findings are the very same objects."""
    memory = AnalysisCache()
    before = analyse(DESIGN, TODAY, memory)
    after = analyse(EDITS["a lifetime"](DESIGN), TODAY, memory)
    anew = {forecast.tunnel_id for forecast in after.forecasts} - {
        forecast.tunnel_id for forecast in after.forecasts if any(forecast is other for other in before.forecasts)
    }
    assert anew == {"harbour-brenna"}
    stood = {id(told) for told in before.findings}
    assert {told.where[0].id for told in after.findings if id(told) not in stood} <= {"harbour-brenna"}


def test_remedies_of_outlines_leave_the_rest_of_a_tunnel():
    """Checks of networks see outlines of tunnels; what they change is changed in the tunnel as it is, keys and all."""
    network = DESIGN.network_by_id["ostvik-ticketing"]
    design = apply_operations(DESIGN, [put(network.changed(hosts_expected=400))])
    told = _too_small(analyse(design, TODAY))
    before, after = (
        state.tunnel_by_id[SOUND] for state in (design, apply_operations(design, remedies(design, told)[0].operations))
    )
    assert before.left.key
    assert before.left.remote_networks != after.left.remote_networks
    wide = after.left.remote_networks
    assert after == before.with_end(Side.LEFT, remote_networks=wide).with_end(Side.RIGHT, local_networks=wide)


def test_remedies_are_of_the_design_as_it_stands():
    """A finding may be taken over from an earlier state; what mends it keeps what was changed since then."""
    network = DESIGN.network_by_id["ostvik-ticketing"]
    design, memory = apply_operations(DESIGN, [put(network.changed(hosts_expected=400))]), AnalysisCache()
    before = _too_small(analyse(design, TODAY, memory))
    edited = with_end(Side.LEFT, design, SOUND, child_lifetime_s=1234)
    told = _too_small(analyse(edited, TODAY, memory))
    assert told is before
    ((remedy,),) = memory.remedies([told])
    after = apply_operations(edited, remedy.operations).tunnel_by_id[SOUND]
    assert after.left.child_lifetime_s == 1234
    assert after.left.remote_networks != edited.tunnel_by_id[SOUND].left.remote_networks


def _too_small(analysis: Analysis) -> Finding:
    return next(candidate for candidate in analysis.findings if candidate.code is Code.ADDRESS_TOO_SMALL)


def test_a_record_holds_while_all_that_was_read_stands():
    """What was looked up, found or not, and what was listed: the record ends with the first of it that changes."""
    recorder = Recorder(DESIGN)
    seen, places = recorder.record()
    assert seen.gateway_by_id["harbour-gateway"].name
    assert seen.tunnel_by_id.get("new") is None
    assert "ostvik" in seen.site_by_id

    def holds_in(other: Design) -> bool:
        return places.isdisjoint(changed_places(DESIGN, other, recorder.names))

    assert holds_in(DESIGN)
    assert holds_in(_gateway(DESIGN, name="another"))
    assert holds_in(EDITS["a network"](DESIGN))
    new = DESIGN.tunnel_by_id[SOUND].changed(id="new", name="New")
    assert not holds_in(apply_operations(DESIGN, [put(new)]))
    assert len(seen.networks) > 1
    assert not holds_in(EDITS["a network"](DESIGN))


def test_each_record_holds_all_that_was_read_for_it():
    """What an earlier record has read already, or worked out of what it read, is read again by the next one."""
    recorder = Recorder(DESIGN.changed(supernets=()))
    for _ in range(2):
        seen, places = recorder.record()
        assert seen.tunnel_by_id[SOUND]
        assert not places - {("tunnel_by_id", SOUND)}
        assert seen.address_space
        assert {("networks", None), ("supernets", None)} <= places
        assert seen.by_type
        assert {(name, None) for name in ("tunnels", "hosts", "policies")} <= places
