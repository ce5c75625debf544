"""The catalogue of findings, ordered by area: codes, severities, titles, consequences and what they rest on."""

from typing import Final

from pontifex.core.catalogue import addresses, clouds, paths, people, places, product, tunnels
from pontifex.core.catalogue.code import Code
from pontifex.core.catalogue.entry import Area, CatalogueEntry, Screen, Severity

_BY_AREA: Final = {
    Area.PRODUCT: product.ENTRIES,
    Area.PLACES: places.ENTRIES,
    Area.ADDRESSES: addresses.ENTRIES,
    Area.TUNNELS: tunnels.ENTRIES,
    Area.PATHS: paths.ENTRIES,
    Area.PEOPLE: people.ENTRIES,
    Area.CLOUDS: clouds.ENTRIES,
}
CATALOGUE: Final = {entry.code: entry for entries in _BY_AREA.values() for entry in entries}
AREAS: Final = {entry.code: area for area, entries in _BY_AREA.items() for entry in entries}

__all__ = ["AREAS", "CATALOGUE", "Area", "CatalogueEntry", "Code", "Screen", "Severity"]
