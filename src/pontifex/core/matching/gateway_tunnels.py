"""What one tunnel alone can't show: the tunnels of one gateway, judged together.

What two callers of one gateway share puts them in each other's way (`callers`), and so do networks (`overlapping`) and
ports that two of its tunnels have in common.
"""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Callable, Iterable, Iterator, Mapping
from copy import copy
from dataclasses import dataclass
from functools import cached_property
from itertools import islice
from typing import Final

from pontifex.core.kinds import ANY_PEER, SIDES, AuthMethod, Transport, Tunnel
from pontifex.core.matching.answering import AnsweringCalls, asked_by
from pontifex.core.matching.callers import (
    NOBODY,
    Call,
    OtherCalls,
    account_twice,
    first_that_fits,
    identity_twice,
    key_pair_twice,
    same_nat,
)
from pontifex.core.matching.overlapping import SharedNetworks, networks_beside, networks_named, networks_twice, shared_networks
from pontifex.core.matching.ports import Ports, TakenPort, waiting
from pontifex.core.matching.row import Row
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.model import Design
from pontifex.core.model.difference import unlike

_MOST_NAMED: Final = 3
_MOST_TAKEN_IN: Final = 100  # changed tunnels: with more, all is worked out anew


_RowsOf = Callable[[TunnelEnds, Call, OtherCalls], Iterator[Row]]
_Shares = tuple[tuple[_RowsOf, OtherCalls], ...]
_Meeting = tuple[_RowsOf, str, object]  # what makes rows of it, the gateway that answers, and what calls have in common there


@dataclass(frozen=True, slots=True)
class Neighbours:
    """All that other tunnels are to one: its rows about them are made from this and nothing else."""

    call: Call | None = None
    shares: _Shares = ()
    ports: tuple[TakenPort, ...] = ()
    networks: tuple[SharedNetworks, ...] = ()

    @property
    def has_others(self) -> bool:
        """Whether any other tunnel is anything to it."""
        return bool(self.shares or self.ports or self.networks)


NO_NEIGHBOURS: Final = Neighbours()


