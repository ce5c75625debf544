"""The steps that bring clouds to what a design intends: in the order in which a cloud takes them, each done, due or waiting.

A request before its acceptance; routes by a peering once it is active; and what is to go in the opposite order: routes and
rules first, then the peering, so that nothing is left behind.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Annotated, Final

from pydantic import Field
from pydantic.json_schema import SkipJsonSchema

from pontifex.core.choice import Choice
from pontifex.core.clouds.blocks import shared_block
from pontifex.core.clouds.changes import AnswerPeering, CloudChange, RemovePeering, RequestPeering
from pontifex.core.clouds.differences import CloudDifference, differences
from pontifex.core.clouds.intended import IntendedPeering, intended_networks, intended_peerings
from pontifex.core.clouds.peering_state import PeeringState
from pontifex.core.clouds.resources import AccountState, CloudRoute, NetworkState, Peering
from pontifex.core.model import Design

Readings = Mapping[str, AccountState]  # by account


class StepState(Choice):
    """Whether a step is to be taken."""

    DONE = "done"
    DUE = "due"  # it can be taken now
    SETTLING = "settling"  # the cloud is at it
    LATER = "later"  # another step comes first
    REFUSED = "refused"  # the cloud wouldn't take it
    NOT_READ = "not-read"  # what the account holds isn't known yet


@dataclass(frozen=True, slots=True, kw_only=True)
class CloudStep:
    """One thing to be done at an account, or that it has been."""

    key: Annotated[str, Field(title="Key", description="It stays the same from one reading to the next.")]
    account: str
    network_id: str
    tunnel_id: Annotated[str | None, Field(title="Peering", description="The tunnel of the design that it is about.")]
    title: str
    state: StepState
    intended: Annotated[str, Field(title="What the design intends")] = ""
    held: Annotated[str, Field(title="What the cloud holds")] = ""
    why: Annotated[str, Field(title="Why it isn't due")] = ""
    change: Annotated[SkipJsonSchema[CloudChange | None], Field(exclude=True)] = field(default=None, repr=False)


NOTHING: Final = "nothing"


def held_peering(networks: frozenset[str], readings: Readings) -> Peering | None:
    """Return the peering between two networks that matters: one that isn't over, or the last one that is."""
    found = [peering for state in readings.values() for peering in state.peerings if peering.networks == networks]
    return max(
        found, key=lambda peering: (not peering.state.is_over, peering.since, _PROGRESS.index(peering.state)), default=None
    )


_PROGRESS: Final = tuple(PeeringState)  # of two readings of one state the later one counts


def cloud_steps(design: Design, readings: Readings, intended: Sequence[NetworkState] | None = None) -> tuple[CloudStep, ...]:
    """Return all steps, those of the peerings first, then those of each network, then what is to go.

    `intended` is what the design intends of its networks, where somebody has asked for that already.
    """
    peerings = tuple(intended_peerings(design))
    held = {peering.key: held_peering(peering.networks, readings) for peering in peerings}
    found = [step for peering in peerings for step in _of_peering(peering, held[peering.key], readings)]
    for network in intended_networks(design) if intended is None else intended:
        found += _of_network(network, held, readings)
    return (*found, *_extra_peerings(design, peerings, readings))


# Peerings


def _of_peering(intended: IntendedPeering, held: Peering | None, readings: Readings) -> Iterator[CloudStep]:
    """Yield the request and the acceptance."""
    asks, answers = intended.requester, intended.accepter
    shared = shared_block(asks, answers)
    state, why = _request_state(held, asks.owner in readings)
    if shared and state is StepState.DUE:
        state, why = StepState.REFUSED, f"both networks have {shared}; the cloud takes no peering of these"
    request = CloudStep(
        key=f"request/{intended.key}",
        account=asks.owner,
        network_id=asks.id,
        tunnel_id=intended.tunnel.id,
        title=f"Request the peering with {answers.name}",
        state=state,
        intended="requested",
        held=held.state.value if held else NOTHING,
        why=why,
        change=RequestPeering(asks.id, answers.id, answers.owner),
    )
    yield request
    state, why = _acceptance_state(held, answers.owner in readings)
    yield replace(
        request,
        key=f"accept/{intended.key}",
        account=answers.owner,
        network_id=answers.id,
        title=f"Accept the request of {asks.name}",
        state=state,
        intended="active",
        why=why,
        change=AnswerPeering(held.id, accepted=True) if held else None,
    )


_REQUEST_OVER: Final = {
    PeeringState.REJECTED: "the last request was refused",
    PeeringState.EXPIRED: "the last request expired before anybody answered",
    PeeringState.DELETED: "",
}
_SETTLING_WORDS: Final = {
    PeeringState.REQUESTED: "the cloud has taken the request on; the other account doesn't see it yet",
    PeeringState.ACCEPTED: "it is accepted; the cloud is making it",
    PeeringState.DELETING: "the cloud is taking the last one down",
}


