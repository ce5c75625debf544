"""A finding: one remark on a design, as data."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Annotated, Final, NamedTuple

from pydantic import Field

from pontifex.core.catalogue import AREAS, CATALOGUE, Code, Screen, Severity
from pontifex.core.kinds import Network, ObjectType
from pontifex.core.matching import Remedy
from pontifex.core.model import Design
from pontifex.core.reasons import NO_NAMES, Names, Reason, Sentence, named
from pontifex.core.reasons.addresses import NetworkOf
from pontifex.core.reasons.reason import More


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """A field of an object that a finding points at."""

    type: ObjectType
    id: str
    name: Annotated[str, Field(title="Name of the object")]
    field: Annotated[str, Field(title="Field", description="Its path within the object.", examples=["right/key"])]


@dataclass(frozen=True, slots=True)
class FindingKey:
    """What a finding is known by from one analysis to the next: what is wrong, and its first place."""

    code: str
    type: ObjectType
    id: str
    field: str = ""


@dataclass(frozen=True, slots=True)
class FindingAt:
    """What is wrong, and all of its places: several findings may begin at one place, and some stand at the very same ones."""

    code: str
    where: tuple[tuple[ObjectType, str, str], ...]  # of each place its type, id and field


@dataclass(frozen=True, slots=True, kw_only=True)
class Accepted:
    """That somebody lives with it."""

    id: Annotated[str, Field(title="Id of the acceptance")]
    reason: Annotated[str, Field(title="Reason")]
    until: Annotated[date, Field(title="Until")]
    accepted_by: Annotated[str, Field(title="Accepted by")]
    holds: Annotated[bool, Field(title="Holds", description="Not any more where the day has passed: it is due again.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """What is wrong, where, and what follows from it. What mends it is worked out when somebody asks for it."""

    code: Annotated[Code, Field(title="Code", description="Stable; never reused.", examples=[Code.END_KEY_DIFFERS])]
    severity: Severity
    screen: Annotated[Screen, Field(title="Screen", description="Where the interface tells it.")]
    title: Annotated[str, Field(title="Title", examples=["Keys differ"])]
    where: Annotated[tuple[Place, ...], Field(title="Places", description="The first one is where the cursor goes to.")]
    why: Annotated[Sentence, Field(title="Cause", description="One sentence with the values that make it so.")]
    consequence: Annotated[str, Field(title="Consequence")]
    reference: Annotated[str, Field(title="Reference", examples=["RFC 7296 section 2.15"])]
    mendable: Annotated[bool, Field(title="Mendable", description="Something may mend it; what does is asked for by itself.")]
    accepted: Annotated[Accepted | None, Field(title="Accepted", description="Null where nobody has accepted it.")] = None

    @property
    def key(self) -> FindingKey:
        """What it is known by."""
        place = self.where[0]
        return FindingKey(self.code.value, place.type, place.id, place.field)

    @property
    def at(self) -> FindingAt:
        """What is wrong, and where."""
        return FindingAt(self.code.value, tuple((place.type, place.id, place.field) for place in self.where))

    @property
    def told(self) -> tuple[Code, tuple[Place, ...], Sentence]:
        """What tells it from all others of its analysis: what is wrong, where, and why."""
        return self.code, self.where, self.why


Remedies = Callable[[], Iterable[Remedy]]


class Remark(NamedTuple):
    """A finding as a check makes it, with what works its remedies out, the best one first; None where nothing mends it."""

    finding: Finding
    remedies: Remedies | None = None


MOST_NAMED: Final = 3  # objects that a cause names one by one


def more_than_named(items: Sequence[object]) -> More | None:
    """Return how many there are beside the first ones, None where these are all."""
    return More(len(items) - MOST_NAMED) if len(items) > MOST_NAMED else None


def network_of(design: Design, network: Network) -> NetworkOf:
    """Return a network as it is spoken of: with its site."""
    return NetworkOf(named(design.site_by_id[network.site_id]), named(network))


def remark(
    code: Code, where: tuple[Place, ...], why: Reason, remedies: Remedies | None = None, names: Names = NO_NAMES
) -> Remark:
    """Return a remark of the catalogue. `names` is what the ends are called that its cause speaks of."""
    entry = CATALOGUE[code]
    finding = Finding(
        code=code,
        severity=entry.severity,
        screen=AREAS[code].screen,
        title=entry.title,
        where=where,
        why=Sentence(why, names),
        consequence=entry.consequence,
        reference=entry.reference,
        mendable=remedies is not None,
    )
    return Remark(finding, remedies)
