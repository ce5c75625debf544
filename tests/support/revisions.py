"""Pairs of revisions: the demo, and what some changes make of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from hypothesis import strategies as st

from pontifex.core.addressing import parse_prefix, parse_selector
from pontifex.core.kinds import Filter, ObjectType, Role, Route, Side
from pontifex.core.model import (
    AnyOperation,
    ChangeRefused,
    Design,
    Remove,
    RenumberNetwork,
    apply_operations,
    difference,
    put,
)
from pontifex.demo import demo_design
from tests.support.designs import mended

DEMO = mended(demo_design())
_TUNNELS = ("harbour-ostvik", "harbour-brenna", "harbour-corvina", "harbour-basalt", "brenna-basalt-cable")
_PROPOSALS = [end.ike_proposals for tunnel in DEMO.tunnels for end in (tunnel.left, tunnel.right) if end.ike_proposals]
_CHILD = [end.child_proposals for tunnel in DEMO.tunnels for end in (tunnel.left, tunnel.right) if end.child_proposals]
_KEYS = [candidate.left.key for candidate in DEMO.tunnels if candidate.left.key]
_FIELDS: st.SearchStrategy[dict[str, Any]] = st.one_of(
    st.builds(lambda value: {"ike_proposals": value}, st.sampled_from(_PROPOSALS)),
    st.builds(lambda value: {"child_proposals": value}, st.sampled_from(_CHILD)),
    st.builds(lambda value: {"key": value}, st.sampled_from(_KEYS)),
    st.builds(lambda value: {"role": value}, st.sampled_from(Role)),
    st.builds(lambda value: {"enabled": value}, st.booleans()),
    st.builds(lambda value: {"ike_lifetime_s": value}, st.sampled_from([3600, 28_800])),
    st.builds(lambda value: {"remote_networks": (parse_selector(value),)}, st.sampled_from(["10.64.0.0/16", "10.65.0.0/16"])),
)


def _ends(tunnel_id: str, sides: list[Side], fields: dict[str, Any]) -> AnyOperation:
    tunnel = DEMO.tunnel_by_id[tunnel_id]
    for side in sides:
        tunnel = tunnel.with_valid({side.value: tunnel.end(side).with_valid(fields)})
    return put(tunnel)


_PREFIXES = st.sampled_from(["10.65.0.0/24", "10.66.0.0/24", "10.64.8.0/24", "10.80.0.0/20", "0.0.0.0/0"]).map(parse_prefix)
_GATEWAYS = st.sampled_from(["harbour-gateway", "ostvik-gateway", "brenna-gateway", "basalt-gateway"])
_IDS = [
    (kind, item.id)
    for kind, some in (
        (ObjectType.TUNNEL, DEMO.tunnels),
        (ObjectType.ROUTE, DEMO.routes),
        (ObjectType.RULE, DEMO.rules),
        (ObjectType.FILTER, DEMO.filters),
        (ObjectType.UPLINK, DEMO.uplinks),
        (ObjectType.NETWORK, DEMO.networks),
        (ObjectType.CLOUD_RULE, DEMO.cloud_rules),
    )
    for item in some
]
_OPERATIONS: st.SearchStrategy[AnyOperation] = st.one_of(
    st.builds(_ends, st.sampled_from(_TUNNELS), st.sampled_from([[Side.LEFT], [Side.RIGHT], list(Side)]), _FIELDS),
    st.builds(_ends, st.sampled_from(_TUNNELS), st.just(list(Side)), _FIELDS),
    st.builds(lambda target: Remove(type=target[0], id=target[1], cascade=True), st.sampled_from(_IDS)),
    st.builds(
        lambda k, gateway, prefix, tunnel: put(
            Route(id=f"r{k}", gateway_id=gateway, prefix=prefix, tunnel_id=tunnel, metric=k)
        ),
        st.integers(0, 2), _GATEWAYS, _PREFIXES, st.sampled_from(_TUNNELS),
    ),
    st.builds(
        lambda route, prefix: put(route.changed(prefix=prefix)), st.sampled_from(DEMO.routes), _PREFIXES
    ),
    st.builds(
        lambda prefix: RenumberNetwork(id="ostvik-ticketing", prefix=parse_prefix(prefix)),
        st.sampled_from(["10.77.0.0/24", "10.78.0.0/24"]),
    ),
    st.builds(
        lambda gateway: put(Filter(id="f0", name="f0", gateway_id=gateway, sources=(parse_prefix("10.0.0.0/9"),))), _GATEWAYS
    ),
)  # fmt: skip


def _after(operations: list[AnyOperation], before: Design = DEMO) -> Design:
    """Return what operations make of a design, those that can't be applied left out."""
    for operation in operations:
        try:
            before = apply_operations(before, [operation])
        except ChangeRefused:
            continue
    return before


@dataclass(frozen=True, slots=True)
class Revisions:
    """Two states of a design."""

    before: Design
    after: Design

    def __repr__(self) -> str:
        """Show what differs: the designs themselves are too long to read."""
        return self._text()

    def _repr_pretty_(self, printer: Any, cycle: bool) -> None:
        """Show the same where hypothesis prints what failed."""
        del cycle
        printer.text(self._text())

    def _text(self) -> str:
        changes = difference(self.before, self.after).fields(most=20)
        return "; ".join(
            f"{change.type.value}/{change.id} {change.field}: {change.before} -> {change.after}"[:160] for change in changes
        )


REVISIONS = st.builds(
    lambda there, back: Revisions(_after(there), _after(back)),
    st.lists(_OPERATIONS, max_size=3),
    st.lists(_OPERATIONS, max_size=4),
)
