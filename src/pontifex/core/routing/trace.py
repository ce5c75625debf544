"""Following one flow, hop by hop, there and back."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Final

from pydantic import Field

from pontifex.core.addressing import Address, Prefix, Selector
from pontifex.core.addressing.special import is_public
from pontifex.core.model import Design, Gateway, Network, Side, Tunnel
from pontifex.core.routing.decide import Decision, Kind, decide
from pontifex.core.routing.flow import Conditions, Flow
from pontifex.core.routing.translation import States, translated
from pontifex.core.value import Value

_MOST_HOPS: Final = 16


class End(Enum):
    """How a way ends."""

    ARRIVES = "arrives"
    LOST = "lost"
    UNPROTECTED = "unprotected"  # it leaves to the Internet, though it is meant for inside
    INTERNET = "internet"  # it leaves to the Internet, where it is meant to go
    UNKNOWN = "unknown"  # it is handed to somebody of whom the design knows no more


class Hop(Value):
    """One gateway on the way."""

    gateway_id: str = Field(title="Gateway", description="Empty where a host itself decides.")
    where: str = Field(title="Where", examples=["Harbour firewall pair"])
    decision: str = Field(title="What happens", examples=["into Harbour–Ostvik"])
    by: str = Field(title="What decided", examples=["policy of Harbour–Ostvik: 10.65.0.0/24"])
    translated: str = Field(default="", title="Translation")
    inner_mtu: int | None = Field(default=None, title="Inner MTU from here on, octets")


class Way(Value):
    """A flow in one direction."""

    source: Address
    destination: Address
    hops: tuple[Hop, ...]
    end: End
    tunnels: tuple[str, ...] = Field(title="Ids of the tunnels on the way")
    reason: str = Field(title="Why it ends so")


class Trace(Value):
    """A flow, there and back."""

    verdict: str = Field(title="Verdict", examples=["Arrives and returns by Harbour–Ostvik."])
    forward: Way
    back: Way | None = Field(title="The answer", description="Null where nothing arrives that could be answered.")


def trace(
    design: Design, flow: Flow, conditions: Conditions, source: Network | None = None, target: Network | None = None
) -> Trace:
    """Follow a flow to its destination, and the answer back to the source.

    Where networks share addresses, `source` says in which the flow begins, and `target` which one is meant; without them
    it begins in the narrowest network that holds the source, and whichever is reached is right.
    """
    source = source or _network_of(design, flow.source)
    forward, seen, reached = _Walk(design, conditions, ()).walk(flow, source, target)
    if forward.end is not End.ARRIVES:
        return Trace(verdict=_verdict(design, forward, None), forward=forward, back=None)
    answer = Flow(seen.destination, seen.source, flow.protocol)
    back, returned, _ = _Walk(design, conditions, ((seen.source, flow.source),)).walk(answer, reached, source)
    if back.end is End.ARRIVES and returned.source != flow.destination:
        reason = f"the answer comes from {returned.source}, and one from {flow.destination} is waited for"
        back = back.model_copy(update={"end": End.LOST, "reason": reason})
    return Trace(verdict=_verdict(design, forward, back), forward=forward, back=back)


def _network_of(design: Design, address: Address) -> Network | None:
    """Return the narrowest network that holds an address."""
    holding = [network for network in design.networks if network.prefix.holds(address)]
    return max(holding, key=lambda one: (one.prefix.length, one.id), default=None)


def _verdict(design: Design, forward: Way, back: Way | None) -> str:
    if forward.end is End.UNPROTECTED:
        return f"Leaves unprotected: {forward.reason}."
    if forward.end is not End.ARRIVES or back is None:
        return {
            End.INTERNET: f"Leaves to the Internet: {forward.reason}.",
            End.UNKNOWN: f"Is not known further: {forward.reason}.",
        }.get(forward.end, f"Is lost: {forward.reason}.")
    if back.end is not End.ARRIVES:
        verb = "leaves unprotected" if back.end is End.UNPROTECTED else "is lost"
        return f"Arrives{_by(design, forward)}, and the answer {verb}: {back.reason}."
    if forward.tunnels == tuple(reversed(back.tunnels)):
        return f"Arrives and returns{_by(design, forward)}."
    return f"Arrives{_by(design, forward)}, and returns another way{_by(design, back)}."


def _by(design: Design, way: Way) -> str:
    names = [design.tunnel_by_id[id_].name for id_ in way.tunnels]
    return f" by {' and '.join(names)}" if names else " within the site"


@dataclass
class _Walk:
    """One direction."""

    design: Design
    conditions: Conditions
    states: States  # of addresses that many hosts share

    def walk(self, flow: Flow, source: Network | None, target: Network | None) -> tuple[Way, Flow, Network | None]:
        """Return the way, the flow as it is seen at its end, and the network that it is delivered into."""
        self._asked, self._hops, self._tunnels = flow, list[Hop](), list[str]()
        gateway, ended = self._begin(flow, source)
        reached = source
        arrived_by: Tunnel | None = None
        while gateway is not None and ended is None:
            ended = self._at(gateway, arrived_by)
            if ended is None:
                decision = decide(self.design, gateway, flow, self.conditions, self.states)
                gateway, flow, ended = self._follow(gateway, flow, decision)
                arrived_by, reached = decision.tunnel, decision.network
        assert ended is not None
        end, reason = ended
        if end is End.ARRIVES and reached and target and reached.site_id != target.site_id:
            names = [f"{one.name} of {self.design.site_by_id[one.site_id].name}" for one in (reached, target)]
            end, reason = End.LOST, f"it ends in {names[0]}, which has the addresses of {names[1]}"
        way = Way(
            source=self._asked.source,
            destination=self._asked.destination,
            hops=tuple(self._hops),
            end=end,
            tunnels=tuple(self._tunnels),
            reason=reason,
        )
        return way, flow, reached

    def _begin(self, flow: Flow, network: Network | None) -> tuple[Gateway | None, tuple[End, str] | None]:
        """Return the gateway that the source's host sends to, or how it ends at the host itself."""
        if network is None:
            return None, (End.LOST, f"no network holds {flow.source}")
        site = self.design.site_by_id[network.site_id]
        if network.prefix.holds(flow.destination):
            self._hops.append(
                Hop(gateway_id="", where=f"{network.name} at {site.name}", decision="delivered", by="the same network")
            )
            return None, (End.ARRIVES, "")
        gateways = [g for g in self.design.gateways if g.site_id == site.id]
        routers = [g for g in gateways if g.default_router]
        if not gateways:
            return None, (End.LOST, f"{site.name} has no gateway")
        if not routers:
            return None, (
                End.LOST,
                f"the hosts of {site.name} use another default router, which has no route to {flow.destination}",
            )
        return min(routers, key=lambda g: (g.id in self.conditions.gateways, g.id)), None

    def _at(self, gateway: Gateway, arrived_by: Tunnel | None) -> tuple[End, str] | None:
        """Return how it ends at a gateway before anything is decided there; None when it goes on."""
        if len(self._hops) >= _MOST_HOPS:
            return End.LOST, f"it goes round in circles at {gateway.name}"
        if gateway.id in self.conditions.gateways:
            return End.LOST, f"{gateway.name} is down: {self.conditions.gateways[gateway.id]}"
        if not gateway.forwarding:
            came = f"what comes by {arrived_by.name}" if arrived_by else "what hosts send"
            self._hops.append(Hop(gateway_id=gateway.id, where=gateway.name, decision="dropped", by="forwarding is off"))
            return End.LOST, f"{gateway.name} does not forward {came}"
        return None

    def _follow(self, gateway: Gateway, flow: Flow, decision: Decision) -> tuple[Gateway | None, Flow, tuple[End, str] | None]:
        if decision.tunnel and decision.side:
            return self._through(gateway, flow, decision, decision.tunnel, decision.side)
        words, ended = _ends(gateway, decision, self._meant_for_inside(flow.destination))
        self._hops.append(Hop(gateway_id=gateway.id, where=gateway.name, decision=words, by=decision.by))
        return None, flow, ended

    def _meant_for_inside(self, destination: Address) -> bool:
        """Tell whether a destination is the organisation's: of a network or supernet, or of space that is not public."""
        host = Prefix(destination.family, destination.value, destination.family.bits)
        known = any(network.prefix.holds(destination) for network in self.design.networks)
        return known or any(one.holds(destination) for one in self.design.supernets) or not is_public(host)

    def _through(
        self, gateway: Gateway, flow: Flow, decision: Decision, tunnel: Tunnel, side: Side
    ) -> tuple[Gateway | None, Flow, tuple[End, str] | None]:
        near, far = tunnel.end(side), tunnel.end(side.other)
        entering = translated(self.design, gateway.id, tunnel.id, flow, leaving=True, states=self.states)
        refusal = self._refused(tunnel, side, entering)
        if refusal:
            self._hops.append(Hop(gateway_id=gateway.id, where=gateway.name, decision="dropped", by=refusal))
            return None, flow, (End.LOST, f"at {gateway.name} {refusal}")
        arriving = translated(self.design, far.gateway_id, tunnel.id, entering, leaving=False, states=self.states)
        self._tunnels.append(tunnel.id)
        words = _translation_words(flow, arriving)
        hop = Hop(
            gateway_id=gateway.id,
            where=gateway.name,
            decision=f"into {tunnel.name}",
            by=decision.by,
            translated=words,
            inner_mtu=near.inner_mtu,
        )
        self._hops.append(hop)
        return self.design.gateway_by_id[far.gateway_id], arriving, None

    def _refused(self, tunnel: Tunnel, side: Side, flow: Flow) -> str:
        """Return why the networks of an end don't let a flow through; empty when both do, or name none yet."""
        for end, source, destination in (
            (tunnel.end(side), "local_networks", "remote_networks"),
            (tunnel.end(side.other), "remote_networks", "local_networks"),
        ):
            for field, address in ((source, flow.source), (destination, flow.destination)):
                named: tuple[Selector, ...] = getattr(end, field)
                if named and not any(_holds(one, address) for one in named):
                    where = self.design.site_of(end).name
                    return f"the networks of {tunnel.name} at {where} don't name {address}"
        return ""


def _ends(gateway: Gateway, decision: Decision, inside: bool) -> tuple[str, tuple[End, str]]:
    if decision.kind is Kind.DELIVER and decision.network:
        return f"delivered into {decision.network.name}", (End.ARRIVES, "")
    if decision.kind is Kind.UPLINK and decision.uplink:
        where = f"{gateway.name} sends it out by {decision.uplink.name}"
        reason = f"{where}: {decision.by}"
        return f"out by {decision.uplink.name}", (End.UNPROTECTED if inside else End.INTERNET, reason)
    if decision.kind is Kind.NEIGHBOUR:
        return "handed on", (End.UNKNOWN, f"{gateway.name} hands it on by {decision.by}")
    return "dropped", (End.LOST, f"at {gateway.name} {decision.by}")


def _holds(selector: Selector, address: Address) -> bool:
    return selector.family is address.family and selector.first <= address.value <= selector.last


def _translation_words(before: Flow, after: Flow) -> str:
    changed = [
        f"{what} {old} becomes {new}"
        for what, old, new in (("source", before.source, after.source), ("destination", before.destination, after.destination))
        if old != new
    ]
    return "; ".join(changed)
