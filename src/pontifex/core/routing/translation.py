"""What the translations of a gateway make of a flow."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from pontifex.core.addressing import Address
from pontifex.core.model import TranslatedSide, Translation, TranslationKind
from pontifex.core.routing.flow import Flow

States = Sequence[tuple[Address, Address]]  # addresses that many hosts share, each with the one that began


def translated(translations: Sequence[Translation], tunnel_id: str, flow: Flow, leaving: bool, states: States = ()) -> Flow:
    """Return a flow after the translations of a gateway, leaving into a tunnel or arriving from it."""
    sources, destinations = (TranslatedSide.OWN, TranslatedSide.FAR) if leaving else (TranslatedSide.FAR, TranslatedSide.OWN)
    for one in translations:
        if one.tunnel_id not in (None, tunnel_id):
            continue
        if one.side is sources and one.inside.holds(flow.source):
            flow = replace(flow, source=Address(flow.source.family, one.seen(flow.source.value)))
        if one.side is destinations and one.outside.holds(flow.destination):
            flow = replace(flow, destination=_real(one, flow.destination, states))
    return flow


def _real(translation: Translation, seen: Address, states: States) -> Address:
    if translation.kind is TranslationKind.BEHIND_ONE:
        return dict(states).get(seen, seen)
    return Address(seen.family, seen.value - translation.outside.network + translation.inside.network)
