"""A dialled-in tunnel as a tunnel: a device at a place, and the gateway, in a design made for the question."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Selector
from pontifex.core.kinds import (
    ANY_PEER,
    AddressKind,
    DialInEnd,
    Gateway,
    GatewayKind,
    Mode,
    Profile,
    Role,
    Site,
    SiteKind,
    Tunnel,
    TunnelEnd,
    Uplink,
)
from pontifex.core.matching import GatewayTunnels, Neighbours, StageState, TunnelEnds, compare, forecast
from pontifex.core.matching.row import Row, Stage
from pontifex.core.model import Design
from pontifex.core.model.ids import fresh_id
from pontifex.core.people.place import DevicePlace
from pontifex.core.routing.split.split import Split, route_list

MOST_NETWORKS: Final = 64  # of a split that a comparison names one by one
_OWN_FIELDS: Final = frozenset(DialInEnd.model_fields)
_PLACED: Final = frozenset({"role", "peer_address", "uplink_id", "local_networks", "remote_networks", "enabled"})


@dataclass(frozen=True, slots=True)
class DialledIn:
    """A design with a device at a place, and the tunnel that it dials."""

    without: Design  # as it is without the device
    design: Design
    tunnel: Tunnel

    @property
    def together(self) -> GatewayTunnels:
        """It, and the tunnels of its gateway."""
        return GatewayTunnels.of(self.without).replaced(self.design, (self.tunnel.id,))

    @property
    def beside(self) -> Neighbours:
        """What the tunnels of its gateway have in common with it."""
        return self.together.neighbours(self.tunnel)

    def rows(self, today: date, beside: Neighbours) -> tuple[Row, ...]:
        """Compare both ends; what each person and each device has of their own is not compared."""
        ends = TunnelEnds(self.design, self.tunnel, today)
        found = compare(ends, beside)
        return tuple(row for row in found if {end.field for end in row.fields} <= _OWN_FIELDS | _PLACED)


def dialled_in(design: Design, profile: Profile, place: DevicePlace) -> DialledIn:
    """Return a design with a device of a profile at a place, and its tunnel."""
    ids: dict[str, str] = {
        kind: fresh_id(f"{profile.id} device", taken)
        for kind, taken in (
            ("site", design.site_by_id),
            ("gateway", design.gateway_by_id),
            ("uplink", design.uplink_by_id),
            ("tunnel", design.tunnel_by_id),
        )
    }
    site = Site(id=ids["site"], name=f"a device {place.title}", kind=SiteKind.HOME)
    device = Gateway(id=ids["gateway"], site_id=site.id, name=f"a device {place.title}", kind=GatewayKind.ROUTER)
    uplink = Uplink(
        id=ids["uplink"],
        gateway_id=device.id,
        name="its network there",
        address_kind=AddressKind.BEHIND_NAT,
        inbound_ike=False,
        inbound_tcp=False,
        only_tcp_out=place.only_tcp_out,
    )
    left, right = _ends(design, profile, device, uplink)
    tunnel = Tunnel(id=ids["tunnel"], name=profile.name, left=left, right=right)
    made = design.changed(
        sites=(*design.sites, site),
        gateways=(*design.gateways, device),
        uplinks=(*design.uplinks, uplink),
        tunnels=(*design.tunnels, tunnel),
    )
    return DialledIn(design, made, tunnel)


def _ends(design: Design, profile: Profile, device: Gateway, uplink: Uplink) -> tuple[TunnelEnd, TunnelEnd]:
    """Both ends: what is derived from the profile as a whole, and what each is set to."""
    pool = design.network_by_id.get(profile.pool_id or "")
    inside = (Selector.of(pool.prefix),) if pool else ()
    routes = route_list(Split.of(profile, pool.prefix if pool else None))
    through = tuple(Selector.of(prefix) for prefix in routes.prefixes[:MOST_NETWORKS])
    far = dialled_uplink(design, profile)
    mine = TunnelEnd(
        gateway_id=device.id,
        uplink_id=uplink.id,
        role=Role.CALL,
        peer_address=profile.servers[0] if profile.servers else None,
        local_networks=inside,
        remote_networks=through,
        mode=Mode.POLICY,
    )
    theirs = TunnelEnd(
        gateway_id=profile.gateway_id,
        uplink_id=far.id if far else None,
        role=Role.WAIT,
        peer_address=ANY_PEER,
        local_networks=through,
        remote_networks=inside,
        mode=Mode.POLICY,
    )
    return mine.with_valid(profile.device_end.by_field()), theirs.with_valid(profile.gateway_end.by_field())


def dialled_uplink(design: Design, profile: Profile) -> Uplink | None:
    """Return the uplink of the gateway that the first server names, or else the one that is used first."""
    own = sorted(
        (candidate for candidate in design.uplinks if candidate.gateway_id == profile.gateway_id),
        key=lambda candidate: (candidate.preference, candidate.id),
    )
    for server in profile.servers[:1]:
        for uplink in own:
            if server in (uplink.dns_name, str(uplink.address)):
                return uplink
    return own[0] if own else None


def profile_with(profile: Profile, before: Tunnel, after: Tunnel) -> Profile | None:
    """Return a profile whose ends are as a changed tunnel has them; None where what changed is nothing that a profile says."""
    for end, changed in ((before.left, after.left), (before.right, after.right)):
        if any(getattr(end, name) != getattr(changed, name) for name in TunnelEnd.model_fields.keys() - _OWN_FIELDS):
            return None
    return profile.changed(device_end=_own(after.left), gateway_end=_own(after.right))


def _own(end: TunnelEnd) -> DialInEnd:
    return DialInEnd.from_valid({name: getattr(end, name) for name in DialInEnd.model_fields})


@dataclass(frozen=True, slots=True, kw_only=True)
class DialOutcome:
    """How far a device's call gets from a place."""

    state: Annotated[StageState, Field(title="State")]
    sentence: Annotated[str, Field(title="Sentence", examples=["Stops at Reach: only TCP 443 gets out."])]
    stopped_at: Annotated[Stage | None, Field(title="Stage at which it stops")]

    @property
    def comes_up(self) -> bool:
        """Whether the tunnel comes up, as far as that is known."""
        return self.state is not StageState.FAILS


def dial_outcome(dialled: DialledIn, today: date) -> DialOutcome:
    """Say how far a call gets."""
    foretold = forecast(dialled.tunnel, dialled.rows(today, dialled.beside))
    stopped = next((stage.stage for stage in foretold.stages if stage.state is StageState.FAILS), None)
    return DialOutcome(state=foretold.state, sentence=str(foretold.sentence), stopped_at=stopped)