class GatewayTunnels:
    """What the tunnels of each gateway have in common, ready to be asked for each tunnel."""

    def __init__(self, design: Design) -> None:
        self.design = design
        self._calls: dict[str, Call | None] = {}
        self._by: dict[_Meeting, list[Call]] = defaultdict(list)
        self._known_answers: dict[_Meeting, AnsweringCalls] = {}
        self._known_shared: dict[str, dict[str, list[SharedNetworks]]] = {}  # by gateway, by tunnel
        self._known: dict[str, Neighbours] = {}
        for tunnel in design.tunnels:
            if _is_judged(tunnel):
                call = self._calls[tunnel.id] = _call(design, tunnel)
                if call:
                    for meeting in _meetings(design, call):
                        self._by[meeting].append(call)

    @classmethod
    def of(cls, design: Design) -> GatewayTunnels:
        """Return those of a design, made of those of another of its states where one is known."""
        known = [tunnels for tunnels in _RECENT.copy() if tunnels.design.id == design.id]
        same = next((tunnels for tunnels in known if tunnels.design is design), None)
        if same is None:
            same = known[0].after(design) if known else cls(design)
            _RECENT.appendleft(same)
        return same

    @cached_property
    def _ports(self) -> Ports:
        return Ports(self.design.tunnels, self._calls)

    @cached_property
    def _crowded(self) -> frozenset[str]:
        """The ids of tunnels whose calls share something with others."""
        shared = (calls for meeting, calls in self._by.items() if len(calls) > 1 and self._matters(meeting))
        return frozenset(call.tunnel.id for calls in shared for call in calls)

    @cached_property
    def _places(self) -> dict[str, int]:
        """Where each tunnel stands among all: a gateway tries them in their order."""
        return {tunnel.id: place for place, tunnel in enumerate(self.design.tunnels)}

    def _matters(self, meeting: _Meeting) -> bool:
        """Whether several calls that meet get in each other's way: at one place only where what fits isn't the same for all."""
        return meeting[0] is not first_that_fits or self._answers(meeting).differ

    def after(self, design: Design) -> GatewayTunnels:
        """Return the same of another state of the design; what is the very same there is taken over."""
        if self.design.networks is not design.networks:
            return GatewayTunnels(design)
        if unlike(self.design.gateway_by_id, design.gateway_by_id) & self.design.gateway_by_id.keys():
            return GatewayTunnels(design)  # a gateway may stand at another site now
        moved = unlike(self.design.uplink_by_id, design.uplink_by_id)
        changed = unlike(self.design.tunnel_by_id, design.tunnel_by_id)
        if moved:
            changed |= {
                tunnel.id for tunnel in design.tunnels if not moved.isdisjoint((tunnel.left.uplink_id, tunnel.right.uplink_id))
            }
        return self.replaced(design, changed) if len(changed) <= _MOST_TAKEN_IN else GatewayTunnels(design)

    def replaced(self, design: Design, changed: Iterable[str]) -> GatewayTunnels:
        """Return the same of a design in which some tunnels, and the uplinks that they use, are others, new, or gone."""
        made = copy(self)
        vars(made).pop("_crowded", None)
        vars(made).pop("_places", None)
        made.design = design
        made._calls, made._by, made._known_answers = self._calls.copy(), self._by.copy(), self._known_answers.copy()
        made._known, made._known_shared = self._known.copy(), self._known_shared.copy()
        for id_ in sorted(changed, key=design.tunnel_by_id.__contains__):  # first those that are gone
            for touched in made._take_in(self.design, id_):
                made._known.pop(touched, None)
        return made

    def _take_in(self, before: Design, tunnel_id: str) -> set[str]:
        """Put a tunnel as it is now in the place of what it was; return the ids of all whose neighbours may be others now."""
        was, now = before.tunnel_by_id.get(tunnel_id), self.design.tunnel_by_id.get(tunnel_id)
        was_judged = tunnel_id in self._calls
        old, new = self._calls.pop(tunnel_id, None), None
        if now and _is_judged(now):
            new = self._calls[tunnel_id] = _call(self.design, now)
        left = set(_meetings(before, old)) if old else set()
        met = set(_meetings(self.design, new)) if new else set()
        touched = {tunnel_id}
        for meeting in left | met:
            if old and new and meeting in left and meeting in met:
                touched |= self._exchange(meeting, old, new)
            else:
                touched |= self._join(meeting, old, new if meeting in met else None)
        waited = waiting(was if was_judged else None, old), waiting(now if tunnel_id in self._calls else None, new)
        if waited[0] != waited[1] and any(self._ports.concern(tunnel) for tunnel in (was, now) if tunnel):
            del self._ports
            touched |= self._known.keys()
        if was is None or now is None or networks_named(was) != networks_named(now):
            at = {end.gateway_id for tunnel in (was, now) if tunnel for end in (tunnel.left, tunnel.right)}
            for gateway_id in at:
                self._known_shared.pop(gateway_id, None)
            touched |= {
                tunnel.id for tunnel in self.design.tunnels if tunnel.left.gateway_id in at or tunnel.right.gateway_id in at
            }
        return touched

    def _exchange(self, meeting: _Meeting, old: Call, new: Call) -> set[str]:
        """Put a call in the place of another one; return the ids of tunnels that are answered otherwise, or met another one."""
        calls = self._by[meeting] = [new if call is old else call for call in self._by[meeting]]
        if meeting[0] is not first_that_fits:
            return {call.tunnel.id for call in calls}
        if len(calls) == 1:
            self._known_answers.pop(meeting, None)
            return set()
        was = self._known_answers.get(meeting)
        if was is None:
            return {call.tunnel.id for call in calls}
        now = self._known_answers[meeting] = was.replaced(old, new)
        by_it = was.places[old.tunnel.id]
        otherwise = {asked for asked in was.offers | now.offers if was.first(asked) != now.first(asked)}
        otherwise |= {asked for asked in was.offers if was.first(asked) == by_it}
        return {call.tunnel.id for call in calls if asked_by(call) in otherwise} if otherwise else set()

    def _join(self, meeting: _Meeting, old: Call | None, new: Call | None) -> set[str]:
        """Let a call leave those that meet, and another one join them; return the ids of all that met it or meet it now."""
        self._known_answers.pop(meeting, None)
        calls = [call for call in self._by.pop(meeting, ()) if call is not old]
        if new:
            calls = sorted([*calls, new], key=lambda call: self._places[call.tunnel.id])
        if calls:
            self._by[meeting] = calls
        return {call.tunnel.id for call in calls}

    @property
    def unasked(self) -> tuple[Tunnel, ...]:
        """The tunnels that nobody has asked about since what they have in common with others may have changed."""
        return tuple(tunnel for tunnel in self.design.tunnels if tunnel.id not in self._known)

    def take_over(self, known: Mapping[str, Neighbours]) -> None:
        """Take over what somebody has asked about this very state already, by the ids of tunnels."""
        self._known.update(known)

    def neighbours(self, tunnel: Tunnel) -> Neighbours:
        """Return what other tunnels have in common with one of the design."""
        if tunnel.id not in self._known:
            shares = self._shares(tunnel) if tunnel.id in self._crowded else ()
            self._known[tunnel.id] = self._beside(tunnel, shares, networks_beside(tunnel, self._shared))
        return self._known[tunnel.id]

    def calls_beside(self, tunnel: Tunnel) -> Neighbours:
        """Return what other tunnels have in common with one, but for networks."""
        return self._beside(tunnel, self._shares(tunnel), ())

    def _shares(self, tunnel: Tunnel) -> _Shares:
        """Return the calls that a tunnel's call shares something with, each with what makes rows of them."""
        call = self._calls.get(tunnel.id)
        return tuple([(rows_of, others) for rows_of, others in self._groups(call) if others.count]) if call else ()

    def _beside(self, tunnel: Tunnel, shares: _Shares, networks: tuple[SharedNetworks, ...]) -> Neighbours:
        call = self._calls.get(tunnel.id)
        ports = tuple(self._ports.taken(self.design, tunnel, call)) if self._ports.contested else ()
        return Neighbours(call, shares, ports, networks)

    def _shared(self, gateway_id: str) -> dict[str, list[SharedNetworks]]:
        if gateway_id not in self._known_shared:
            self._known_shared[gateway_id] = shared_networks(self.design, gateway_id)
        return self._known_shared[gateway_id]

    def _groups(self, call: Call) -> Iterator[tuple[_RowsOf, OtherCalls]]:
        """Yield the calls that a call shares something with, each with what makes rows of them."""
        for meeting in _meetings(self.design, call):
            rows_of = meeting[0]
            yield rows_of, self._deciding(call, meeting) if rows_of is first_that_fits else self._others(call, self._by[meeting])

    def _deciding(self, call: Call, meeting: _Meeting) -> OtherCalls:
        """Return the tunnel that a hub takes before this one, since its proposals fit what the caller offers."""
        answers = self._answers(meeting)
        first = answers.first(asked_by(call))
        if first is None or first >= answers.places[call.tunnel.id]:
            return NOBODY
        return OtherCalls((self._by[meeting][first],), 1)

    def _answers(self, meeting: _Meeting) -> AnsweringCalls:
        if meeting not in self._known_answers:
            self._known_answers[meeting] = AnsweringCalls(self._by[meeting])
        return self._known_answers[meeting]

    def _others(self, call: Call, calls: list[Call]) -> OtherCalls:
        """Return the calls of other devices: one that calls twice knows that it does."""
        if len(calls) < 2:
            return NOBODY
        own = call.tunnel.end(call.caller).gateway_id
        others = (candidate for candidate in calls if candidate.tunnel.end(candidate.caller).gateway_id != own)
        first = tuple(islice(others, _MOST_NAMED))
        # how many there are beside is told roughly: a device that calls twice counts as two
        return OtherCalls(first, len(calls) - 1 if first else 0)


