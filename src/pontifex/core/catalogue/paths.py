"""Findings about paths: routes, rules, filters and what intents want of them."""

from __future__ import annotations

from typing import Final

from pontifex.core.catalogue.code import Code
from pontifex.core.catalogue.entry import CatalogueEntry, Severity

_BLOCKER, _LATER, _PARTIAL, _EXPOSURE, _ADVICE = Severity
ENTRIES: Final = (
    CatalogueEntry(Code.ROUTE_MISSING, _BLOCKER, "A route is missing", "What is wanted is dropped on its way.", "RFC 1812 section 5.2.4.3"),
    CatalogueEntry(Code.ROUTE_LEAVES_UNPROTECTED, _BLOCKER, "It leaves unprotected", "What is meant for inside goes out to the Internet, in clear, and is lost there.", "RFC 1918 section 5, RFC 4301 section 4.4.1"),
    CatalogueEntry(Code.ROUTE_NO_RETURN, _BLOCKER, "No return route", "Requests arrive, and no answer ever comes back.", "RFC 1812 section 5.2.4.3"),
    CatalogueEntry(Code.ROUTE_OTHER_ROUTER, _BLOCKER, "Hosts send it elsewhere", "The hosts use a router that doesn't know the tunnel; it needs a route there, or the hosts one by DHCP.", "RFC 1122 section 3.3.1.1, RFC 3442"),
    CatalogueEntry(Code.ROUTE_FORWARDING_OFF, _BLOCKER, "Forwarding is off", "The tunnel comes up, and the gateway passes nothing on.", "RFC 1812 section 2.2.8.1"),
    CatalogueEntry(Code.ROUTE_LOOP, _BLOCKER, "A routing loop", "Packets go round until their time to live ends, and load the tunnels meanwhile.", "RFC 1812 section 5.3.1"),
    CatalogueEntry(Code.ROUTE_NEXT_HOP, _BLOCKER, "A next hop that nobody has", "The gateway can't use the route; what it is for goes another way, or nowhere.", "RFC 1812 section 5.2.4.2"),
    CatalogueEntry(Code.ROUTE_BLACK_HOLE, _BLOCKER, "A route into nothing", "The tunnel or uplink isn't one of the gateway's, so the route is never used.", "RFC 1812 section 5.2.4.2"),
    CatalogueEntry(Code.ROUTE_SELECTORS_REFUSE, _BLOCKER, "The tunnel's networks refuse it", "A route leads into the tunnel, and the tunnel drops it.", "RFC 4301 section 5.2"),
    CatalogueEntry(Code.ROUTE_NOT_TRANSITIVE, _BLOCKER, "A peering is not transitive", "A cloud passes nothing on from one link to another; the two sides need a link of their own.", "RFC 4301 section 3"),
    CatalogueEntry(Code.ROUTE_ISOLATED, _BLOCKER, "An isolated network", "Its hosts reach none of the other networks, whatever an intent wants.", "RFC 4301 section 4.4.1"),
    CatalogueEntry(Code.ROUTE_HELD, _BLOCKER, "A rule holds it", "None of the rule's paths can be used, and it lets nothing out otherwise.", "RFC 4301 section 4.4.1"),
    CatalogueEntry(Code.ROUTE_NOT_KNOWN, _ADVICE, "The design ends here", "Whether it arrives depends on a router that the design doesn't hold.", "RFC 1812 section 5.2.4.2"),
    CatalogueEntry(Code.ROUTE_ASYMMETRIC, _ADVICE, "The answer comes another way", "It works until something on one of the two ways keeps state, or one of them fails.", "RFC 3439 section 3.5"),
    CatalogueEntry(Code.ROUTE_OTHER_EXIT, _BLOCKER, "It doesn't leave by its exit", "The outside sees another address than was meant, or nothing arrives there.", "RFC 4301 section 4.4.1"),
    CatalogueEntry(Code.ROUTE_NOT_OUTSIDE, _BLOCKER, "It doesn't leave to the Internet", "What is wanted stands outside, and nothing arrives there.", "RFC 1812 section 5.2.4.3"),
    CatalogueEntry(Code.ROUTE_NAMES_NOTHING, _PARTIAL, "An intent names what isn't here", "Nothing is compared by it: neither that it works nor that it doesn't is known.", "RFC 1034 section 3.1, RFC 1812 section 5.2.4.3"),
    CatalogueEntry(Code.EXIT_NOT_TAKEN, _EXPOSURE, "The exit's setting didn't take", "The workload leaves beside the exit, under the address of somebody else.", "RFC 4301 section 4.4.1"),
    CatalogueEntry(Code.EXIT_ACCESS_CUT, _PARTIAL, "A published port isn't reached", "Whoever uses it from inside waits until the time is out.", "RFC 1812 section 5.2.4.3"),
    CatalogueEntry(Code.EXIT_PORT_TWICE, _PARTIAL, "Ports meet at the exit", "Those who share a network share its ports: the second one doesn't start.", "RFC 9293 section 3.9.1"),
    CatalogueEntry(Code.ROUTE_NONE_INTO_TUNNEL, _PARTIAL, "Nothing leads into the tunnel", "The tunnel comes up and carries nothing from this side.", "RFC 1812 section 5.2.4.3"),
    CatalogueEntry(Code.ROUTE_SUPERFLUOUS, _ADVICE, "A superfluous route", "It changes nothing, and has to be kept up.", "RFC 4632 section 5.1"),
    CatalogueEntry(Code.ROUTE_UNNEEDED, _ADVICE, "A route that nothing needs", "It opens a way that nobody has asked for.", "RFC 4632 section 5.1"),
    CatalogueEntry(Code.FILTER_BLOCKS, _BLOCKER, "A filter blocks it", "What is wanted is dropped by the gateway's own rules.", "RFC 2979 section 3"),
    CatalogueEntry(Code.FILTER_ASYMMETRIC, _BLOCKER, "The answer meets a filter that doesn't know it", "The filter drops every answer, since the connection began on another way.", "RFC 2979 section 3"),
    CatalogueEntry(Code.POLICY_NEVER_MATCHES, _PARTIAL, "A rule that never matches", "What it was made for is done by other rules, in their way.", "RFC 4301 section 4.4.1"),
    CatalogueEntry(Code.POLICY_SHADOWED, _ADVICE, "A rule that is partly shadowed", "For that part the rule above decides, whatever this one says.", "RFC 4301 section 4.4.1"),
    CatalogueEntry(Code.POLICY_REDUNDANT, _ADVICE, "A redundant rule", "It changes nothing.", "RFC 4301 section 4.4.1"),
    CatalogueEntry(Code.POLICY_CONFLICTING, _PARTIAL, "Rules of one order that disagree", "Which one decides is left to chance; another device may choose otherwise.", "RFC 4301 section 4.4.1"),
    CatalogueEntry(Code.POLICY_LEAK_ON_FAILURE, _EXPOSURE, "Leaves unprotected on failure", "When the tunnel fails, its traffic goes out in clear, and nobody notices.", "RFC 4301 section 4.4.1"),
    CatalogueEntry(Code.POLICY_NEVER_HOLDS, _EXPOSURE, "A hold that never holds", "An uplink takes the traffic out in clear before the rule would hold it.", "RFC 4301 section 4.4.1"),
    CatalogueEntry(Code.POLICY_NAME, _ADVICE, "A name in a rule", "What the rule matches depends on when the name is resolved, and by whom.", "RFC 1035 section 7, RFC 2181 section 8"),
    CatalogueEntry(Code.POLICY_REGION_UNKNOWN, _PARTIAL, "A region that no site has", "The rule matches nothing by it.", "RFC 4301 section 4.4.1"),
    CatalogueEntry(Code.POLICY_CLASS_UNMARKED, _PARTIAL, "A class that nobody marks", "The rule never matches.", "RFC 2474 section 4, RFC 2475 section 2.3.3"),
    CatalogueEntry(Code.POLICY_LIST_OLD, _ADVICE, "A list of prefixes without a recent day", "What the rule matches may not be what it was made for any more.", "RFC 8805 section 3"),
    CatalogueEntry(Code.POLICY_PATH_ELSEWHERE, _PARTIAL, "A path that isn't the gateway's", "The gateway passes it over.", "RFC 4301 section 4.4.1"),
    CatalogueEntry(Code.DNS_BESIDE_TUNNEL, _EXPOSURE, "Names are asked beside the tunnel", "Whoever runs that resolver, or listens on its uplink, learns what is asked for.", "RFC 9076 section 2"),
)  # fmt: skip
