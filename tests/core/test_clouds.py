"""Clouds: what their rules let through, held against the standard library; what is found of them, and mended."""

from __future__ import annotations

from ipaddress import ip_address, ip_network

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.addressing import Address, Service, parse_address, parse_prefix, parse_service
from pontifex.core.catalogue import Code
from pontifex.core.findings.check import findings
from pontifex.core.kinds import CloudRule, PacketDirection, RuleLevel, Side
from pontifex.core.model import Design, apply_operations, put
from pontifex.core.routing import Conditions, Flow, Tables, trace
from pontifex.core.routing.all_flows.matrix import services_of
from pontifex.core.routing.tables.cloud_rules import CloudRules
from pontifex.demo import demo_design
from tests.support.designs import TODAY, with_end
from tests.support.remedies import remedies

DEMO = demo_design()
NETWORKS = ("basalt-booking-front", "basalt-booking-data", "basalt-booking-gate")
FAR = ("10.80.0.0/22", "10.80.4.0/23", "10.81.0.0/20", "0.0.0.0/0")
NEAR = ("10.80.0.1", "10.80.4.9", "10.80.6.9", "10.80.8.1")
BEYOND = ("10.81.0.9", "192.0.2.1", *NEAR)
DRAWN_RULES = st.lists(
    st.tuples(
        st.sampled_from(RuleLevel),
        st.sampled_from(PacketDirection),
        st.lists(st.sampled_from(NETWORKS), min_size=1, max_size=2, unique=True),
        st.lists(st.sampled_from(FAR), max_size=2, unique=True),
        st.lists(st.sampled_from([22, 443, 5432]), max_size=2, unique=True),
    ),
    max_size=6,
)


def _address(text: str) -> Address:
    return Address(*parse_address(text))


def _rule(place: int, drawn: tuple[RuleLevel, PacketDirection, list[str], list[str], list[int]]) -> CloudRule:
    level, direction, members, far, ports = drawn
    return CloudRule.model_validate(
        {
            "id": f"r{place}",
            "name": f"r{place}",
            "site_id": "basalt",
            "level": level,
            "direction": direction,
            "members": [{"type": "network", "id": id_} for id_ in members],
            "far": far,
            "services": [f"tcp {port}" for port in ports],
        }
    )


@given(
    DRAWN_RULES,
    st.sampled_from(PacketDirection),
    st.sampled_from(NEAR),
    st.sampled_from(BEYOND),
    st.sampled_from([22, 443, 5432, 80]),
    st.booleans(),
)
def test_rules_of_clouds_let_through_what_they_name(drawn, way, near, far, port, answers):
    """By hand: a packet is refused where rules of a level look at it and none names it; groups let answers pass."""
    design = DEMO.changed(cloud_rules=tuple(_rule(place, one) for place, one in enumerate(drawn)))
    refused = CloudRules(design).refusing("basalt", way, _address(near), _address(far), parse_service(f"tcp {port}"), answers)
    prefixes = {id_: ip_network(str(DEMO.network_by_id[id_].prefix)) for id_ in NETWORKS}
    expected = None
    for level in (RuleLevel.GROUP, RuleLevel.SUBNET):
        looking = [
            candidate
            for candidate in drawn
            if (candidate[0], candidate[1]) == (level, way)
            and any(
                ip_address(near) in prefixes[id_] and (level is RuleLevel.GROUP or ip_address(far) not in prefixes[id_])
                for id_ in candidate[2]
            )
        ]
        named = [
            candidate
            for candidate in looking
            if (not candidate[3] or any(ip_address(far) in ip_network(prefix) for prefix in candidate[3]))
            and (not candidate[4] or port in candidate[4])
        ]
        if looking and not named and not (answers and level is RuleLevel.GROUP):
            expected = level
    assert refused is expected


def _with_peering(design: Design) -> Design:
    for side in Side:
        design = with_end(side, design, "basalt-gneiss", peering_agreed=True)
    return design


def _added(before: Design, after: Design) -> set[CloudRule]:
    return set(after.cloud_rules) - set(before.cloud_rules)


def _cloud_codes(design: Design) -> dict[Code, str]:
    return {finding.code: finding.where[0].id for finding in findings(design, TODAY) if finding.code.value.startswith("cloud.")}


