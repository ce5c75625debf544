"""The table of nftables that a gateway's filters, marking rules and translations come down to, line by line."""

from __future__ import annotations

import re
from typing import Any

from hypothesis import HealthCheck, given, settings

from pontifex.core.handover.interfaces import Interfaces
from pontifex.core.handover.nft import nft_table
from pontifex.core.kinds import Filter, Gateway, ObjectType, Rule, Translation
from pontifex.core.model import Design, apply_operations, put
from pontifex.core.routing import Tables
from tests.support.designs import bare_demo
from tests.support.drawn import DRAWN, drawn_design

DESIGN = bare_demo()
GATEWAY = "harbour-gateway"
QUICK = settings(max_examples=40, suppress_health_check=list(HealthCheck), deadline=None)


def _lines(design: Design, gateway_id: str = GATEWAY) -> list[str]:
    tables = Tables(design)
    table = tables.of(design.gateway_by_id[gateway_id])
    names = {(ObjectType.TUNNEL, tunnel.id): f"t-{tunnel.id}"[:15] for tunnel, _ in table.tunnels}
    names |= {
        (ObjectType.UPLINK, uplink.id): f"u-{uplink.id}"[:15] for uplink in design.uplinks if uplink.gateway_id == gateway_id
    }
    return nft_table(table, Interfaces.of(tables, table, names, {}))


def _with(*objects: Any) -> Design:
    return apply_operations(DESIGN, [put(item) for item in objects])


def _filter(**fields: Any) -> Filter:
    return Filter.model_validate({"id": "f", "name": "f", "gateway_id": GATEWAY, **fields})


def test_a_gateway_without_any_of_it_has_no_table():
    """Where nothing is filtered, marked or translated, there is nothing to enter."""
    assert _lines(DESIGN) == []


def test_a_filter_lets_through_what_it_names_and_drops_the_rest():
    """State first, then what is named, one line a destination, and at last everything else of that direction."""
    lines = _lines(_with(_filter(direction="in", destinations=["10.64.8.0/24 tcp 443", "10.64.8.5/32"])))
    filters = [line.strip() for line in lines if "iifname" in line]
    assert [line.rsplit(" ", 1)[1] for line in filters] == ["accept", "drop", "accept", "accept", "drop"]
    assert "ct state established,related" in filters[0]
    assert "ip daddr 10.64.8.0/24 meta l4proto { tcp } th dport 443-443 accept" in filters[2]
    assert "ip daddr 10.64.8.5/32 accept" in filters[3]
    stateless = Gateway.model_validate({**DESIGN.gateway_by_id[GATEWAY].model_dump(), "keeps_state": False})
    assert not [line for line in _lines(_with(stateless, _filter(direction="in"))) if "ct state" in line]


def test_what_is_for_all_of_a_family_is_for_no_other():
    """A filter for all of IPv6, and a rule that marks it, say the family: IPv4 is not meant."""
    lines = _lines(_with(_filter(direction="out", destinations=["::/0"])))
    accepted = [line for line in lines if line.endswith("accept") and "ct state" not in line]
    assert accepted
    assert all("meta nfproto ipv6" in line for line in accepted)


def test_classes_are_marked_and_translations_go_both_ways():
    """A rule that marks has a chain that does so; a network that is shown as another one is led in and out."""
    rule = Rule.model_validate({"id": "r", "name": "r", "gateway_id": GATEWAY, "marks": "EF", "sources": ["10.64.0.0/22"]})
    shown = {"id": "s", "name": "s", "gateway_id": GATEWAY, "inside": "10.64.8.0/24", "outside": "10.99.0.0/24"}
    lines = _lines(_with(rule, Translation.model_validate({**shown, "side": "own", "tunnel_id": "harbour-tarn"})))
    text = "\n".join(lines)
    assert "ip dscp set 46" in text
    assert "dnat ip prefix to ip daddr map { 10.99.0.0/24 : 10.64.8.0/24 }" in text
    assert "snat ip prefix to ip saddr map { 10.64.8.0/24 : 10.99.0.0/24 }" in text


@QUICK
@given(DRAWN[0], DRAWN[1])
def test_any_table_is_whole(drawn, kinds):
    """Whatever a design holds: brackets close, each chain has its hook and a line, and no line speaks of both families."""
    design = drawn_design(drawn, kinds)
    for gateway in design.gateways:
        text = "\n".join(_lines(design, gateway.id))
        assert text.count("{") == text.count("}")
        for chain in re.findall(r"  chain \w+ \{\n(.*?)\n  \}", text, re.DOTALL):
            head, *lines = chain.splitlines()
            assert re.fullmatch(r" +type (filter|nat) hook \w+ priority [\w +]+; policy accept;", head)
            assert lines
            assert not [line for line in lines if " ip6 " in line and re.search(r"\bip (s|d)addr", line)]
