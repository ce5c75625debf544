"""What the catalogue says of one kind of finding."""

from __future__ import annotations

from dataclasses import dataclass

from pontifex.core.catalogue.code import Code
from pontifex.core.choice import Choice


class Severity(Choice):
    """How bad a finding is. The order of the members is from worst to least."""

    BLOCKER = "blocker"  # will not work
    LATER = "later"  # works, then stops
    PARTIAL = "partial"  # some of the traffic
    EXPOSURE = "exposure"  # leaks, or is weak
    ADVICE = "advice"

    @property
    def rank(self) -> int:
        """Place from the worst, from 0."""
        return _RANKS[self]


_RANKS = {severity: place for place, severity in enumerate(Severity)}


class Screen(Choice):
    """Where the interface tells a finding."""

    SURVEY = "survey"
    MATCH = "match"
    ADDRESSES = "addresses"
    PATHS = "paths"
    PEOPLE = "people"
    CLOUDS = "clouds"


class Area(Choice):
    """What a finding is about."""

    PRODUCT = "product"
    PLACES = "places"
    ADDRESSES = "addresses"
    TUNNELS = "tunnels"
    PATHS = "paths"
    PEOPLE = "people"
    CLOUDS = "clouds"

    @property
    def screen(self) -> Screen:
        """The screen that tells the findings of an area."""
        return _SCREENS[self]


_SCREENS = {
    Area.PRODUCT: Screen.SURVEY,
    Area.PLACES: Screen.SURVEY,
    Area.ADDRESSES: Screen.ADDRESSES,
    Area.TUNNELS: Screen.MATCH,
    Area.PATHS: Screen.PATHS,
    Area.PEOPLE: Screen.PEOPLE,
    Area.CLOUDS: Screen.CLOUDS,
}


@dataclass(frozen=True, slots=True)
class CatalogueEntry:
    """One kind of finding: how bad it is, what follows from it, and what it rests on."""

    code: Code
    severity: Severity
    title: str
    consequence: str
    reference: str