def _request_state(held: Peering | None, is_read: bool) -> tuple[StepState, str]:
    if held is None or held.state.is_over:
        if not is_read:
            return StepState.NOT_READ, "read this account first"
        return StepState.DUE, _REQUEST_OVER[held.state] if held else ""
    if held.state is PeeringState.DELETING:
        return StepState.SETTLING, _SETTLING_WORDS[held.state]
    return StepState.DONE, ""


def _acceptance_state(held: Peering | None, is_read: bool) -> tuple[StepState, str]:
    if held is None or held.state.is_over or held.state is PeeringState.DELETING:
        return StepState.LATER, "it must be requested first"
    if held.state is PeeringState.ACTIVE:
        return StepState.DONE, ""
    if held.state.is_settling:
        return StepState.SETTLING, _SETTLING_WORDS[held.state]
    return (StepState.DUE, "") if is_read else (StepState.NOT_READ, "read this account first")


def _extra_peerings(design: Design, peerings: Sequence[IntendedPeering], readings: Readings) -> Iterator[CloudStep]:
    """Yield the removal of peerings of our networks that the design doesn't have, once no route leads into them."""
    ours = {cloud_network.id: cloud_network for cloud_network in design.cloud_networks}
    wanted = {intended_peering.networks for intended_peering in peerings}
    networks = (network for state in readings.values() for network in state.networks)
    led_into = {route.peering for network in networks for table in network.tables for route in table.routes}
    told: set[str] = set()
    for account, state in readings.items():
        for peering in state.peerings:
            network_id = next((id_ for id_ in (peering.requester, peering.accepter) if id_ in ours), None)
            if not network_id or peering.networks in wanted or peering.state.is_over or peering.id in told:
                continue
            told.add(peering.id)
            used = peering.id in led_into
            settling = peering.state is PeeringState.DELETING
            due = StepState.SETTLING if settling else StepState.LATER if used else StepState.DUE
            yield CloudStep(
                key=f"remove-peering/{peering.id}",
                account=account,
                network_id=network_id,
                tunnel_id=None,
                title=f"Take down the peering of {peering.requester} and {peering.accepter}",
                state=due,
                intended=NOTHING,
                held=peering.state.value,
                why=_SETTLING_WORDS[peering.state] if settling else "routes lead into it; they go first" if used else "",
                change=RemovePeering(peering.id),
            )


# Networks


def _of_network(intended: NetworkState, held: Mapping[str, Peering | None], readings: Readings) -> Iterator[CloudStep]:
    """Yield what differs at a network, and its routes by peerings also where they are there: both tables need them."""
    account = readings.get(intended.account)
    network = next((state for state in account.networks if state.id == intended.id), None) if account else None
    if network is None:
        yield CloudStep(
            key=f"network/{intended.id}",
            account=intended.account,
            network_id=intended.id,
            tunnel_id=None,
            title="Make the network with these blocks there" if account else "Read what it holds",
            state=StepState.REFUSED if account else StepState.NOT_READ,
            intended=", ".join(map(str, intended.blocks)),
            held=NOTHING if account else "",
            why="the account holds no network of this id" if account else "nothing is known of this account yet",
        )
        return
    keys = {peering.id: key for key, peering in held.items() if peering}
    ids = {key: peering.id for key, peering in held.items() if peering}
    for difference in differences(intended, _with_keys(network, keys), ids):
        yield _step_of(intended, difference, held.get(difference.peering or ""), difference.peering in held)


def _with_keys(network: NetworkState, keys: Mapping[str, str]) -> NetworkState:
    """Return a network whose routes name the tunnels of the design that the cloud's peerings stand for."""

    def named(route: CloudRoute) -> CloudRoute:
        return route.changed(peering=keys.get(route.peering or "", route.peering))

    tables = tuple(table.changed(routes=tuple(map(named, table.routes))) for table in network.tables)
    return network.changed(tables=tables)


def _step_of(intended: NetworkState, difference: CloudDifference, peering: Peering | None, by_peering: bool) -> CloudStep:
    waits = (
        by_peering
        and difference.wanted
        and not difference.is_there
        and (peering is None or peering.state is not PeeringState.ACTIVE)
    )
    return CloudStep(
        key=f"{difference.key}@{intended.id}",
        account=intended.account,
        network_id=intended.id,
        tunnel_id=difference.peering if by_peering else None,
        title=difference.title,
        state=StepState.DONE if difference.is_there else StepState.LATER if waits else StepState.DUE,
        intended=difference.intended or NOTHING,
        held=difference.held or NOTHING,
        why="the peering must be active first" if waits else "",
        change=None if difference.is_there else difference.change,
    )
