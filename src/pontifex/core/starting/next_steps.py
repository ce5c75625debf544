"""What to do next in a design that isn't finished: what has been begun and lacks something, never what wasn't reached yet."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from enum import Enum
from functools import partial
from typing import Annotated, Any, Final

from pydantic import Field

from pontifex.core.kinds import SIDES, DesignMember, Network, NetworkRole, ObjectType, SiteKind
from pontifex.core.model import Design
from pontifex.core.routing.wanted.blocks import parts_of

_MOST_NAMED: Final = 3
_NOT_ASKED_FOR: Final = frozenset({NetworkRole.GUEST, NetworkRole.TRANSIT, NetworkRole.POOL})


class NextAction(Enum):
    """What one presses to do it."""

    ADD_SITES = "add-sites"
    ADD_UPLINKS = "add-uplinks"
    ADD_NETWORKS = "add-networks"
    CONNECT_SITES = "connect-sites"
    CHOOSE_STANDARD = "choose-standard"
    ADD_INTENTS = "add-intents"


@dataclass(frozen=True, slots=True, kw_only=True)
class NextStep:
    """One thing to do."""

    action: NextAction
    says: Annotated[str, Field(title="What is lacking", examples=["Ostvik Terminal has no uplink yet."])]
    type: ObjectType
    ids: Annotated[tuple[str, ...], Field(title="Of these objects")] = ()


def next_steps(design: Design) -> tuple[NextStep, ...]:
    """Return what to do next, in the order of the work."""
    return tuple(_steps(design))


def _steps(design: Design) -> Iterator[NextStep]:
    if not design.sites:
        yield NextStep(action=NextAction.ADD_SITES, says="The design has no sites yet.", type=ObjectType.SITE)
        return
    away = {site.id for site in design.sites if site.kind is SiteKind.HOME or design.ends_at_site(site.id)}
    silent = [site for site in design.sites if site.id not in away and not design.uplinks_of_site(site.id)]
    yield from _about(NextAction.ADD_UPLINKS, ObjectType.SITE, silent, "has no uplink yet", "have no uplink yet")
    empty = [site for site in design.sites if site.kind is not SiteKind.HOME and not design.networks_of_site(site.id)]
    yield from _about(NextAction.ADD_NETWORKS, ObjectType.SITE, empty, "has no network yet", "have no network yet")
    alone = [site for site in design.sites if site.id not in away and site not in silent]
    if len(design.sites) > 1:
        yield from _about(NextAction.CONNECT_SITES, ObjectType.SITE, alone, "is joined to no other", "are joined to no other")
    if design.standards:
        free = [tunnel for tunnel in design.tunnels if tunnel.standard_id is None and tunnel.left.technology.is_ipsec]
        yield from _about(NextAction.CHOOSE_STANDARD, ObjectType.TUNNEL, free, "follows no standard", "follow no standard")
    if design.tunnels:
        unnamed = _unnamed_networks(design)
        says = ("is reached by nobody: no intent names it", "are reached by nobody: no intent names them")
        with_site = partial(_with_site, design)
        yield from _about(NextAction.ADD_INTENTS, ObjectType.NETWORK, unnamed, *says, with_site)


def _with_site(design: Design, network: Network) -> str:
    """Return a network as it is spoken of: with its site, since many sites have networks of one name."""
    return f"{design.site_by_id[network.site_id].name}'s {network.name}"


def _name(item: DesignMember) -> str:
    return item.name


def _about(
    action: NextAction,
    type_: ObjectType,
    items: Iterable[DesignMember],
    one: str,
    several: str,
    names: Callable[[Any], str] = _name,
) -> Iterator[NextStep]:
    """Yield a step about some objects, the first of them by name; nothing where there are none."""
    some = tuple(items)
    if not some:
        return
    more = len(some) - _MOST_NAMED
    named = ", ".join(names(item) for item in some[:_MOST_NAMED]) + (f" and {more} more" if more > 0 else "")
    says = f"{named} {one if len(some) == 1 else several}."
    yield NextStep(action=action, says=says, type=type_, ids=tuple(item.id for item in some))


def _unnamed_networks(design: Design) -> Iterator[Network]:
    """Yield the networks at joined sites that no intent names; of guests and the like nobody expects it."""
    named = {
        part.network.id
        for intent in design.intents
        for side in (intent.source_side, intent.destination_side)
        for part in parts_of(design, side)
    }
    joined = {design.site_of(tunnel.end(side)).id for tunnel in design.tunnels for side in SIDES}
    for network in design.networks:
        if network.site_id in joined and network.id not in named and not network.zone and network.role not in _NOT_ASKED_FOR:
            yield network
