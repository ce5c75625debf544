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
    CatalogueEntry(Code.DNS_LEAK, _EXPOSURE, "Names are asked outside", "Whoever runs the resolver at home learns what is asked for, and doesn't know the answer.", "RFC 7359 section 3, RFC 8598 section 1"),
    CatalogueEntry(Code.DNS_RESOLVER_BESIDE, _PARTIAL, "The resolver lies beside the tunnel", "Names are not resolved, or asked of somebody else.", "RFC 8598 section 1"),
    CatalogueEntry(Code.DNS_BESIDE_TUNNEL, _EXPOSURE, "Names are asked beside the tunnel", "Whoever runs that resolver, or listens on its uplink, learns what is asked for.", "RFC 9076 section 2"),
)  # fmt: skip
