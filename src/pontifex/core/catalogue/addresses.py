"""Findings about addresses: networks, hosts, reserved prefixes and translations."""

from __future__ import annotations

from typing import Final

from pontifex.core.catalogue.code import Code
from pontifex.core.catalogue.entry import CatalogueEntry, Severity

_BLOCKER, _LATER, _PARTIAL, _EXPOSURE, _ADVICE = Severity
ENTRIES: Final = (
    CatalogueEntry(Code.ADDRESS_OVERLAP, _BLOCKER, "Networks collide", "Traffic for one of the networks ends up in the other, or nowhere.", "RFC 1918 section 5"),
    CatalogueEntry(Code.ADDRESS_GATEWAY_OUTSIDE, _BLOCKER, "The gateway address lies outside", "The hosts can't reach their default router.", "RFC 1122 section 3.3.1.1"),
    CatalogueEntry(Code.ADDRESS_SPECIAL_PURPOSE, _PARTIAL, "Special-purpose space", "Hosts and routers treat such addresses in their own ways, or drop them.", "RFC 6890 section 2.2"),
    CatalogueEntry(Code.ADDRESS_SHARED_SPACE, _LATER, "Shared space used inside", "It collides with a carrier's own network as soon as an uplink is behind one that uses it.", "RFC 6598 section 4"),
    CatalogueEntry(Code.ADDRESS_PUBLIC_INSIDE, _EXPOSURE, "Public space used inside", "Whoever holds it on the Internet can't be reached from here, and traffic for it leaks out when a route is gone.", "RFC 1918 section 5"),
    CatalogueEntry(Code.ADDRESS_PLAIN_GLOBAL_ID, _ADVICE, "A global ID that others may have, too", "It collides with the next organisation that chose as plainly.", "RFC 4193 section 3.2"),
    CatalogueEntry(Code.ADDRESS_OVERLAP_UNJOINED, _ADVICE, "Networks would collide", "As soon as a tunnel joins the sites, traffic for one of the networks ends up in the other, or nowhere.", "RFC 1918 section 5"),
    CatalogueEntry(Code.ADDRESS_HOME_PREFIX, _PARTIAL, "A prefix that is usual at home", "People whose own router uses the same prefix reach what is next to them instead of this.", "RFC 1918 section 3"),
    CatalogueEntry(Code.ADDRESS_DHCP_OUTSIDE, _BLOCKER, "A DHCP range outside its network", "Clients get addresses with which they reach nothing.", "RFC 2131 section 4.3.1"),
    CatalogueEntry(Code.ADDRESS_DHCP_TWICE, _PARTIAL, "DHCP ranges share addresses", "Two clients get one address.", "RFC 2131 section 4.3.1"),
    CatalogueEntry(Code.ADDRESS_DHCP_STATIC, _PARTIAL, "A DHCP range over addresses in use", "A client gets an address that somebody has; both lose their connections.", "RFC 2131 section 4.3.1, RFC 5227 section 1"),
    CatalogueEntry(Code.ADDRESS_HOST_TWICE, _PARTIAL, "One address for two hosts", "Whichever answered last is reached; connections of the other break off.", "RFC 5227 section 1"),
    CatalogueEntry(Code.ADDRESS_HOST_OUTSIDE, _PARTIAL, "A host outside its network", "The host is not reached, and doesn't reach its default router.", "RFC 1122 section 3.3.1.1"),
    CatalogueEntry(Code.ADDRESS_HOST_UNUSABLE, _PARTIAL, "An address that no host may have", "It stands for the network itself, or for all its hosts.", "RFC 1122 section 3.2.1.3"),
    CatalogueEntry(Code.ADDRESS_KEPT, _PARTIAL, "An address that the platform keeps", "The platform answers in the host's place, or drops what is sent to it.", "RFC 4632 section 5.1"),
    CatalogueEntry(Code.ADDRESS_KEPT_ELSEWHERE, _PARTIAL, "A platform's own range collides", "What the platform keeps can't be reached as a network from there.", "RFC 4632 section 5.1"),
    CatalogueEntry(Code.ADDRESS_TOO_SMALL, _ADVICE, "Too small for what is expected", "Hosts that come last get no address.", "RFC 2131 section 4.3.1"),
    CatalogueEntry(Code.ADDRESS_CLAIM_TAKEN, _ADVICE, "A reserved prefix in use", "Whoever counts on it finds it taken.", "RFC 4632 section 5.1"),
    CatalogueEntry(Code.ADDRESS_INNER_NETWORK, _BLOCKER, "The inner network takes a network's traffic", "Everything for that network goes into the tunnel interface and vanishes.", "RFC 4632 section 5.1"),
    CatalogueEntry(Code.TRANSLATION_OUTSIDE_TAKEN, _BLOCKER, "Translated into space in use", "Those who see the translation can't reach what stands there.", "RFC 2663 section 4"),
    CatalogueEntry(Code.TRANSLATION_REAL_SELECTORS, _BLOCKER, "The tunnel names the real addresses", "Translated packets fit none of the tunnel's networks and never pass.", "RFC 3715 section 2.1, RFC 7296 section 2.9"),
    CatalogueEntry(Code.TRANSLATION_NAMES_NOTHING, _ADVICE, "A translation of nothing", "It changes no packet, since no network there has such addresses.", "RFC 2663 section 4"),
    CatalogueEntry(Code.TRANSLATION_HIDES, _PARTIAL, "Hidden behind one address", "The other side can begin no connection, and sees one address for all.", "RFC 2663 section 4.1.2"),
    CatalogueEntry(Code.TRANSLATION_DNS, _PARTIAL, "Names give away the wrong address", "Who asks for the name from the other side gets an address that leads elsewhere.", "RFC 3027 section 4.3"),
)  # fmt: skip
