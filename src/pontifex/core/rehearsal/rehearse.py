"""Rehearsing a tunnel of a design, or why that can't be done."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Final

from pontifex.core.ike.settings import HandedOut
from pontifex.core.kinds import SIDES, Profile, Technology, Tunnel
from pontifex.core.matching import TunnelEnds, compare
from pontifex.core.matching.forecast import DECIDING
from pontifex.core.matching.row import Row, Verdict
from pontifex.core.model import Design
from pontifex.core.people import DialledIn
from pontifex.core.rehearsal.course import Course, RehearsalConditions
from pontifex.core.rehearsal.hosts import host_trials
from pontifex.core.rehearsal.ike_course import IkeCourse
from pontifex.core.rehearsal.outcome import Rehearsal
from pontifex.core.rehearsal.own_end import NotRehearsed, not_rehearsed, own_ends
from pontifex.core.rehearsal.peer_key_course import PeerKeyCourse
from pontifex.core.rehearsal.peering import is_peering, rehearse_peering, why_no_peering
from pontifex.core.rehearsal.tls_course import TlsCourse
from pontifex.core.rehearsal.world import World

_DAY_S: Final = 86_400.0
_AS_IT_IS: Final = RehearsalConditions()


def rehearse(design: Design, tunnel: Tunnel, today: date, under: RehearsalConditions = _AS_IT_IS) -> Rehearsal | NotRehearsed:
    """Rehearse a tunnel, beginning on a day; or say why it can't be."""
    return _rehearsed(design, tunnel, compared(design, tunnel, today), today, under)


def rehearse_dial_in(
    dialled: DialledIn, profile: Profile, today: date, under: RehearsalConditions = _AS_IT_IS
) -> Rehearsal | NotRehearsed:
    """Rehearse the call of a person's device from a place: it is given an address of the pool, resolvers and suffixes."""
    rows = dialled.rows(today, dialled.beside)
    return _rehearsed(dialled.design, dialled.tunnel, rows, today, under, handed_out(dialled.without, profile))


def handed_out(design: Design, profile: Profile) -> HandedOut | None:
    """Return what the gateway of a profile gives to those who dial in; None where it has no pool."""
    pool = design.network_by_id.get(profile.pool_id or "")
    if pool is None:
        return None
    kept = [host.address for host in design.hosts if pool.prefix.holds(host.address)]
    kept += [pool.gateway_address] if pool.gateway_address else []
    return HandedOut(pool.prefix, frozenset(kept), pool.reserved_ranges, profile.resolvers, profile.suffixes)


def _rehearsed(
    design: Design, tunnel: Tunnel, rows: Sequence[Row], today: date, under: RehearsalConditions, given: HandedOut | None = None
) -> Rehearsal | NotRehearsed:
    if is_peering(tunnel):
        return _peered(design, tunnel, rows, under)
    octets = f"{under.seed}/{tunnel.id}".encode()
    reasons = tuple(why_not(tunnel, rows))
    if reasons:
        return NotRehearsed(reasons)
    course = course_of(design, tunnel, rows, today, octets, given)
    if under.with_hosts:
        course.hosts = host_trials(design, tunnel, course.world)
    if under.happening or under.until_s is not None:
        return course.watch(tunnel.id, under)
    return course.run(tunnel.id, under.seed)


def _peered(design: Design, tunnel: Tunnel, rows: Sequence[Row], under: RehearsalConditions) -> Rehearsal | NotRehearsed:
    reasons = [*_unknown(rows), *why_no_peering(design, tunnel)]
    if under.happening or under.until_s is not None:
        reasons.append("nothing can be let happen to a peering")
    return NotRehearsed(tuple(reasons)) if reasons else rehearse_peering(design, tunnel, rows, under.seed)


def compared(design: Design, tunnel: Tunnel, today: date) -> list[Row]:
    """Return the rows by which a rehearsal is judged."""
    return list(compare(TunnelEnds(design, tunnel, today)))


def why_not(tunnel: Tunnel, rows: Sequence[Row]) -> Iterator[str]:
    """Yield why a tunnel isn't rehearsed: what it is made of, and what isn't known of it."""
    yield from not_rehearsed(tunnel)
    yield from _unknown(rows)


def _unknown(rows: Sequence[Row]) -> Iterator[str]:
    yield from (str(row.clause) for row in rows if row.verdict is Verdict.UNKNOWN and row.stage in DECIDING)


def course_of(
    design: Design, tunnel: Tunnel, rows: Sequence[Row], today: date, octets: bytes, given: HandedOut | None = None
) -> Course:
    """Return the course of a tunnel of a design, judged by its rows; `octets` seed all that is drawn in it."""
    ends = own_ends(design, tunnel, DayOf(today), octets, given)
    uplinks = {side: uplink for side in SIDES if (uplink := design.uplink_of(tunnel.end(side)))}
    return _COURSES[tunnel.left.technology](World(ends, uplinks, octets), ends, rows)


_COURSES: Final[dict[Technology, type[Course]]] = {
    Technology.IPSEC_IKEV2: IkeCourse,
    Technology.TLS: TlsCourse,
    Technology.PEER_KEY: PeerKeyCourse,
}


@dataclass(frozen=True, slots=True)
class DayOf:
    """Says which day it is at a time of a rehearsal, in seconds from its beginning."""

    first: date

    def __call__(self, now: float) -> date:
        """Return the day."""
        return self.first + timedelta(days=int(now // _DAY_S))
