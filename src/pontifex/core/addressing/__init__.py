"""Addresses and prefixes of both families: reading, overlap, containment and free space.

Integers inside, text at the edge; sets of prefixes are handled as sorted arrays.
"""

from importlib import import_module
from typing import TYPE_CHECKING, Any, Final

from pontifex.core.addressing.address import Address, AddressError, Family, parse_address
from pontifex.core.addressing.address_range import AddressRange, parse_range
from pontifex.core.addressing.cover import minimal_cover
from pontifex.core.addressing.interface import Interface, parse_interface
from pontifex.core.addressing.prefix import Prefix, parse_prefix
from pontifex.core.addressing.region import Region, common_region, region_without, same_region
from pontifex.core.addressing.selector import Selector, parse_selector
from pontifex.core.addressing.service import Service, parse_service

if TYPE_CHECKING:
    from pontifex.core.addressing.address_set import AddressSet
    from pontifex.core.addressing.overlap import OverlapClass, OverlapPairs, overlapping_pairs
    from pontifex.core.addressing.room import free_blocks, next_free

# what works on arrays is loaded when it is asked for: a command about a few prefixes needn't wait for NumPy
_IN_ARRAYS: Final = {
    "AddressSet": "address_set",
    "OverlapClass": "overlap",
    "OverlapPairs": "overlap",
    "free_blocks": "room",
    "next_free": "room",
    "overlapping_pairs": "overlap",
}


def __getattr__(name: str) -> Any:
    if name not in _IN_ARRAYS:
        raise AttributeError(f"module {__name__} has no attribute {name}")
    return getattr(import_module(f"{__name__}.{_IN_ARRAYS[name]}"), name)


__all__ = [
    "Address",
    "AddressError",
    "AddressRange",
    "AddressSet",
    "Family",
    "Interface",
    "OverlapClass",
    "OverlapPairs",
    "Prefix",
    "Region",
    "Selector",
    "Service",
    "common_region",
    "free_blocks",
    "minimal_cover",
    "next_free",
    "overlapping_pairs",
    "parse_address",
    "parse_interface",
    "parse_prefix",
    "parse_range",
    "parse_selector",
    "parse_service",
    "region_without",
    "same_region",
]
