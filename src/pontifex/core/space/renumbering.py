"""Renumbering a network, as work: what changes, in which order, what each client must do, and when a connection is lost.

Old and new stand side by side until nothing uses the old any more, so that every step but the last can be taken back
without a loss (the order follows RFC 4192, which says so for IPv6 and holds for IPv4).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Prefix
from pontifex.core.kinds import SIDES, Assignment, Host, Network, Profile, Route, Rule, Side, Translation, Tunnel
from pontifex.core.model import Design, DesignObject, FieldChange, Move, RenumberNetwork, apply_operations, difference

SHORT_LEASE_S: Final = 300
_BESIDE: Final = "Put the new prefix beside the old one"
_NEAR_END: Final = "Let this end carry both"
_CARRYING_BOTH: Final = frozenset({_BESIDE, _NEAR_END})
_MOST_FIELDS: Final = 500


@dataclass(frozen=True, slots=True, kw_only=True)
class RenumberStep:
    """One step of the work."""

    title: Annotated[str, Field(title="What", examples=["Shorten the leases"])]
    where: Annotated[str, Field(title="Where", examples=["Ostvik router"])]
    details: Annotated[tuple[str, ...], Field(title="In detail")]
    loses: Annotated[str, Field(title="What is lost at this moment", description="Empty when every connection stays.")] = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ClientWork:
    """What a client must do."""

    who: Annotated[str, Field(title="Who", examples=["ticket printer"])]
    what: Annotated[str, Field(title="What", examples=["renews its lease: 10.65.0.40 becomes 10.72.0.40"])]
    by_hand: Annotated[bool, Field(title="Somebody must do it there")]


@dataclass(frozen=True, slots=True, kw_only=True)
class RenumberPlan:
    """All that moving a network to another prefix takes."""

    network_id: str
    before: Annotated[Prefix, Field(title="From")]
    after: Annotated[Prefix, Field(title="To")]
    operation: Annotated[RenumberNetwork, Field(title="The change", description="Applied as one, undone as one.")]
    changes: Annotated[tuple[FieldChange, ...], Field(title="What changes in the design")]
    steps: Annotated[tuple[RenumberStep, ...], Field(title="Steps in their order")]
    clients: Annotated[tuple[ClientWork, ...], Field(title="What each client must do")]
    moment: Annotated[str, Field(title="When the connection is lost that one works over")]


def renumber_plan(design: Design, network: Network, target: Prefix, working_from: str = "") -> RenumberPlan:
    """Return the plan of a move. `working_from` is the id of the network where the person sits, empty when elsewhere.

    Raise ChangeRefused where the move can't be.
    """
    operation = RenumberNetwork(id=network.id, prefix=target)
    after = apply_operations(design, [operation])
    move = Move(design, network, target)
    moved = [item for item in move.objects() if not isinstance(item, Network)]
    work = _Work(design, network, after.network_by_id[network.id], moved)
    steps = tuple(work.steps(working_from))
    return RenumberPlan(
        network_id=network.id,
        before=network.prefix,
        after=target,
        operation=operation,
        changes=difference(design, after).fields(_MOST_FIELDS),
        steps=steps,
        clients=tuple(work.clients()),
        moment=work.moment(working_from, steps),
    )


@dataclass(frozen=True)
class _Work:
    design: Design
    old: Network
    new: Network
    moved: Sequence[DesignObject]

    def steps(self, working_from: str) -> Iterator[RenumberStep]:
        here, far, removals = self.gateway(), list(self._far_side()), list(self._removals())
        if self.old.dhcp_ranges:
            yield RenumberStep(title="Shorten the leases", where=here, details=tuple(self._leases()))
        yield RenumberStep(title=_BESIDE, where=here, details=tuple(self._beside()))
        if far:
            yield RenumberStep(title="Let the far ends know both", where="each far end", details=tuple(far))
        if near := list(self._near_side()):
            yield RenumberStep(title=_NEAR_END, where=here, details=tuple(near), loses=self._rebuilt(working_from))
        if self.old.dhcp_ranges or any(host.assignment is Assignment.RESERVED for host in self._hosts()):
            loses = "your own address changes with your lease" if working_from == self.old.id else ""
            yield RenumberStep(title="Hand out the new addresses", where="DHCP server", details=tuple(self._dhcp()), loses=loses)
        if fixed := [host for host in self._hosts() if host.assignment is Assignment.STATIC]:
            loses = "your own host's, if it has a static address" if working_from == self.old.id else ""
            details = tuple(f"{host.name}: {self._was(host)} becomes {host.address}, {self._router()}" for host in fixed)
            yield RenumberStep(title="Set the hosts with static addresses", where=self.site(), details=details, loses=loses)
        if names := [f"{host.dns_name}: {self._was(host)} becomes {host.address}" for host in self._hosts() if host.dns_name]:
            yield RenumberStep(
                title="Change the names", where="name servers", details=(*names, "and the reverse names of both prefixes")
            )
        quiet = (f"nothing sends from {self.old.prefix} any more; every host answers at its new address",)
        yield RenumberStep(title="Check that the old prefix is quiet", where=here, details=quiet)
        address = self.old.gateway_address
        loses = f"whoever is connected to {address}" if address else f"whoever is connected to {self.old.prefix}"
        yield RenumberStep(
            title="Take the old prefix away", where=f"{here}, then each far end", details=tuple(removals), loses=loses
        )

    def site(self) -> str:
        return self.design.site_by_id[self.old.site_id].name

    def gateway(self) -> str:
        """The gateways that the network stands behind."""
        return " and ".join(g.name for g in self.design.gateways if g.site_id == self.old.site_id) or self.site()

    def _hosts(self) -> list[Host]:
        return [item for item in self.moved if isinstance(item, Host)]

    def _was(self, host: Host) -> str:
        return str(next(candidate.address for candidate in self.design.hosts_of_network(self.old.id) if candidate.id == host.id))

    def _router(self) -> str:
        same = self.old.gateway_address == self.new.gateway_address
        return "its router stays" if same else f"its router {self.old.gateway_address} becomes {self.new.gateway_address}"

    def _tunnels(self) -> Iterator[tuple[Tunnel, Side]]:
        """Yield the tunnels whose selectors change, with the network's side of each."""
        for item in self.moved:
            if isinstance(item, Tunnel):
                for side in SIDES:
                    if self.design.site_of(item.end(side)).id == self.old.site_id:
                        yield item, side

    def _leases(self) -> Iterator[str]:
        long = f"{self.old.lease_time_s} s" if self.old.lease_time_s else "the lease time in force"
        yield f"set the lease time to {SHORT_LEASE_S} s, and wait {long}: then no client holds a longer lease"

    def _beside(self) -> Iterator[str]:
        if self.new.gateway_address and self.new.gateway_address != self.old.gateway_address:
            length = self.new.prefix.length
            second = f"{self.new.gateway_address}/{length}"
            yield f"give the interface {second} as a second address, and keep {self.old.gateway_address}"
        else:
            yield f"route {self.new.prefix} on the interface of {self.old.prefix}"
        yield f"let filters and translations of this gateway treat {self.new.prefix} like {self.old.prefix}"

    def _far_side(self) -> Iterator[str]:
        for tunnel, side in self._tunnels():
            if tunnel.end(side.other).remote_networks:
                far = self.design.site_of(tunnel.end(side.other)).name
                yield f"{tunnel.name} at {far}: add {self.new.prefix} to the far side's networks, and keep {self.old.prefix}"
        for item in self.moved:
            if isinstance(item, Route | Rule | Translation):
                name = self.design.gateway_by_id[item.gateway_id].name
                yield f"{name}: {_about(item)} for {self.new.prefix} beside the one for {self.old.prefix}"
            elif isinstance(item, Profile):
                yield f"{item.name}: add {self.new.prefix}; people get it when they dial in the next time"

    def _near_side(self) -> Iterator[str]:
        for tunnel, side in self._tunnels():
            if tunnel.end(side).local_networks:
                yield f"{tunnel.name}: add {self.new.prefix} to its own networks, and keep {self.old.prefix}"

    def _rebuilt(self, working_from: str) -> str:
        if working_from and self.design.network_by_id[working_from].site_id != self.old.site_id:
            return "for seconds, what goes through these tunnels: their Child SAs are set up anew"
        return ""

    def _dhcp(self) -> Iterator[str]:
        for before, after in zip(self.old.dhcp_ranges, self.new.dhcp_ranges, strict=True):
            yield f"range {before} becomes {after}; option 3 (router) becomes {self.new.gateway_address}"
        for host in self._hosts():
            if host.assignment is Assignment.RESERVED:
                hardware = host.hardware_address or "hardware address not known"
                yield f"reservation of {host.name} ({hardware}) becomes {host.address}"

    def _removals(self) -> Iterator[str]:
        if self.old.gateway_address:
            yield f"remove {self.old.gateway_address} from the interface"
        for tunnel, _ in self._tunnels():
            yield f"{tunnel.name}: take {self.old.prefix} out at both ends"
        for item in self.moved:
            if isinstance(item, Route | Rule | Translation):
                yield f"{self.design.gateway_by_id[item.gateway_id].name}: remove {_about(item)} for {self.old.prefix}"
        if self.old.dhcp_ranges:
            yield "set the lease time back"

    def clients(self) -> Iterator[ClientWork]:
        leases = sum(address_range.size for address_range in self.old.dhcp_ranges)
        if leases:
            half = f"{SHORT_LEASE_S // 2} s"
            what = f"ask again when half of the lease is over (RFC 2131 section 4.4.5), after {half} at most; or renew by hand"
            yield ClientWork(who=f"up to {leases} clients of the DHCP ranges", what=what, by_hand=False)
        for host in self._hosts():
            if host.assignment is Assignment.RESERVED:
                what = f"renews its lease: {self._was(host)} becomes {host.address}"
            else:
                what = f"gets a new address: {self._was(host)} becomes {host.address}, {self._router()}"
            yield ClientWork(who=host.name, what=what, by_hand=host.assignment is Assignment.STATIC)

    def moment(self, working_from: str, steps: tuple[RenumberStep, ...]) -> str:
        """Say when the person's own connection goes."""
        last = len(steps)
        if working_from == self.old.id:
            number = next((k for k, step in enumerate(steps, 1) if step.loses), last)
            return (
                f"In step {number}: you sit in {self.old.name}, and your own address changes. Connect anew to {self._new_way()}."
            )
        if not working_from:
            both = 1 + max(k for k, step in enumerate(steps) if step.title in _CARRYING_BOTH)
            return f"In step {last}, if you are connected to {self._old_way()}: after step {both}, connect to {self._new_way()}."
        return (
            f"In step {last}, when {self._old_way()} goes: connect to {self._new_way()} before it. "
            "Tunnels stop for seconds when their networks change."
        )

    def _old_way(self) -> str:
        return str(self.old.gateway_address or self.old.prefix)

    def _new_way(self) -> str:
        return str(self.new.gateway_address or self.new.prefix)


def _about(item: Route | Rule | Translation) -> str:
    """Name what is to be made anew."""
    if isinstance(item, Route):
        hop = item.via or item.tunnel_id or item.uplink_id
        return f"the route by {hop}"
    return f"rule {item.name}" if isinstance(item, Rule) else f"translation {item.name}"
