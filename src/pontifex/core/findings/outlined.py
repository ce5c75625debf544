"""Tunnels as far as address space and paths are concerned: where they run, what they name, and their inner addresses.

What is worked out of an outlined design can't depend on anything else of a tunnel, so that a changed proposal or lifetime
leaves it as it is.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from operator import is_
from typing import Final

from pontifex.core.kinds import Tunnel, TunnelEnd
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, Operation, Put, put

_OF_A_TUNNEL: Final = ("id", "name", "left", "right")
_OF_AN_END: Final = (
    *("gateway_id", "uplink_id", "peer_address", "port", "enabled", "inner_address", "local_networks", "remote_networks"),
    *("mode", "technology"),
)
_TUNNEL_UNSET: Final = {
    name: info.get_default(call_default_factory=True) for name, info in Tunnel.model_fields.items() if name not in _OF_A_TUNNEL
}
_END_UNSET: Final = {
    name: info.get_default(call_default_factory=True) for name, info in TunnelEnd.model_fields.items() if name not in _OF_AN_END
}


@dataclass
class Outlines:
    """The outlines of a design's tunnels, each kept as long as nothing of it changes."""

    _by_tunnel: dict[str, tuple[Tunnel, Tunnel]] = field(default_factory=dict)  # as it is, and its outline
    _last: Design | None = None  # with outlines in place of its tunnels

    def copy(self) -> Outlines:
        """Return what is kept, to go on from without a change of this."""
        return Outlines(self._by_tunnel, self._last)  # both are replaced and never changed

    def of(self, design: Design) -> Design:
        """Return a design with the outlines of its tunnels."""
        self._by_tunnel = {tunnel.id: (tunnel, self._outline(tunnel)) for tunnel in design.tunnels}
        outlines = tuple(outline for _, outline in self._by_tunnel.values())
        last = self._last
        if last and len(outlines) == len(last.tunnels) and all(map(is_, outlines, last.tunnels)):
            outlines = last.tunnels
        outlined = design.changed(tunnels=outlines)
        if last:
            outlined.take_lookups(last)
        self._last = outlined
        return outlined

    def _outline(self, tunnel: Tunnel) -> Tunnel:
        known = self._by_tunnel.get(tunnel.id)
        if known and known[0] is tunnel:
            return known[1]
        outline = outline_of(tunnel)
        return known[1] if known and known[1] == outline else outline


def outline_of(tunnel: Tunnel) -> Tunnel:
    """Return a tunnel as far as address space and paths are concerned."""
    left, right = tunnel.left.with_valid(_END_UNSET), tunnel.right.with_valid(_END_UNSET)
    return tunnel.with_valid({**_TUNNEL_UNSET, "left": left, "right": right})


def in_full(remedy: Remedy, outlined: Design, design: Design) -> Remedy:
    """Return a remedy of an outlined design as one that changes the tunnels as they are."""
    return replace(remedy, operations=tuple(_operation_in_full(operation, outlined, design) for operation in remedy.operations))


def _operation_in_full(operation: Operation, outlined: Design, design: Design) -> Operation:
    if not isinstance(operation, Put) or not isinstance(operation.object, Tunnel):
        return operation
    wanted = operation.object
    outline, whole = outlined.tunnel_by_id.get(wanted.id), design.tunnel_by_id.get(wanted.id)
    if outline is None or whole is None:
        return operation  # a new one
    left = whole.left.with_valid(_changed(outline.left, wanted.left))
    right = whole.right.with_valid(_changed(outline.right, wanted.right))
    return put(whole.with_valid({**_changed(outline, wanted), "left": left, "right": right}))


def _changed(before: Tunnel | TunnelEnd, after: Tunnel | TunnelEnd) -> dict[str, object]:
    """Return the fields that differ."""
    was = before.by_field()
    return {name: value for name, value in after.by_field().items() if value != was[name]}
