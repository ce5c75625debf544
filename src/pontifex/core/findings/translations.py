"""Findings about translations: what they lead into, what they hide, and what forgets them."""

from __future__ import annotations

from collections.abc import Iterator

from pontifex.core.catalogue import Code
from pontifex.core.findings.finding import Finding, Place, finding
from pontifex.core.kinds import Network, ObjectType, TranslatedSide, Translation, TranslationKind
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, Remove, Translate, crossed, reselected
from pontifex.core.space import JoinedSites
from pontifex.core.space.translate import hosts_of, networks_of, seen_as


def translation_findings(design: Design, joined: JoinedSites) -> Iterator[Finding]:
    """Yield what is to be said of each translation."""
    for one in design.translations:
        yield from _outside_taken(design, joined, one)
        yield from _real_selectors(design, one)
        inside = networks_of(design, one)
        if not inside:
            gone = (Remedy(title="Remove it", operations=(Remove(type=ObjectType.TRANSLATION, id=one.id),)),)
            yield finding(
                Code.TRANSLATION_NAMES_NOTHING, (_place(one, "inside"),), f"no network there has any of {one.inside}", gone
            )
        elif one.kind is TranslationKind.BEHIND_ONE:
            names = ", ".join(network.name for network in inside)
            yield finding(Code.TRANSLATION_HIDES, (_place(one, "kind"),), f"{names} {one.inside} is seen as {one.outside}")
        named = [host for host in hosts_of(design, one) if host.dns_name]
        if named:
            shown = ", ".join(
                f"{host.dns_name} answers {host.address} instead of {seen_as(one, host.address)}" for host in named[:3]
            )
            yield finding(Code.TRANSLATION_DNS, (_place(one, "inside"),), f"across {one.name}, {shown}")


def _outside_taken(design: Design, joined: JoinedSites, one: Translation) -> Iterator[Finding]:
    here = design.gateway_by_id[one.gateway_id].site_id
    far = {design.site_of(tunnel.end(side.other)).id for tunnel, side in crossed(design, one)}
    seers = far if one.side is TranslatedSide.OWN else {here}
    component = {joined.component[site_id] for site_id in seers}
    for network in design.networks:
        if not network.zone and joined.component[network.site_id] in component and one.outside.overlaps(network.prefix):
            why = f"{one.name} shows {one.inside} as {one.outside}, and {_named(design, network)} is {network.prefix}"
            yield finding(Code.TRANSLATION_OUTSIDE_TAKEN, (_place(one, "outside"), _network_place(network)), why)
    for other in design.translations:
        if other.id > one.id and other.outside.overlaps(one.outside) and other.inside != one.inside:
            why = f"{one.name} and {other.name} both lead to {one.outside}"
            yield finding(Code.TRANSLATION_OUTSIDE_TAKEN, (_place(one, "outside"), _place(other, "outside")), why)


def _real_selectors(design: Design, one: Translation) -> Iterator[Finding]:
    """A tunnel whose ends name real addresses where translated ones arrive."""
    if one.side is TranslatedSide.FAR:
        return
    changed = reselected(design, one)
    if not changed:
        return
    names = ", ".join(tunnel.name for tunnel in changed)
    why = f"{one.name} shows {one.inside} as {one.outside}, and {names} names the real addresses, or not what is seen"
    remedy = Remedy(title=f"Name {one.outside} in the tunnels", operations=(Translate(object=one),))
    yield finding(Code.TRANSLATION_REAL_SELECTORS, (_place(one, "outside"),), why, (remedy,))


def _named(design: Design, network: Network) -> str:
    return f"{design.site_by_id[network.site_id].name}'s {network.name}"


def _place(one: Translation, field: str) -> Place:
    return Place(type=ObjectType.TRANSLATION, id=one.id, name=one.name, field=field)


def _network_place(network: Network) -> Place:
    return Place(type=ObjectType.NETWORK, id=network.id, name=network.name, field="prefix")
