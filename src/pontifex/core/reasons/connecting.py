"""Why two sites can't be joined."""

from __future__ import annotations

from pontifex.core.kinds import Site, Tunnel
from pontifex.core.reasons.reason import Named, Reason


class JoinedAlready(Reason, text="they are joined already by {tunnel}"):
    tunnel: Named[Tunnel]


class NoGateway(Reason, text="{site} has no gateway that does {technology}"):
    site: Named[Site]
    technology: str


class NoUplink(Reason, text="{site} has no uplink that IKE gets out of"):
    site: Named[Site]


class NeitherCallable(Reason, text="neither can be called: no uplink of {left} or {right} lets UDP 500/4500 in"):
    left: Named[Site]
    right: Named[Site]


class NowhereToCall(Reason, text="the uplink of {site} that can be called has neither an address nor a name yet"):
    site: Named[Site]


class NoNetworks(Reason, text="{site} has no network to be reached"):
    site: Named[Site]


class TooManyOfSite(Reason, text="{site} has {count} networks, and an end names {most} at most: let routes decide"):
    site: Named[Site]
    count: int
    most: int


class IdentityTooLong(Reason, text="the identity that the pattern gives {site} is longer than {most} characters"):
    site: Named[Site]
    most: int


class SameIdentity(Reason, text="the pattern gives {site} and {other} the same identity, {identity}"):
    site: Named[Site]
    other: Named[Site]
    identity: str
