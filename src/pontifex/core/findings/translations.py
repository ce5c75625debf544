"""Findings about translations: what they lead into, what they hide, and what forgets them."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from pontifex.core.catalogue import Code
from pontifex.core.findings.finding import Place, Remark, network_of, remark
from pontifex.core.kinds import Network, ObjectType, TranslatedSide, Translation, TranslationKind
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, Remove, Translate, crossed, reselected
from pontifex.core.reasons import addresses, all_named, named
from pontifex.core.space import JoinedSites
from pontifex.core.space.translate import hosts_of, networks_of, seen_as


def translation_findings(design: Design, joined: JoinedSites) -> Iterator[Remark]:
    """Yield what is to be said of each translation."""
    for translation in design.translations:
        yield from _outside_taken(design, joined, translation)
        yield from _real_selectors(design, translation)
        inside = networks_of(design, translation)
        if not inside:
            nothing, removed = addresses.NoNetworkInside(translation.inside), partial(_removed, translation)
            yield remark(Code.TRANSLATION_NAMES_NOTHING, (_place(translation, "inside"),), nothing, removed)
        elif translation.kind is TranslationKind.BEHIND_ONE:
            as_one = addresses.SeenAsOne(all_named(inside), translation.inside, translation.outside)
            yield remark(Code.TRANSLATION_HIDES, (_place(translation, "kind"),), as_one)
        hosts = [host for host in hosts_of(design, translation) if host.dns_name]
        if hosts:
            answers = tuple(
                addresses.Answers(host.dns_name or "", host.address, seen_as(translation, host.address)) for host in hosts
            )
            yield remark(
                Code.TRANSLATION_DNS, (_place(translation, "inside"),), addresses.NamesAcross(named(translation), answers)
            )


def _outside_taken(design: Design, joined: JoinedSites, translation: Translation) -> Iterator[Remark]:
    here = design.gateway_by_id[translation.gateway_id].site_id
    far = {design.site_of(tunnel.end(side.other)).id for tunnel, side in crossed(design, translation)}
    seers = far if translation.side is TranslatedSide.OWN else {here}
    component = {joined.component[site_id] for site_id in seers}
    for network in design.networks:
        if not network.zone and joined.component[network.site_id] in component and translation.outside.overlaps(network.prefix):
            why = addresses.OutsideTaken(
                named(translation), translation.inside, translation.outside, network_of(design, network), network.prefix
            )
            yield remark(Code.TRANSLATION_OUTSIDE_TAKEN, (_place(translation, "outside"), _network_place(network)), why)
    for other in design.translations:
        if other.id > translation.id and other.outside.overlaps(translation.outside) and other.inside != translation.inside:
            both = addresses.BothLeadTo(named(translation), named(other), translation.outside)
            yield remark(Code.TRANSLATION_OUTSIDE_TAKEN, (_place(translation, "outside"), _place(other, "outside")), both)


def _real_selectors(design: Design, translation: Translation) -> Iterator[Remark]:
    """A tunnel whose ends name real addresses where translated ones arrive."""
    if translation.side is TranslatedSide.FAR:
        return
    changed = reselected(design, translation)
    if not changed:
        return
    why = addresses.RealSelectors(named(translation), translation.inside, translation.outside, all_named(changed))
    yield remark(Code.TRANSLATION_REAL_SELECTORS, (_place(translation, "outside"),), why, partial(_named, translation))


def _removed(translation: Translation) -> Iterator[Remedy]:
    yield Remedy(title="Remove it", operations=(Remove(type=ObjectType.TRANSLATION, id=translation.id),))


def _named(translation: Translation) -> Iterator[Remedy]:
    yield Remedy(title=f"Name {translation.outside} in the tunnels", operations=(Translate(object=translation),))


def _place(translation: Translation, field: str) -> Place:
    return Place(type=ObjectType.TRANSLATION, id=translation.id, name=translation.name, field=field)


def _network_place(network: Network) -> Place:
    return Place(type=ObjectType.NETWORK, id=network.id, name=network.name, field="prefix")
