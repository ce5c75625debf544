"""Stateful filters: what a gateway lets through because a filter names it, or because it is the answer to such; and clouds."""

from __future__ import annotations

from typing import Final

from pontifex.core.kinds import Filter, FilterDirection, Network, PacketDirection
from pontifex.core.routing.tables.tables import GatewayTable, Tables
from pontifex.core.routing.trace.flow import Flow

DIRECTION_WORDS: Final = {
    FilterDirection.IN: "into the site",
    FilterDirection.OUT: "out of the site",
    FilterDirection.THROUGH: "from tunnel to tunnel",
}


def direction(came_by_tunnel: bool, goes_out: bool) -> FilterDirection | None:
    """Return which filters of a gateway look at a packet; None for what stays inside the site."""
    if came_by_tunnel:
        return FilterDirection.THROUGH if goes_out else FilterDirection.IN
    return FilterDirection.OUT if goes_out else None


def lets_through(filter_: Filter, flow: Flow) -> bool:
    """Whether a filter names a flow."""
    source = not filter_.sources or any(prefix.holds(flow.source) for prefix in filter_.sources)
    return source and (not filter_.destinations or any(box.contains(flow.selector) for box in filter_.destinations))


def judge(table: GatewayTable, flow: Flow, way: FilterDirection | None, seen_begin: bool | None) -> tuple[bool, str]:
    """Whether the filters of a gateway let a flow through, and why.

    `seen_begin` tells of an answer whether the gateway has seen its connection begin; None for what begins one. An answer
    that could as well begin something (UDP) is new to a gateway that hasn't; so is each packet without state.
    """
    rules = [candidate for candidate in table.filters if candidate.direction is way]
    if way is None or not rules:
        return True, ""
    if seen_begin is not None and table.gateway.keeps_state:
        if seen_begin:
            return True, "part of a connection that it knows"
        if not flow.answered_newly:
            return False, f"{table.gateway.name} keeps state, and has not seen this connection begin"
    for rule in rules:
        if lets_through(rule, flow):
            return True, f"let through by {rule.name}"
    return False, f"no filter of {table.gateway.name} lets it {DIRECTION_WORDS[way]}"


_CLOUD_WORDS: Final = {PacketDirection.IN: "into", PacketDirection.OUT: "out of"}


def cloud_refusal(tables: Tables, network: Network, flow: Flow, way: PacketDirection, answers: bool) -> str:
    """Return why the rules of a cloud don't let a flow into or out of a network of theirs; empty where they do."""
    near, far = (flow.destination, flow.source) if way is PacketDirection.IN else (flow.source, flow.destination)
    level = tables.cloud_rules.refusing(network.site_id, way, near, far, flow.service, answers)
    if level is None:
        return ""
    what = "the answer" if answers else "it"
    site = tables.design.site_by_id[network.site_id].name
    return f"no {level.value} rule of {site} lets {what} {_CLOUD_WORDS[way]} {network.name}"
