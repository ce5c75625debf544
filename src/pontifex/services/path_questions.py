"""Reading what is asked of the paths, with the field that can't be read, and small parts of the answers."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from pontifex.core.addressing import Address, AddressError, Prefix, Service, parse_address, parse_service
from pontifex.core.addressing.dhcp_routes import DhcpRoute, DhcpRoutesError, encode_dhcp_routes, with_default
from pontifex.core.errors import FieldRefused, NotFound
from pontifex.core.kinds import Network, Profile, Rule
from pontifex.core.kinds.dscp import parse_dscp
from pontifex.core.model import Design
from pontifex.core.routing import Quality, RouteList, Split
from pontifex.core.routing.all_flows.matrix import Matrix
from pontifex.core.routing.links.quality_course import LONGEST_S, CoursePoint
from pontifex.core.routing.split.split import missing
from pontifex.core.routing.trace.questions import parse_slow, place_of
from pontifex.services.kept import KeptDesigns
from pontifex.store import NothingToUndo

_LETTERS: Final = "ranohbu."  # of each rank of REACHES, and of NO_CELL
_MOST_MEASURED: Final = 100_000
_STEP = 10  # between the orders of two rules, so that one can be put between them


class NotInDesign(NotFound):
    """Something that is asked about isn't in the design; the message says what."""

    title = "Not in the design"


def state_at(designs: KeptDesigns, design_id: str, revision: int) -> Design:
    """Return a design as it stood at a revision. Raise NotInDesign where there is none."""
    try:
        return designs.repository.at(designs.get(design_id), revision)
    except NothingToUndo as error:
        raise NotInDesign(str(error)) from None


class UnreadableQuestion(FieldRefused):
    """A question that can't be read: its field, and the reason."""

    title = "The question can't be read"


@dataclass(frozen=True, slots=True)
class Supposed:
    """What is supposed of the links, as texts, since they stand in links."""

    down: tuple[str, ...] = ()  # ids
    slow: tuple[str, ...] = ()  # "id:delay=80,loss=2"
    all_up: bool = False  # tunnels that don't come up as designed count as up


def read_service(text: str) -> Service:
    """Read "tcp 443". Raise UnreadableQuestion."""
    try:
        return parse_service(text)
    except AddressError as error:
        raise UnreadableQuestion("service", error.reason) from None


def read_dscp(text: str) -> int:
    """Read "EF". Raise UnreadableQuestion."""
    try:
        return parse_dscp(text)
    except ValueError as error:
        raise UnreadableQuestion("dscp", str(error)) from None


def read_slow(design: Design, text: str) -> tuple[str, Quality]:
    """Read "brenna-basalt-radio:delay=80". Raise UnreadableQuestion."""
    try:
        return parse_slow(design, text)
    except ValueError as error:
        raise UnreadableQuestion("slow", str(error)) from None


def read_course(texts: Sequence[str]) -> tuple[CoursePoint, ...]:
    """Read points such as "20:45", a second and a value, in the order of time. Raise UnreadableQuestion."""
    points: list[CoursePoint] = []
    for text in texts:
        at_s, colon, value = text.partition(":")
        try:
            point = CoursePoint(at_s=float(at_s), value=float(value)) if colon else None
        except ValueError:
            point = None
        if point is None or not (0 <= point.at_s <= LONGEST_S and 0 <= point.value <= _MOST_MEASURED):
            raise UnreadableQuestion("point", f"'{text}' is no second, up to {LONGEST_S}, with a value, up to {_MOST_MEASURED}")
        if points and point.at_s <= points[-1].at_s:
            raise UnreadableQuestion("point", f"a point at {point.at_s:g} s can't follow one at {points[-1].at_s:g} s")
        points.append(point)
    return tuple(points)


def read_place(design: Design, text: str, field: str) -> tuple[Address, Network | None]:
    """Read an address, host or network. Raise UnreadableQuestion."""
    try:
        return place_of(design, text.strip())
    except AddressError as error:
        reason = error.reason if "." in text or ":" in text else f"there is no host or network '{text}', and it is no address"
        raise UnreadableQuestion(field, reason) from None


def letters(found: Matrix) -> Iterator[str]:
    """Yield the rows of a matrix, a letter for each cell; in capitals where it isn't so for all addresses."""
    small, capital = (np.array([*chosen], dtype="S1") for chosen in (_LETTERS, _LETTERS.upper()))
    for row in np.where(found.worst == found.best, small[found.worst], capital[found.worst]):
        yield row.tobytes().decode("ascii")


def positioned(rules: Sequence[Rule]) -> Iterator[Rule]:
    """Yield the rules whose order must change so that all stand as they do here."""
    if all(former.position < other.position for former, other in itertools.pairwise(rules)):
        return
    for place, rule in enumerate(rules):
        if rule.position != (place + 1) * _STEP:
            yield rule.changed(position=(place + 1) * _STEP)


def dhcp_option(
    routes: RouteList, pool: Network | None, router: str, default_inside: bool
) -> tuple[tuple[DhcpRoute, ...], bytes, str]:
    """Return the routes of option 121 for a route list, their octets, and what is wrong with the router; all empty without one.

    With `default_inside` the default route is among them, which turns every split into a full tunnel.
    """
    if not router.strip():
        return (), b"", ""
    try:
        via = Address(*parse_address(router.strip()))
        listed = [DhcpRoute(prefix, via) for prefix in routes.summary or routes.prefixes]
        handed = with_default(listed, via) if default_inside else tuple(listed)
        octets = encode_dhcp_routes(handed)
    except (AddressError, DhcpRoutesError) as error:
        return (), b"", error.reason
    trouble = f"{via} is not in {pool.prefix}: the clients can't reach it" if pool and not pool.prefix.holds(via) else ""
    return handed, octets, trouble


def answers(split: Split, profile: Profile) -> Iterator[str]:
    """Yield which resolver answers which names, and whether it is asked through the tunnel."""
    for resolver in profile.own_resolvers:
        yield f"{resolver.suffix}: {resolver.resolver}, {_way(split, resolver.resolver)}"
    resolvers = " or ".join(f"{address}, {_way(split, address)}" for address in profile.resolvers)
    for suffix in profile.suffixes:
        yield f"{suffix}: {resolvers or 'no resolver, so whoever the device asks at home'}"
    everything = resolvers and not profile.suffixes
    yield f"all other names: {resolvers if everything else 'whoever the device asks at home'}"


def _way(split: Split, resolver: Address) -> str:
    beside = missing(split, (Prefix.of_address(resolver),))
    return "beside the tunnel" if beside else "through the tunnel"
