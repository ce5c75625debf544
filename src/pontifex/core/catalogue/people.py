"""Findings about people who dial in, and the names that they ask for."""

from __future__ import annotations

from typing import Final

from pontifex.core.catalogue.code import Code
from pontifex.core.catalogue.entry import CatalogueEntry, Severity

_BLOCKER, _LATER, _PARTIAL, _EXPOSURE, _ADVICE = Severity
ENTRIES: Final = (
    CatalogueEntry(Code.PROFILE_DEFAULT_INSIDE, _PARTIAL, "A split with a default route", "Clients that take these routes send everything through the tunnel: the split is none.", "RFC 3442"),
    CatalogueEntry(Code.PROFILE_POOL_TOO_SMALL, _PARTIAL, "The pool is too small", "Who dials in last gets no address.", "RFC 7296 section 3.15"),
    CatalogueEntry(Code.PROFILE_FORGETS, _PARTIAL, "The split forgets networks", "People who dial in send traffic for them to the Internet, where it is lost.", "RFC 3442"),
    CatalogueEntry(Code.PROFILE_LEAKS_FAMILY, _EXPOSURE, "An address family passes beside the tunnel", "What goes over that family is neither protected nor seen by the gateway.", "RFC 7359 section 3"),
    CatalogueEntry(Code.PROFILE_PLATFORM_CANNOT, _PARTIAL, "A platform can't do what is asked", "Such devices refuse the profile, or do without what they can't do.", "RFC 7296 section 4"),
    CatalogueEntry(Code.PROFILE_SEEMS_INSIDE, _PARTIAL, "Outside looks like inside", "Whoever is there isn't dialled in, and reaches nothing.", "RFC 1918 section 4"),
    CatalogueEntry(Code.PROFILE_SEEMS_OUTSIDE, _ADVICE, "Inside looks like outside", "Devices at the office dial in to where they are: everything goes a way round.", "RFC 2132 section 3.17"),
    CatalogueEntry(Code.PROFILE_PROBE_THROUGH, _LATER, "The probe answers through the tunnel", "Once it is dialled, the device takes itself for inside and hangs up, and dials again, and so on.", "RFC 4301 section 4.4.1"),
    CatalogueEntry(Code.PROFILE_SERVER_ELSEWHERE, _PARTIAL, "A server that isn't the gateway", "Devices that dial it find nobody, or somebody else.", "RFC 7296 section 2.15"),
    CatalogueEntry(Code.PROFILE_NO_WAY_BACK, _PARTIAL, "No way back to the pool", "People reach these networks, and never get an answer.", "RFC 1812 section 5.2.1"),
    CatalogueEntry(Code.PROFILE_OPEN_WHEN_DOWN, _EXPOSURE, "Open while the tunnel is down", "What was to be protected goes out in clear, and nobody notices.", "RFC 7359 section 3"),
    CatalogueEntry(Code.DNS_LEAK, _EXPOSURE, "Names are asked outside", "Whoever runs the resolver at home learns what is asked for, and doesn't know the answer.", "RFC 7359 section 3, RFC 8598 section 1"),
    CatalogueEntry(Code.DNS_RESOLVER_BESIDE, _PARTIAL, "The resolver lies beside the tunnel", "Names are not resolved, or asked of somebody else.", "RFC 8598 section 1"),
)  # fmt: skip
