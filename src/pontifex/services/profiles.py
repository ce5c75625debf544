"""Use cases about profiles: both ends compared, all flows at once, and one device followed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from pontifex.core.addressing import AddressError
from pontifex.core.kinds import Platform, PlatformFamily, Profile, Tunnel
from pontifex.core.matching import Forecast, Match, TunnelEnds, forecast
from pontifex.core.matching.match import shown_match
from pontifex.core.model import Design
from pontifex.core.people import DeviceTrace, FlowTable, all_flows, device_trace, dialled_in, place_named
from pontifex.core.people.abilities import usual_platform
from pontifex.core.people.device_trace import read_destination
from pontifex.core.routing import Tables
from pontifex.services.analyses import AnalysisService
from pontifex.services.kept import KeptDesigns
from pontifex.services.path_questions import NotInDesign, UnreadableQuestion, read_service, state_at
from pontifex.services.rollouts import profile_of


@dataclass(frozen=True, slots=True, kw_only=True)
class ProfileMatch:
    """Both ends of the tunnel of a profile, with a device at home at its left end."""

    revision: int
    tunnel: Annotated[Tunnel, Field(title="As a tunnel", description="In no design: its left end is the device's.")]
    match: Match
    forecast: Forecast


class ProfileService:
    """All questions about profiles. Nothing here writes."""

    def __init__(self, designs: KeptDesigns, analyses: AnalysisService) -> None:
        self._designs, self._analyses = designs, analyses

    def _profile(self, design_id: str, profile_id: str) -> tuple[Design, Profile]:
        design = self._designs.get(design_id)
        return design, profile_of(design, profile_id)

    def match(self, design_id: str, profile_id: str) -> ProfileMatch:
        """Return both ends side by side. Raise ProfileNotFound."""
        design, profile = self._profile(design_id, profile_id)
        dialled = dialled_in(design, profile, place_named(design, profile, "home"))
        today = self._analyses.today
        ends = TunnelEnds(dialled.design, dialled.tunnel, today)
        rows = dialled.rows(today, dialled.beside)
        return ProfileMatch(
            revision=design.revision,
            tunnel=dialled.tunnel,
            match=shown_match(ends, rows),
            forecast=forecast(dialled.tunnel, rows),
        )

    def flows(self, design_id: str, profile_id: str) -> FlowTable:
        """Return where devices send what they may want to send. Raise ProfileNotFound."""
        design, profile = self._profile(design_id, profile_id)
        return all_flows(Tables(design), profile, self._analyses.today)

    def device_trace(
        self,
        design_id: str,
        profile_id: str,
        at: str,
        family: PlatformFamily,
        platform_id: str,
        to: str,
        service: str,
        application: str,
        leased_at: int | None = None,
    ) -> DeviceTrace:
        """Follow a device of a platform, or of a family, that holds a lease of a revision.

        Raise ProfileNotFound, UnreadableQuestion, NotInDesign.
        """
        design, profile = self._profile(design_id, profile_id)
        platform = _platform(design, platform_id) if platform_id else usual_platform(family)
        try:
            place = place_named(design, profile, at)
        except AddressError as error:
            raise UnreadableQuestion("at", error.reason) from None
        try:
            destination = read_destination(design, to, read_service(service), application)
        except AddressError as error:
            raise UnreadableQuestion("to", error.reason) from None
        then = design if leased_at is None else state_at(self._designs, design_id, leased_at)
        lease = then.network_by_id.get(profile.pool_id or "")
        return device_trace(Tables(design), profile, place, platform, destination, self._analyses.today, lease)


def _platform(design: Design, platform_id: str) -> Platform:
    found = next((platform for platform in design.platforms if platform.id == platform_id), None)
    if found is None:
        raise NotInDesign(f"there is no platform '{platform_id}' in this design")
    return found