def _answers_of_reports(design: Design) -> str:
    flow = Flow(_address("10.80.4.10"), _address("10.81.0.9"), parse_service("tcp 5432"))
    return str(trace(Tables(design), flow, Conditions()).verdict)


def test_a_subnet_that_forgets_the_ports_of_answers_is_told_and_mended():
    """The demo, once the peering is accepted: asked for, and never answered; the remedy lets answers out, and no more."""
    design = _with_peering(DEMO)
    assert "and the answer is lost: no subnet rule of Gneiss lets the answer out of reporting" in _answers_of_reports(design)
    (told,) = [finding for finding in findings(design, TODAY) if finding.code is Code.CLOUD_ANSWER_BLOCKED]
    assert told.where[0].id == "gneiss-reporting"
    (remedy,) = remedies(design, told)
    mended = apply_operations(design, remedy.operations)
    (rule,) = _added(design, mended)
    assert (rule.direction, rule.level) == (PacketDirection.OUT, RuleLevel.SUBNET)
    assert [str(service) for service in rule.services] == ["tcp 1024-65535"]
    assert _answers_of_reports(mended).startswith("Arrives and returns")
    assert not _cloud_codes(mended)


@pytest.mark.parametrize("level", RuleLevel)
def test_a_rule_that_lets_nobody_in_is_told_and_mended(level):
    """At the border or at the hosts: the remedy adds a rule of that level, for those that are looked at already."""
    closed = CloudRule.model_validate(
        {
            "id": "closed",
            "name": "closed",
            "site_id": "basalt",
            "level": level,
            "direction": "in",
            "members": [{"type": "network", "id": "basalt-booking-front"}],
            "services": ["tcp 22"],
        }
    )
    design = apply_operations(DEMO, [put(closed)])
    (told,) = [
        finding for finding in findings(design, TODAY) if finding.code is Code.CLOUD_RULE_BLOCKS and "Booking" in str(finding.why)
    ]
    after = apply_operations(design, remedies(design, told)[0].operations)
    assert {finding.level for finding in _added(design, after)} == {level}
    assert not [
        finding for finding in findings(after, TODAY) if finding.code is Code.CLOUD_RULE_BLOCKS and "Booking" in str(finding.why)
    ]


def test_a_subnet_outside_its_blocks_and_blocks_that_overlap_are_told():
    """A cloud refuses both; a block that is added mends the first."""
    basalt, gneiss = DEMO.cloud_networks
    narrow = apply_operations(DEMO, [put(basalt.changed(blocks=(parse_prefix("10.80.0.0/22"),)))])
    outside = [finding for finding in findings(narrow, TODAY) if finding.code is Code.CLOUD_SUBNET_OUTSIDE]
    assert {finding.where[0].id for finding in outside} == {"basalt-booking", "basalt-booking-data", "basalt-booking-gate"}
    wider = next(candidate for candidate in outside if candidate.where[0].id == "basalt-booking")
    assert Code.CLOUD_SUBNET_OUTSIDE not in _cloud_codes(apply_operations(narrow, remedies(narrow, wider)[0].operations))
    same = apply_operations(DEMO, [put(gneiss.changed(blocks=(*gneiss.blocks, parse_prefix("10.80.8.0/21"))))])
    assert _cloud_codes(same)[Code.CLOUD_BLOCKS_OVERLAP] == "basalt-gneiss"


def test_a_rule_for_another_site_is_told_and_mended():
    """What isn't there is left out of the rule; a rule for nothing else is removed."""
    rule = DEMO.cloud_rules[0]
    away = apply_operations(DEMO, [put(rule.changed(site_id="basalt"))])
    assert _cloud_codes(away)[Code.CLOUD_MEMBER_ELSEWHERE] == rule.id
    told = next(finding for finding in findings(away, TODAY) if finding.code is Code.CLOUD_MEMBER_ELSEWHERE)
    assert Code.CLOUD_MEMBER_ELSEWHERE not in _cloud_codes(apply_operations(away, remedies(away, told)[0].operations))


def test_the_services_of_cloud_rules_are_told_apart():
    """The matrix can be asked for each service that a rule names."""
    assert parse_service("tcp 5432") in services_of(DEMO.changed(intents=()))
    assert Service() in services_of(DEMO)