_RECENT: Final[deque[GatewayTunnels]] = deque(maxlen=4)  # the newest first: of the states that are asked about


def _is_judged(tunnel: Tunnel) -> bool:
    left, right = tunnel.left, tunnel.right
    return left.enabled and right.enabled and left.technology is right.technology


def _call(design: Design, tunnel: Tunnel) -> Call | None:
    """Return who calls whom; None where nobody does, or it isn't known."""
    for side in SIDES:
        end, answering = tunnel.facing(side)
        role = end.role
        if not role or not role.calls or end.peer_address == ANY_PEER:
            continue
        far = design.uplink_of(answering)
        over_tcp = end.technology.traits.over_tcp and Transport.TCP in (end.transport, answering.transport)
        if far and far.callable(over_tcp):
            return Call(tunnel, side)
    return None


def _meetings(design: Design, call: Call) -> Iterator[_Meeting]:
    """Yield what calls can have in common, each with what makes rows of it."""
    end, hub = call.tunnel.facing(call.caller)
    here, traits = hub.gateway_id, end.technology.traits
    if traits.esp:
        yield first_that_fits, here, (hub.uplink_id, hub.peer_address)
        identity = end.local_identity
        if identity and identity.value:
            yield identity_twice, here, identity
    if traits.by_allowed_prefixes and end.key_pair:
        yield key_pair_twice, here, end.key_pair.public
    if end.account and (traits.logs_in or end.local_auth is AuthMethod.EAP):
        yield account_twice, here, end.account.name
    uplink = design.uplink_of(end)
    if uplink and uplink.address and uplink.behind_nat:
        yield same_nat, here, uplink.address


def meets(design: Design, tunnel: Tunnel) -> tuple[object, ...]:
    """Return all by which other tunnels come across a tunnel, but for its networks and where it runs.

    That is who calls, what calls have in common, and the ports that are waited on.
    """
    call = _call(design, tunnel) if _is_judged(tunnel) else None
    return (call and call.caller, *(_meetings(design, call) if call else ()), *waiting(tunnel, call))


def neighbour_rows(ends: TunnelEnds, beside: Neighbours) -> Iterator[Row]:
    """Yield what stands between a tunnel and others of its gateways; nothing where none is in its way."""
    if beside.call and ends.technology:
        for rows_of, others in beside.shares:
            yield from rows_of(ends, beside.call, others)
    for port in beside.ports:
        yield port.row(ends)
    for shared in beside.networks:
        yield networks_twice(ends, shared)
