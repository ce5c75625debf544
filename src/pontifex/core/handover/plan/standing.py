"""What works in a state of a design: how far each tunnel comes, and which wanted pairs are met."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import Final

import numpy as np

from pontifex.core.findings import AnalysisCache
from pontifex.core.findings.cache import Examined
from pontifex.core.findings.outlined import outline_of
from pontifex.core.kinds import Intent, ObjectType, Tunnel
from pontifex.core.matching import (
    Forecast,
    GatewayTunnels,
    Neighbours,
    StageState,
    TunnelEnds,
    alike,
    forecast,
    meets,
    telling_rows,
)
from pontifex.core.model import Design
from pontifex.core.model.references import references
from pontifex.core.routing import Conditions, Tables
from pontifex.core.routing.trace.flow import failing_of
from pontifex.core.routing.wanted.blocks import WantedFlow
from pontifex.core.routing.wanted.intents import IntentTraces

# how well a tunnel works: fully or for part of what was asked, until something later, or not as far as is known
_LEVELS: Final = {StageState.HOLDS: 2, StageState.PARTIAL: 2, StageState.FAILS_LATER: 1}

PairKey = tuple[str, str, str, str]  # ids of the intent and of both networks, and the service


@dataclass(frozen=True, slots=True)
class Standing:
    """What works in one state."""

    forecasts: Mapping[str, Forecast]
    pairs: Mapping[PairKey, bool]  # wanted, and whether all of it is met
    beside: Mapping[str, Neighbours]
    together: GatewayTunnels

    def level(self, tunnel_id: str) -> int:
        """Return how well a tunnel works; 0 for one that isn't there."""
        found = self.forecasts.get(tunnel_id)
        return _LEVELS.get(found.state, 0) if found else 0

    def after(self, change: StandingChange, state: Design) -> Standing:
        """Return the same with some tunnels judged anew."""
        together = self.together.replaced(state, (change.tunnel_id,))
        together.take_over(change.beside)
        return Standing({**self.forecasts, **change.forecasts}, self.pairs, {**self.beside, **change.beside}, together)


@dataclass(frozen=True, slots=True)
class StandingChange:
    """All that a state has otherwise than the one before it, in which fields of a tunnel were others."""

    tunnel_id: str
    forecasts: Mapping[str, Forecast]
    beside: Mapping[str, Neighbours]


@dataclass(frozen=True, slots=True)
class Promise:
    """What works before a change and after it, and so must work all the time."""

    levels: Mapping[str, int]
    pairs: frozenset[PairKey]

    @classmethod
    def of(cls, before: Standing, after: Standing) -> Promise:
        """Return what both states have."""
        levels = {id_: min(before.level(id_), after.level(id_)) for id_ in before.forecasts}
        pairs = (key for key, met in before.pairs.items() if met and after.pairs.get(key))
        return cls({id_: level for id_, level in levels.items() if level}, frozenset(pairs))

    def broken_tunnels(self, standing: Standing) -> tuple[str, ...]:
        """Return the ids of tunnels that work less than they must."""
        found = standing.forecasts
        return tuple(id_ for id_, level in self.levels.items() if id_ not in found or _LEVELS.get(found[id_].state, 0) < level)

    def broken_pairs(self, standing: Standing) -> tuple[PairKey, ...]:
        """Return the wanted pairs that aren't met."""
        return tuple(sorted(key for key in self.pairs if not standing.pairs.get(key)))


class Judge:
    """Says what works in states of one design, each made of what the last one shares with it."""

    def __init__(self, intents: tuple[Intent, ...], today: date) -> None:
        self._intents, self._today = intents, today
        self._memory = AnalysisCache()

    def known(self, state: Design) -> Design:
        """Return a state with the intents that are about what is there."""
        about = tuple(intent for intent in self._intents if _is_about(state, intent))
        return state if about == state.intents else state.changed(intents=about)

    def standing(self, state: Design) -> Standing:
        """Judge a state."""
        known = self.known(state)
        self._memory.begin(known)
        together = GatewayTunnels(known)
        beside = {tunnel.id: together.neighbours(tunnel) for tunnel in known.tunnels}
        forecasts = {tunnel.id: self._forecast(tunnel, beside[tunnel.id]) for tunnel in known.tunnels}
        given = _given(forecasts)
        pairs, _ = self._memory.outlined_part(("wanted", ""), lambda design: Examined(_pairs(design, *given)), given)
        self._memory.end()
        return Standing(forecasts, pairs, beside, together)

    def change(self, tunnel_id: str, states: tuple[Design, Design], before: Standing) -> StandingChange | None:
        """Judge a state that differs from the one before it by the fields of a tunnel alone.

        Return None where it has to be judged as a whole, since paths may follow from what was changed.
        """
        state = states[1]
        was, is_ = (design.tunnel_by_id[tunnel_id] for design in states)
        if outline_of(was) != outline_of(is_) or meets(states[0], was) != meets(state, is_):
            return None
        together = before.together.replaced(state, (tunnel_id,))
        beside = {tunnel.id: together.neighbours(tunnel) for tunnel in together.unasked}
        forecasts = {id_: self._foretold(state, state.tunnel_by_id[id_], found) for id_, found in beside.items()}
        changed = any(found.state is not before.forecasts[id_].state for id_, found in forecasts.items())
        if changed and _given({**before.forecasts, **forecasts}) != _given(before.forecasts):
            return None
        return StandingChange(tunnel_id, forecasts, beside)

    def _forecast(self, tunnel: Tunnel, beside: Neighbours) -> Forecast:
        foretold, _ = self._memory.part(
            ("tunnel", tunnel.id), lambda design: Examined(self._foretold(design, tunnel, beside)), (tunnel, beside)
        )
        return foretold

    def _foretold(self, design: Design, tunnel: Tunnel, beside: Neighbours) -> Forecast:
        ends = TunnelEnds(design, tunnel, self._today)
        return forecast(tunnel, telling_rows(ends, beside, alike(ends)))


def _given(forecasts: Mapping[str, Forecast]) -> tuple[frozenset[str], frozenset[str]]:
    """Return the tunnels that are down, and those of which that isn't known: what paths are traced under."""
    failing = failing_of(forecasts.values())
    return frozenset(failing.down), frozenset(failing.unknown)


def _is_about(state: Design, intent: Intent) -> bool:
    """Whether all that an intent names is there."""
    return all(id_ in state.by_type[type_] for _, type_, id_ in references(intent))


def _pairs(design: Design, down: frozenset[str], unknown: frozenset[str]) -> dict[PairKey, bool]:
    if not design.intents:
        return {}
    conditions = Conditions(tunnels=dict.fromkeys(down, "down"), unknown=dict.fromkeys(unknown, "not known"))
    traces = IntentTraces(Tables(design), conditions)
    found: dict[PairKey, bool] = {}
    for block in traces.blocks:
        met = traces.met(block)
        for row, column in np.argwhere(block.asked).tolist():
            key = pair_key(block.at(row, column))
            found[key] = found.get(key, True) and bool(met[row, column])
    return found


def pair_key(want: WantedFlow) -> PairKey:
    """Return what a wanted flow is known by, whatever prefixes its networks have at the moment."""
    return want.intent.id, want.source.id, want.destination.id, str(want.service)


def pair_words(design: Design, key: PairKey) -> str:
    """Return a wanted pair for a person."""
    _, source, destination, service = key
    networks = design.by_type[ObjectType.NETWORK]
    names = (str(getattr(networks.get(id_), "name", id_)) for id_ in (source, destination))
    return f"{' to '.join(names)}{'' if service in ('', 'any') else f', {service}'}"
