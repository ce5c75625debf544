"""Whether a device takes itself for inside: what each test of its profile says at a place, and whether that is true."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from pontifex.core.addressing import Address, AddressError, parse_address
from pontifex.core.kinds import InsideBy, InsideTest, Profile
from pontifex.core.model import Design
from pontifex.core.people.place import DevicePlace


@dataclass(frozen=True, slots=True, kw_only=True)
class InsideAnswer:
    """What one test says at a place."""

    test: Annotated[str, Field(title="Test", examples=["suffix quay.skerry.example"])]
    says_inside: Annotated[bool, Field(title="It says: inside")]
    why: Annotated[str, Field(title="Why")]


def inside_answers(design: Design, profile: Profile, place: DevicePlace) -> tuple[InsideAnswer, ...]:
    """Return what the tests of a profile say at a place, before anything is dialled."""
    return tuple(_answer(design, test, place) for test in profile.inside_tests)


def _answer(design: Design, test: InsideTest, place: DevicePlace) -> InsideAnswer:
    says, why = _JUDGES[test.by](design, test, place)
    return InsideAnswer(test=str(test), says_inside=says, why=why)


def _by_suffix(_design: Design, test: InsideTest, place: DevicePlace) -> tuple[bool, str]:
    if test.value.lower() in (suffix.lower() for suffix in place.suffixes):
        return True, f"the network {place.title} gives it"
    return False, f"the network {place.title} doesn't give it"


def _by_prefix(_design: Design, test: InsideTest, place: DevicePlace) -> tuple[bool, str]:
    if test.prefix.overlaps(place.prefix):
        return True, f"the device is in {place.prefix}"
    return False, f"the device is in {place.prefix}, and not in {test.prefix}"


def _by_probe(design: Design, test: InsideTest, place: DevicePlace) -> tuple[bool, str]:
    address = probed_address(design, test)
    if address is None:
        return False, f"nobody knows the address of {test.probed_host}"
    if place.is_inside:
        return True, f"{address} answers there"
    return False, f"{address} doesn't answer outside"


_JUDGES = {InsideBy.SUFFIX: _by_suffix, InsideBy.PREFIX: _by_prefix, InsideBy.PROBE: _by_probe}


def probed_address(design: Design, test: InsideTest) -> Address | None:
    """Return the address that a test by probe asks; None where the design doesn't know its name."""
    name = test.probed_host
    host = next(
        (candidate for candidate in design.hosts if candidate.dns_name and candidate.dns_name.lower() == name.lower()), None
    )
    if host:
        return host.address
    try:
        return Address(*parse_address(name))
    except AddressError:
        return None
