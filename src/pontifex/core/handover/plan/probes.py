"""The checks of a step: what is tried after it, and the answer that must come."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address, Prefix
from pontifex.core.choice import Choice
from pontifex.core.handover.plan.entry import Action, Entry
from pontifex.core.handover.plan.standing import PairKey, Standing, pair_key
from pontifex.core.kinds import ObjectType
from pontifex.core.model import Design
from pontifex.core.routing.wanted.blocks import WantedFlow, wants

PING: Final = re.compile(r"ping (?P<destination>\S+) from (?P<source>[^\s,]+)(?:, .*)?")  # what `ping_text` writes
_MOST: Final = 3  # of each sort, after a step
_MOST_PAIRS: Final = 40  # before and after


class ProbeSort(Choice):
    """What is tried."""

    TUNNEL = "tunnel"  # whether it is up, by both ends' tables of SAs
    PING = "ping"


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanProbe:
    """Something that is tried, and what must come of it."""

    sort: ProbeSort
    tries: Annotated[str, Field(title="What is tried", examples=["ping 10.64.0.10 from 10.64.32.10"])]
    expected: Annotated[bool, Field(title="It works")]

    @property
    def text(self) -> str:
        """The probe with its answer, as a person reads it."""
        answers = {ProbeSort.TUNNEL: ("up", "down"), ProbeSort.PING: ("answered", "no answer")}[self.sort]
        return f"{self.tries}: {answers[0] if self.expected else answers[1]}"


@dataclass(frozen=True, slots=True, kw_only=True)
class PairProbe:
    """A wanted pair that is tried before the first step and after the last, in the same way."""

    tries: Annotated[str, Field(title="What is tried", examples=["ping 10.64.0.10 from 10.64.32.10"])]
    before: Annotated[bool | None, Field(title="Answered before", description="Null where there is no such pair then.")]
    after: Annotated[bool | None, Field(title="Answered after", description="Null where there is no such pair then.")]


def pair_probes(states: tuple[Design, Design], standings: tuple[Standing, Standing]) -> tuple[PairProbe, ...]:
    """Return the wanted pairs that are tried before and after: those that change first, then those that must go on working."""
    tried: dict[PairKey, str] = {}
    for state in states:  # a network that is renumbered is tried at its new addresses, of which the list before says so, too
        tried |= {pair_key(want): ping_text(want) for want in wants(state)}
    first, last = (standing.pairs for standing in standings)
    found = {text: PairProbe(tries=text, before=first.get(key), after=last.get(key)) for key, text in tried.items()}
    return tuple(sorted(found.values(), key=lambda pair: (pair.before is pair.after, pair.tries))[:_MOST_PAIRS])


def probes(entry: Entry, state: Design, standing: Standing) -> tuple[PlanProbe, ...]:
    """Return what is to be tried after an entry, in the state that it leads to."""
    return tuple(_probes(entry, state, standing))


def _probes(entry: Entry, state: Design, standing: Standing) -> Iterator[PlanProbe]:
    tunnels = list(_tunnels(entry, state))[:_MOST]
    for id_ in tunnels:
        if id_ in state.tunnel_by_id:
            name = state.tunnel_by_id[id_].name
            yield PlanProbe(sort=ProbeSort.TUNNEL, tries=f"tunnel {name}", expected=standing.level(id_) > 0)
    if entry.action is Action.ENTER:
        return
    sites = set(_sites(entry, state, tunnels))
    shown: dict[PairKey, WantedFlow] = {}
    for want in wants(state):
        between = {want.source.site_id, want.destination.site_id}
        is_about = between == sites if len(sites) > 1 else bool(between & sites)
        if is_about and pair_key(want) in standing.pairs:
            shown.setdefault(pair_key(want), want)
    for key, want in list(shown.items())[:_MOST]:
        yield PlanProbe(sort=ProbeSort.PING, tries=ping_text(want), expected=standing.pairs[key])


def ping_text(want: WantedFlow) -> str:
    """Return what is typed to try a wanted flow."""
    source, destination = (_host(prefix) for prefix in (want.begin, want.end))
    port = "" if want.service.is_any else f", {want.service}"
    return f"ping {destination} from {source}{port}"


def _host(prefix: Prefix) -> str:
    last = prefix.network + (1 << (prefix.family.bits - prefix.length)) - 1
    return str(Address(prefix.family, min(prefix.network + 10, last)))


def _tunnels(entry: Entry, state: Design) -> Iterator[str]:
    kind, id_ = entry.key
    if kind is ObjectType.TUNNEL:
        yield id_
    elif kind in (ObjectType.GATEWAY, ObjectType.UPLINK):
        gateway = entry.device.id
        yield from (tunnel.id for tunnel in state.tunnels if gateway in (tunnel.left.gateway_id, tunnel.right.gateway_id))


def _sites(entry: Entry, state: Design, tunnels: list[str]) -> Iterator[str]:
    for id_ in tunnels:
        tunnel = state.tunnel_by_id.get(id_)
        if tunnel:
            yield from (state.site_of(end).id for end in (tunnel.left, tunnel.right))
    if entry.device.type is ObjectType.SITE:
        yield entry.device.id
    elif entry.device.id in state.gateway_by_id:
        yield state.gateway_by_id[entry.device.id].site_id
