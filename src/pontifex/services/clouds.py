"""Questions about the clouds of a design: what is intended, what is held, and the steps between. Nothing here writes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated

from pydantic import Field

from pontifex.core.clouds.intended import intended_networks, intended_peerings
from pontifex.core.clouds.peering_state import PeeringState
from pontifex.core.clouds.reachability import CloudReach, CloudStates, cloud_reach
from pontifex.core.clouds.resources import NetworkState
from pontifex.core.clouds.steps import CloudStep, Readings, cloud_steps, held_peering
from pontifex.core.clouds.take_over import take_over
from pontifex.core.matching import Remedy
from pontifex.core.model import Design
from pontifex.services.analyses import AnalysisService
from pontifex.services.kept import KeptDesigns


@dataclass(frozen=True, slots=True, kw_only=True)
class CloudNetworkShown:
    """A cloud network as it is intended, and as it is held."""

    id: str
    name: str
    site_id: str
    intended: NetworkState
    held: Annotated[NetworkState | None, Field(title="As it was read", description="Null where it wasn't, or isn't there.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class CloudPeeringShown:
    """A peering of the design, how far it has come, and what the two clouds reach of each other."""

    tunnel_id: str
    requester_id: str
    accepter_id: str
    state: PeeringState | None
    since: datetime | None
    until: Annotated[datetime | None, Field(title="When the request ends, if nobody answers")]
    reach: tuple[CloudReach, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class CloudsShown:
    """All clouds of a design."""

    revision: int
    networks: tuple[CloudNetworkShown, ...]
    peerings: tuple[CloudPeeringShown, ...]
    steps: tuple[CloudStep, ...]
    take_over: Annotated[tuple[Remedy, ...], Field(title="What the design can take over", description="As changes to it.")]


class CloudService:
    """All questions about clouds."""

    def __init__(self, designs: KeptDesigns, analyses: AnalysisService) -> None:
        self._designs, self._analyses = designs, analyses

    def shown(self, design_id: str, readings: Readings) -> CloudsShown:
        """Return the clouds of a design, held against what was read of their accounts."""
        design = self._designs.get(design_id)
        held = {network.id: network for state in readings.values() for network in state.networks}
        intended = intended_networks(design)
        return CloudsShown(
            revision=design.revision,
            networks=tuple(
                CloudNetworkShown(
                    id=cloud.id,
                    name=cloud.name,
                    site_id=cloud.site_id,
                    intended=network,
                    held=held.get(cloud.id),
                )
                for cloud, network in zip(design.cloud_networks, intended, strict=True)
            ),
            peerings=tuple(self._peerings(design, readings)),
            steps=cloud_steps(design, readings, intended),
            take_over=tuple(take_over(design, readings)),
        )

    def _peerings(self, design: Design, readings: Readings) -> Iterator[CloudPeeringShown]:
        intended = tuple(intended_peerings(design))
        if not intended:
            return
        states = CloudStates.of(design, readings, self._analyses.today)
        for peering in intended:
            found = held_peering(peering.networks, readings)
            yield CloudPeeringShown(
                tunnel_id=peering.tunnel.id,
                requester_id=peering.requester.id,
                accepter_id=peering.accepter.id,
                state=found.state if found else None,
                since=found.since if found else None,
                until=found.until if found else None,
                reach=tuple(cloud_reach(states, peering)),
            )
