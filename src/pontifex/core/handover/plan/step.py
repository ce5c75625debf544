"""The steps of a plan: what is entered, and what has to follow it so that it holds."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.handover.plan.entry import Action, Device, Entry, Write
from pontifex.core.handover.plan.probes import PlanProbe
from pontifex.core.handover.plan.told import Value
from pontifex.core.kinds import Network, ObjectType, Profile, Side
from pontifex.core.matching import StageState
from pontifex.core.model import Design

_LEASED: Final = (
    "prefix",
    "gateway_address",
    "dhcp_ranges",
    "dhcp_routes",
    "dhcp_suffix",
    "resolvers",
)  # what a lease tells (RFC 2132)


@dataclass(frozen=True, slots=True, kw_only=True)
class TunnelState:
    """A tunnel after a step, where the step has changed what is said of it."""

    tunnel_id: str
    name: str
    state: Annotated[StageState | None, Field(title="State", description="Null where it isn't there any more.")]
    sentence: Annotated[str, Field(title="Forecast")]


@dataclass(frozen=True, slots=True, kw_only=True)
class SettingChange:
    """A setting of a device before a step and after it; null where it isn't there."""

    path: str
    before: str | None
    after: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """One step: who does what where, what it must show, and the way back."""

    number: Annotated[int, Field(title="Step", description="From 1.")]
    device: Device
    action: Annotated[Action | None, Field(title="What sort of step", description="Null where the device saves what it runs.")]
    about: Annotated[str, Field(title="About", description="Type and id of the object, such as tunnel/harbour-tarn.")]
    side: Side | None
    does: Annotated[str, Field(title="What is done", examples=["Harbour–Tarn: add the new beside the old"])]
    values: tuple[Value, ...]
    writes: Annotated[tuple[Write, ...], Field(exclude=True)] = ()
    settings: Annotated[tuple[SettingChange, ...], Field(title="Settings of the device that change")]
    expected: Annotated[tuple[TunnelState, ...], Field(title="Tunnels of which the forecast changes")]
    checks: Annotated[tuple[PlanProbe, ...], Field(title="Checks, each with its answer")]
    undo: Annotated[str, Field(title="Way back")]
    down: Annotated[tuple[str, ...], Field(title="What doesn't work after it, though it must")]
    worked_over: Annotated[
        str, Field(title="Tunnel to the device", description="Whoever works over it may lose the connection at this step.")
    ]
    touches_old: Annotated[bool, Field(title="Something that was there before is changed or goes")]


def _following(number: int, device: Device, action: Action | None, about: str, does: str, undo: str) -> Step:
    """Return a step that enters nothing, and changes nothing of what works."""
    return Step(
        number=number,
        device=device,
        action=action,
        about=about,
        side=None,
        does=does,
        values=(),
        settings=(),
        expected=(),
        checks=(),
        undo=undo,
        down=(),
        worked_over="",
        touches_old=False,
    )


def save_step(number: int, device: Device) -> Step:
    """Return the step by which a device keeps what it runs."""
    does = "Save what runs, so that a restart keeps it"
    return _following(number, device, None, f"gateway/{device.id}", does, "save again what runs after the way back")


def _gateway(design: Design, gateway_id: str) -> Device:
    gateway = design.gateway_by_id[gateway_id]
    organisation = design.site_by_id[gateway.site_id].organisation
    return Device(type=ObjectType.GATEWAY, id=gateway.id, name=gateway.name, organisation=organisation)


def renewal_steps(number: int, entry: Entry, states: tuple[Design, Design], profiles: Iterable[Profile]) -> Iterator[Step]:
    """Yield the step by which hosts hear of what their leases tell otherwise: until then they go by the old ones.

    A client keeps what its lease says until it renews it (RFC 2131 section 4.4.5).
    """
    before, after = states
    kind, id_ = entry.key
    was, is_ = before.by_type[kind].get(id_), after.by_type[kind].get(id_)
    if not isinstance(was, Network) or not isinstance(is_, Network) or not was.dhcp_ranges:
        return
    if all(getattr(was, field) == getattr(is_, field) for field in _LEASED):
        return
    for profile in (candidate for candidate in profiles if candidate.pool_id == id_ and candidate.dhcp_block):
        gateway = _gateway(after, profile.gateway_id)
        does = f"Give back the leases that it took for {profile.name}: restart what ends the tunnels, or delete them there"
        yield _following(number, gateway, Action.RENEW, f"network/{id_}", does, "give them back once more")
        number += 1
    site = after.site_by_id[is_.site_id]
    device = Device(type=ObjectType.SITE, id=site.id, name=site.name, organisation=site.organisation)
    ends = f"; the last old one ends {was.lease_time_s} s after the step before" if was.lease_time_s else ""
    does = f"Let the hosts of {is_.name} renew their leases{ends}"
    yield _following(number, device, Action.RENEW, f"network/{id_}", does, "let them renew once more")
