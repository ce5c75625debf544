"""Following one flow, hop by hop, there and back."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Final

from pontifex.core.addressing import Address, Prefix, Selector
from pontifex.core.addressing.special import is_others
from pontifex.core.kinds import Gateway, Network, PacketDirection, Side, Tunnel
from pontifex.core.kinds.dscp import dscp_name
from pontifex.core.routing.tables.filtering import cloud_refusal, direction, judge
from pontifex.core.routing.tables.first_hop import first_hop
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.tables.translation import Connection, Translator, translator
from pontifex.core.routing.trace.decide import Cause, Decision, DecisionKind, about, decide
from pontifex.core.routing.trace.flow import Conditions, Flow, answer_service, client_ports
from pontifex.core.routing.trace.flow_path import End, FlowPath, Hop, Trace, remarks_on, verdict_of

MOST_HOPS: Final = 16


def trace(
    tables: Tables, flow: Flow, conditions: Conditions, source: Network | None = None, destination: Network | None = None
) -> Trace:
    """Follow a flow to its destination, and the answer back to the source.

    Where networks share addresses, `source` says at whose site the flow begins, and `destination` at whose it is to end;
    without them it begins in the narrowest network that holds the source, and whichever is reached is right.
    """
    source = _home(tables, flow.source, source)
    flow = Flow(flow.source, flow.destination, flow.service, flow.dscp, client_ports(flow.service))
    connection = Connection()
    forward, seen, reached = _Walk(tables, conditions, connection).walk(flow, source, destination)
    if forward.end is not End.ARRIVES:
        verdict = verdict_of(tables, forward, None)
        return Trace(verdict=verdict, forward=forward, back=None, remarks=remarks_on(tables, forward, None))
    # in the class that arrived, from the port that was asked
    answer = Flow(seen.destination, seen.source, answer_service(flow.service), seen.dscp, flow.service.ports)
    back, returned, _ = _Walk(tables, conditions, connection.answered()).walk(answer, reached, source)
    if back.end is End.ARRIVES and (returned.source, returned.destination) != (flow.destination, flow.source):
        comes = f"the answer comes from {returned.source}, and one from {flow.destination} is waited for"
        goes = f"the answer goes to {returned.destination}, and {flow.source} waits for it"
        reason = comes if returned.source != flow.destination else goes
        back = replace(back, end=End.LOST, reason=reason, cause=Cause.OUTSIDE)
    verdict = verdict_of(tables, forward, back)
    return Trace(verdict=verdict, forward=forward, back=back, remarks=remarks_on(tables, forward, back))


def _home(tables: Tables, address: Address, meant: Network | None) -> Network | None:
    """Return the narrowest network that holds an address, at the site of the one that is meant where one is."""
    holding = [
        network for network in tables.design.network_map.holding(address) if meant is None or network.site_id == meant.site_id
    ]
    return max(holding, key=lambda candidate: (candidate.prefix.length, candidate is meant, candidate.id), default=meant)


@dataclass(frozen=True, slots=True)
class _Ended:
    """How a way ends."""

    end: End
    reason: str = ""
    cause: Cause | None = None
    tunnel_id: str | None = None
    rule_id: str | None = None
    network_id: str | None = None  # that doesn't let it in or out


@dataclass(slots=True)
class _HopAt:
    """Where a flow is, and what is done to it there, whatever is decided."""

    gateway_id: str
    where: str
    filtered: str = ""
    marked: str = ""
    stateless: bool = False

    def hop(
        self,
        decision: str,
        by: str,
        tunnel_id: str | None = None,
        uplink_id: str | None = None,
        translated: str = "",
        inner_mtu: int | None = None,
    ) -> Hop:
        """Return the hop of a decision, and what decided."""
        return Hop(
            gateway_id=self.gateway_id,
            where=self.where,
            decision=decision,
            by=by,
            tunnel_id=tunnel_id,
            uplink_id=uplink_id,
            translated=translated,
            filtered=self.filtered,
            marked=self.marked,
            inner_mtu=inner_mtu,
            stateless=self.stateless,
        )


@dataclass
class _Walk:
    """One direction of a connection."""

    tables: Tables
    conditions: Conditions
    connection: Connection

    def walk(self, flow: Flow, source: Network | None, destination: Network | None) -> tuple[FlowPath, Flow, Network | None]:
        """Return the way, the flow as it is seen at its end, and the network that it is delivered into."""
        asked, self._hops, self._mtus = flow, list[Hop](), list[int]()
        self._came: Tunnel | None = None
        self._reached = source
        self._own = False  # what the gateway at hand sends is its own
        self._translator = Translator()
        self._left = flow.source, flow.destination
        gateway, flow, ended = self._begin(flow, source)
        while gateway is not None and ended is None:
            came = flow.source, flow.destination
            flow = self._arrived(gateway, flow)
            ended = self._at(gateway, flow)
            if ended is None:
                decision = decide(self.tables, gateway, flow, self.conditions, self._translator, self._own)
                here = gateway
                gateway, flow, ended = self._follow(gateway, flow, decision)
                self.connection.note(here.id, came, self._left)
                self._own = False
        assert ended is not None
        reached = self._reached
        if ended.end is End.ARRIVES and reached and destination and reached.site_id != destination.site_id:
            names = [
                f"{network.name} of {self.tables.design.site_by_id[network.site_id].name}" for network in (reached, destination)
            ]
            ended = _Ended(End.LOST, f"it ends in {names[0]}, which has the addresses of {names[1]}", Cause.TWIN)
        at_gateway = any(hop.gateway_id for hop in self._hops)
        way = FlowPath(
            source=asked.source,
            destination=asked.destination,
            hops=tuple(self._hops),
            end=ended.end,
            tunnels=tuple(hop.tunnel_id for hop in self._hops if hop.tunnel_id),
            mtu=min(self._mtus, default=None),
            reason=ended.reason,
            cause=ended.cause,
            last_network_id=ended.network_id or (source.id if source and not at_gateway else None),
            last_tunnel_id=ended.tunnel_id,
            last_rule_id=ended.rule_id,
        )
        return way, flow, reached

    def _arrived(self, gateway: Gateway, flow: Flow) -> Flow:
        """Return what has come to a gateway as it is routed there, and remember how the gateway translates it."""
        translations = self.tables.of(gateway).translations
        self._translator = translator(translations, gateway.keeps_state, gateway.id, flow, self.connection)
        if self._came:
            flow = self._translator.from_tunnel(self._came.id, flow)
        return self._translator.arrived(flow)

    def _begin(self, flow: Flow, network: Network | None) -> tuple[Gateway | None, Flow, _Ended | None]:
        """Let the source's host send it: return the gateway that it comes to, or how it ends."""
        owner = self.tables.owner(flow.source, network.site_id if network else None)
        if owner:
            self._own = True
            return owner, flow, None
        if network is None:
            return None, flow, _Ended(End.LOST, f"no network holds {flow.source}", Cause.NOBODY)
        site = self.tables.design.site_by_id[network.site_id]
        where = f"{network.name} at {site.name}"
        kept = self._kept_by_cloud(network, flow, PacketDirection.OUT, _HopAt("", where))
        if kept:
            return None, flow, kept
        first = first_hop(self.tables, network, flow.destination, self.conditions)
        if network.zone and first.kind is not DecisionKind.DELIVER and self._meant_for_inside(flow.destination):
            words = f"{where} is isolated: it reaches none of the other networks"
            return None, flow, _Ended(End.LOST, words, Cause.ISOLATED)
        if first.kind is DecisionKind.ROUTER:
            if first.by:
                self._hops.append(Hop(gateway_id="", where=where, decision=f"to {_name(first)}", by=first.by))
            return first.gateway, flow, None
        if first.gateway and not self._usable(first.gateway):
            return None, flow, self._at(first.gateway, flow)
        came = flow.source, flow.destination
        if first.gateway:
            flow = self._arrived(first.gateway, flow)
        followed = self._follow(first.gateway, flow, first, where)
        if first.gateway:
            self.connection.note(first.gateway.id, came, self._left)
        return followed

    def _usable(self, gateway: Gateway) -> bool:
        return gateway.forwarding and gateway.id not in self.conditions.gateways

    def _at(self, gateway: Gateway, flow: Flow) -> _Ended | None:
        """Return how it ends at a gateway before anything is decided there; None when it goes on."""
        if len(self._hops) >= MOST_HOPS:
            return _Ended(End.LOST, f"it goes round in circles at {gateway.name}", Cause.LOOP)
        if gateway.id in self.conditions.gateways:
            return _Ended(End.LOST, f"{gateway.name} is down: {self.conditions.gateways[gateway.id]}", Cause.DOWN)
        if not self._own and self.tables.is_own(gateway, flow.source):
            by = f"it comes back to {gateway.name}, whose own address it is from"  # RFC 1812 section 5.3.7
            self._hops.append(Hop(gateway_id=gateway.id, where=gateway.name, decision="dropped", by=by))
            return _Ended(End.LOST, f"at {gateway.name} {by}", Cause.LOOP)
        if self.tables.is_own(gateway, flow.destination):
            by = f"{flow.destination} is its own address: neither forwarding nor rules and filters play a part"
            self._hops.append(Hop(gateway_id=gateway.id, where=gateway.name, decision="answers itself", by=by))
            here = [
                network
                for network in self.tables.design.network_map.holding(flow.destination)
                if network.site_id == gateway.site_id
            ]
            self._reached = max(here, key=lambda candidate: (candidate.prefix.length, candidate.id), default=None)
            return _Ended(End.ARRIVES)
        if not gateway.forwarding and not self._own:
            came = f"what comes by {self._came.name}" if self._came else "what hosts send"
            self._hops.append(Hop(gateway_id=gateway.id, where=gateway.name, decision="dropped", by="forwarding is off"))
            return _Ended(End.LOST, f"{gateway.name} does not forward {came}", Cause.FORWARDING)
        return None

    def _follow(
        self, gateway: Gateway | None, flow: Flow, decision: Decision, where: str = ""
    ) -> tuple[Gateway | None, Flow, _Ended | None]:
        """Do what was decided at a gateway, or by a host's own table: return the next gateway, or how it ends."""
        where = where or (gateway.name if gateway else "")
        if decision.kind not in (DecisionKind.DROP, DecisionKind.HOLD, DecisionKind.ROUTER) and gateway:
            refused = self._not_transitive(gateway, decision)
            if refused:
                return None, flow, self._drop(gateway, where, refused, Cause.PEERING, decision.tunnel)
            goes_out = decision.kind in (DecisionKind.TUNNEL, DecisionKind.UPLINK)
            looks = None if self._own else direction(self._came is not None, goes_out)
            passes, filtered = judge(self.tables.of(gateway), flow, looks, self._seen_begin())
            if not passes:
                cause = Cause.STATE if self.connection.answering else Cause.FILTER
                return None, flow, self._drop(gateway, where, filtered, cause, decision.tunnel)
        else:
            filtered = ""
        if decision.dscp is not None:
            flow = replace(flow, dscp=decision.dscp)
        at = _HopAt(
            gateway_id=gateway.id if gateway else "",
            where=where,
            filtered=filtered,
            marked=dscp_name(decision.dscp) if decision.dscp is not None else "",
            stateless=gateway is not None and not gateway.keeps_state,
        )
        if decision.tunnel and decision.side:
            return self._through(at, decision.by, flow, decision.tunnel, decision.side)
        if gateway:
            flow = self._translator.leaving(flow)
        self._left = flow.source, flow.destination
        if decision.kind is DecisionKind.ROUTER:
            self._hops.append(at.hop(f"to {_name(decision)}", decision.by))
            self._came = None
            return decision.gateway, flow, None
        kept = decision.network and self._kept_by_cloud(decision.network, flow, PacketDirection.IN, at)
        if kept:
            return None, flow, kept
        unprotected = decision.kind is DecisionKind.UPLINK and self._meant_for_inside(flow.destination)
        words, ended = _ends(where, decision, unprotected, gateway is None)
        if decision.network:
            self._reached = decision.network
        self._hops.append(at.hop(words, decision.by, uplink_id=decision.uplink.id if decision.uplink else None))
        return None, flow, ended

    def _seen_begin(self) -> bool | None:
        """Whether the gateway at hand knows the connection that is answered, by its addresses; None where it begins now."""
        return self._translator.passage is not None if self.connection.answering else None

    def _drop(self, gateway: Gateway, where: str, why: str, cause: Cause, tunnel: Tunnel | None = None) -> _Ended:
        self._hops.append(Hop(gateway_id=gateway.id, where=where, decision="dropped", by=why))
        return _Ended(End.LOST, f"at {where} {why}", cause, tunnel.id if tunnel else None)

    def _kept_by_cloud(self, network: Network, flow: Flow, way: PacketDirection, at: _HopAt) -> _Ended | None:
        """Return how it ends where a cloud's rules don't let it into or out of a network; None where they do."""
        refusal = cloud_refusal(self.tables, network, flow, way, answers=self.connection.answering)
        if not refusal:
            return None
        self._hops.append(at.hop("dropped", refusal))
        return _Ended(End.LOST, refusal, Cause.CLOUD_RULE, network_id=network.id)

    def _not_transitive(self, gateway: Gateway, decision: Decision) -> str:
        """Return why what a peering carries doesn't go on; empty where no peering plays a part."""
        goes_out = decision.kind in (DecisionKind.TUNNEL, DecisionKind.UPLINK)
        for peering, came in ((self._came, True), (decision.tunnel, False)):
            if peering and goes_out and self._came and not peering.left.technology.traits.transitive:
                site = self.tables.design.site_by_id[gateway.site_id].name
                what = f"what comes by {peering.name} reaches" if came else f"{peering.name} takes only what begins in"
                return f"{what} {site}'s own networks alone: a peering is not transitive"
        return ""

    def _meant_for_inside(self, destination: Address) -> bool:
        """Whether a destination is the organisation's: of a network or supernet, or of space that is not public."""
        if destination in self.tables.outside_addresses:
            return False
        design = self.tables.design
        held = any(True for _ in design.network_map.holding(destination)) or any(
            supernet.holds(destination) for supernet in design.supernets
        )
        return held or not is_others(Prefix.of_address(destination))

    def _through(self, at: _HopAt, by: str, flow: Flow, tunnel: Tunnel, side: Side) -> tuple[Gateway | None, Flow, _Ended | None]:
        design = self.tables.design
        gateways = [design.gateway_by_id[end.gateway_id] for end in (tunnel.end(side), tunnel.end(side.other))]
        entering = self._translator.into_tunnel(tunnel.id, flow)
        self._left = entering.source, entering.destination
        refusal = refused(self.tables, tunnel, side, entering)
        if refusal:
            return None, flow, self._drop(gateways[0], at.where, refusal, Cause.SELECTORS, tunnel)
        if self._own and flow.destination == self.tables.design.peer_outside(tunnel, side):
            words = f"what carries {tunnel.name} would go into {tunnel.name}"
            return None, flow, self._drop(gateways[0], at.where, words, Cause.CARRIER, tunnel)
        unknown = self.conditions.unknown.get(tunnel.id)
        mtu = self.tables.inner_mtu(tunnel)
        self._mtus += [mtu] if mtu else []
        self._came = tunnel
        self._hops.append(
            at.hop(
                f"into {tunnel.name}",
                by,
                tunnel_id=tunnel.id,
                translated=_translation_words(flow, self._beyond(gateways[1], tunnel, entering)),
                inner_mtu=min(self._mtus, default=None),
            )
        )
        if unknown:
            reason = f"whether {tunnel.name} comes up is not known yet: {unknown}"
            return None, entering, _Ended(End.UNKNOWN, reason, Cause.NOT_KNOWN, tunnel.id)
        return gateways[1], entering, None

    def _beyond(self, gateway: Gateway, tunnel: Tunnel, flow: Flow) -> Flow:
        """Return what enters a tunnel as the far end is to route it, to be shown."""
        translations = self.tables.of(gateway).translations
        there = translator(translations, gateway.keeps_state, gateway.id, flow, self.connection)
        return there.leaving(there.arrived(there.from_tunnel(tunnel.id, flow)))


