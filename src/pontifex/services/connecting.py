"""Use cases about many sites at once: bringing them in, connecting them, and the standards that their tunnels follow."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Family, Prefix
from pontifex.core.connecting import Connect, ConnectPlan, plan_connections, usual_standard
from pontifex.core.connecting.proposed import ProposedValue, proposed_values
from pontifex.core.connecting.standards import (
    Departure,
    departures_of_followers,
    followers,
    following,
    restandardised,
    standard_of,
)
from pontifex.core.errors import NotAccepted, NotFound
from pontifex.core.kinds import Standard, Tunnel
from pontifex.core.matching import StageState
from pontifex.core.model import Design, Operation, apply_operations, put
from pontifex.core.space import Room
from pontifex.core.space.room import NOBODY
from pontifex.core.starting import NextStep, SitesPlan, StartText, another_like, next_steps, plan_sites
from pontifex.services.analyses import AnalysisService, TunnelNotFound
from pontifex.services.kept import KeptDesigns

_INNER_LENGTH: Final = 22  # of the block that inner addresses are offered from: room for 512 tunnels


class StandardNotFound(NotFound):
    """The design has no standard of this id."""

    title = "No such standard"


class NothingToAdd(NotAccepted):
    """What was asked for comes down to nothing."""

    title = "Nothing to add"


@dataclass(frozen=True, slots=True)
class Addition:
    """A change that adds many things at once, as a worker plans it."""

    note: str
    operations: tuple[Operation, ...]
    keys: int = 0  # how many are to be generated in the places of their stand-ins


@dataclass(frozen=True, slots=True, kw_only=True)
class OfferedStandard:
    """A standard to connect by."""

    standard: Standard
    says: Annotated[str, Field(title="What it sets")]
    is_new: Annotated[bool, Field(title="New", description="Of current practice, and not in the design yet.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class ConnectOffer:
    """What connecting begins with."""

    standards: Annotated[tuple[OfferedStandard, ...], Field(title="Standards", description="Of the design, then a new one.")]
    inner_prefix: Annotated[Prefix | None, Field(title="Free block for inner addresses")]


@dataclass(frozen=True, slots=True, kw_only=True)
class Outlook:
    """How many tunnels would be forecast how."""

    state: StageState
    tunnels: Annotated[int, Field(title="Tunnels")]


@dataclass(frozen=True, slots=True, kw_only=True)
class ConnectPreview:
    """What connecting sites comes down to, and what would be foretold of it."""

    plan: ConnectPlan
    outlook: tuple[Outlook, ...]
    findings: Annotated[int, Field(title="Findings that it would bring")]


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangedForecast:
    """A tunnel that a standard changes."""

    tunnel: Annotated[str, Field(title="Name of the tunnel")]
    before: StageState
    after: StageState
    says: Annotated[str, Field(title="What is foretold then")]


@dataclass(frozen=True, slots=True, kw_only=True)
class StandardEffect:
    """What a standard, new or changed, does to tunnels, and what becomes of each forecast."""

    operations: Annotated[tuple[Operation, ...], Field(title="The change")]
    tunnels: tuple[ChangedForecast, ...]
    departures: Annotated[tuple[Departure, ...], Field(title="Departures", description="They stay as somebody decided.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class StandardInUse:
    """A standard with the tunnels that follow it."""

    standard: Standard
    says: Annotated[str, Field(title="What it sets")]
    followers: Annotated[tuple[str, ...], Field(title="Ids of tunnels that follow it")]
    departures: tuple[Departure, ...]


class SiteNotFound(NotFound):
    """The design has no site of this id."""

    title = "No such site"


@dataclass(frozen=True, slots=True, kw_only=True)
class SiteLineOffer:
    """A line that would add a site."""

    line: Annotated[str, Field(title="Line", examples=["Ostvik Terminal 2: 10.67.0.0/24 ticketing, dynamic"])]


class ConnectingService:
    """All use cases about many sites at once that only look. What writes goes through the designs' service."""

    def __init__(self, kept: KeptDesigns, analyses: AnalysisService) -> None:
        self._kept, self._analyses = kept, analyses

    def adding(self, design_id: str, start: StartText) -> Addition:
        """Return the change that adds the sites of all lines that can be taken. Raise NothingToAdd where none can."""
        plan, operations = plan_sites(self._kept.get(design_id), start)
        if not operations:
            raise NothingToAdd("no line of it adds anything")
        return Addition(f"Add {_counted(plan.sites, 'site')} and {_counted(plan.networks, 'network')}", operations)

    def connection(self, design_id: str, request: Connect) -> Addition:
        """Return the change that connects sites, with stand-ins for its keys. Raise NotConnectable, NothingToAdd."""
        plan, operations = plan_connections(self._kept.get(design_id), request)
        if not operations:
            raise NothingToAdd("none of these sites can be joined")
        return Addition(f"Connect sites by {_counted(plan.made, 'tunnel')}", operations, plan.keys)

    def sites(self, design_id: str, start: StartText) -> SitesPlan:
        """Return what lines of sites become."""
        return plan_sites(self._kept.get(design_id), start)[0]

    def another(self, design_id: str, site_id: str) -> SiteLineOffer:
        """Return the line that would add another site like one. Raise SiteNotFound."""
        design = self._kept.get(design_id)
        if site_id not in design.site_by_id:
            raise SiteNotFound(f"there is no site '{site_id}' in this design")
        return SiteLineOffer(line=another_like(design, site_id))

    def offer(self, design_id: str) -> ConnectOffer:
        """Return the standards of a design with one of current practice behind them, and a block for inner addresses."""
        design = self._kept.get(design_id)
        offers = Room(design).offers(NOBODY, Family.V4, _INNER_LENGTH)
        known = [OfferedStandard(standard=standard, says=standard.says, is_new=False) for standard in design.standards]
        usual = usual_standard(design)
        return ConnectOffer(
            standards=(*known, OfferedStandard(standard=usual, says=usual.says, is_new=True)),
            inner_prefix=offers[0].prefix if offers else None,
        )

    def preview(self, design_id: str, request: Connect) -> ConnectPreview:
        """Return what connecting comes down to. Raise NotConnectable."""
        design = self._kept.get(design_id)
        known = self._analyses.of(design)
        plan, operations = plan_connections(design, request)
        then = self._analyses.supposed(design, apply_operations(design, operations)) if operations else known
        before = {forecast.tunnel_id for forecast in known.forecasts}
        counts = Counter(forecast.state for forecast in then.forecasts if forecast.tunnel_id not in before)
        outlook = tuple(Outlook(state=state, tunnels=counts[state]) for state in StageState if counts[state])
        return ConnectPreview(plan=plan, outlook=outlook, findings=max(0, len(then.findings) - len(known.findings)))

    def next_steps(self, design_id: str) -> tuple[NextStep, ...]:
        """Return what to do next in a design."""
        return next_steps(self._kept.get(design_id))

    def standards(self, design_id: str) -> list[StandardInUse]:
        """Return the standards of a design with the tunnels that follow them, and where these depart."""
        design = self._kept.get(design_id)
        return [
            StandardInUse(
                standard=standard,
                says=standard.says,
                followers=tuple(tunnel.id for tunnel in followers(design, standard.id)),
                departures=tuple(departures_of_followers(design, standard)),
            )
            for standard in design.standards
        ]

    def effect(self, design_id: str, standard: Standard) -> StandardEffect:
        """Return what a changed standard does to the tunnels that follow it. Raise StandardNotFound."""
        design = self._kept.get(design_id)
        if standard.id not in design.standard_by_id:
            raise StandardNotFound(f"there is no standard '{standard.id}' in this design")
        return self._effect(design, standard, restandardised(design, standard))

    def follow(self, design_id: str, standard: Standard, tunnel_ids: Sequence[str]) -> StandardEffect:
        """Return what it does to tunnels when they follow a standard, of the design or new. Raise TunnelNotFound."""
        design = self._kept.get(design_id)
        return self._effect(design, standard, following(design, (_tunnel(design, id_) for id_ in tunnel_ids), standard))

    def made_of(self, design_id: str, tunnel_id: str) -> Standard:
        """Return a standard that is made of a tunnel. Raise TunnelNotFound."""
        design = self._kept.get(design_id)
        return standard_of(design, _tunnel(design, tunnel_id))

    def proposed(self, design_id: str, tunnel_id: str) -> tuple[ProposedValue, ...]:
        """Return values that follow from the rest of the design. Raise TunnelNotFound."""
        design = self._kept.get(design_id)
        return tuple(proposed_values(design, _tunnel(design, tunnel_id)))

    def _effect(self, design: Design, standard: Standard, changed: Iterable[Tunnel]) -> StandardEffect:
        known = self._analyses.of(design)
        operations = tuple(put(item) for item in (standard, *changed))
        then = apply_operations(design, operations)
        after = {forecast.tunnel_id: forecast for forecast in self._analyses.supposed(design, then).forecasts}
        touched = {operation.object.id for operation in operations if isinstance(operation.object, Tunnel)}
        forecasts = tuple(
            ChangedForecast(
                tunnel=then.tunnel_by_id[forecast.tunnel_id].name,
                before=forecast.state,
                after=after[forecast.tunnel_id].state,
                says=str(after[forecast.tunnel_id].sentence),
            )
            for forecast in known.forecasts
            if forecast.tunnel_id in touched
        )
        return StandardEffect(operations=operations, tunnels=forecasts, departures=tuple(departures_of_followers(then, standard)))


def _tunnel(design: Design, tunnel_id: str) -> Tunnel:
    if tunnel_id not in design.tunnel_by_id:
        raise TunnelNotFound(f"there is no tunnel '{tunnel_id}' in this design")
    return design.tunnel_by_id[tunnel_id]


def _counted(count: int, what: str) -> str:
    return f"{count:,} {what}" if count == 1 else f"{count:,} {what}s"