def refused(tables: Tables, tunnel: Tunnel, side: Side, flow: Flow) -> str:
    """Return why the networks of an end don't let a flow in from a side; empty when both do, or name none yet.

    Both ends check addresses, protocol and ports (RFC 4301 section 5), whether routes lead into the tunnel or its networks do.
    """
    end, far = tunnel.facing(side)
    source, destination = flow.from_selector, flow.selector
    for at, sources, destinations in (
        (end, end.local_networks, end.remote_networks),
        (far, far.remote_networks, far.local_networks),
    ):
        for named, wanted in ((sources, source), (destinations, destination)):
            if named and not any(about(selector, wanted) for selector in named):
                where = tables.design.site_of(at).name
                return f"the networks of {tunnel.name} at {where} don't name {_single(wanted)}"
    return ""


def _single(wanted: Selector) -> str:
    """Write one address with protocol and port."""
    text = str(wanted)
    return text.replace(f"/{wanted.family.bits}", "", 1)


def _name(decision: Decision) -> str:
    return decision.gateway.name if decision.gateway else ""


def _ends(where: str, decision: Decision, unprotected: bool, at_host: bool) -> tuple[str, _Ended]:
    if decision.kind is DecisionKind.DELIVER and decision.network:
        return f"delivered into {decision.network.name}", _Ended(End.ARRIVES)
    if decision.kind is DecisionKind.UPLINK and decision.uplink:
        reason = f"{where} sends it out by {decision.uplink.name}: {decision.by}"
        return f"out by {decision.uplink.name}", _Ended(End.UNPROTECTED if unprotected else End.INTERNET, reason, Cause.UPLINK)
    if decision.kind is DecisionKind.NEIGHBOUR:
        cause = decision.cause or Cause.NEIGHBOUR
        reason = f"at {where} {decision.by}" if at_host else f"{where} hands it on by {decision.by}"
        return "handed on", _Ended(End.UNKNOWN, reason, cause)
    reason = f"at {where} {decision.by}"
    if decision.kind is DecisionKind.HOLD:
        return "held back", _Ended(End.HELD, reason, Cause.RULE, rule_id=decision.rule_id)
    cause = decision.cause or (Cause.NO_ROUTER if at_host else Cause.NO_ROUTE)
    return "dropped", _Ended(End.LOST, reason, cause, decision.tunnel.id if decision.tunnel else None)


def _translation_words(before: Flow, after: Flow) -> str:
    changed = [
        f"{what} {old} becomes {new}"
        for what, old, new in (("source", before.source, after.source), ("destination", before.destination, after.destination))
        if old != new
    ]
    return "; ".join(changed)
