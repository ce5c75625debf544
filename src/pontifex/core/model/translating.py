"""What the ends of tunnels are to name where a gateway translates."""

from __future__ import annotations

from dataclasses import replace

from pontifex.core.addressing import Selector
from pontifex.core.kinds import Side, TranslatedSide, Translation, Tunnel
from pontifex.core.model.design import Design


def crossed(design: Design, translation: Translation) -> list[tuple[Tunnel, Side]]:
    """Return the tunnels that a translation is about, each with the side of its gateway."""
    return [
        (tunnel, side)
        for tunnel, side in design.ends_of_gateway(translation.gateway_id)
        if translation.tunnel_id in (None, tunnel.id)
    ]


def reselected(design: Design, translation: Translation) -> list[Tunnel]:
    """Return the tunnels whose selectors are to name what is seen, with such selectors: those that the own side's go through."""
    if translation.side is TranslatedSide.FAR:
        return []
    changed: list[Tunnel] = []
    for tunnel, near in crossed(design, translation):
        local = translated_selectors(tunnel.end(near).local_networks, translation)
        remote = translated_selectors(tunnel.end(near.other).remote_networks, translation)
        moved = tunnel.with_end(near, local_networks=local).with_end(near.other, remote_networks=remote)
        if moved != tunnel:
            changed.append(moved)
    return changed


def translated_selectors(selectors: tuple[Selector, ...], translation: Translation) -> tuple[Selector, ...]:
    """Return selectors with what a translation's real addresses are seen as in their place."""
    inside, outside = Selector.of(translation.inside), Selector.of(translation.outside)
    found: list[Selector] = []
    for selector in selectors:
        if selector.family is inside.family and inside.first <= selector.first and selector.last <= inside.last:
            found.append(replace(selector, first=translation.seen(selector.first), last=translation.seen(selector.last)))
            continue
        found.append(selector)
        if (
            not selector.is_all
            and selector.family is inside.family
            and selector.first <= inside.first
            and inside.last <= selector.last
        ):
            found.append(replace(outside, protocols=selector.protocols, ports=selector.ports))
    return tuple(dict.fromkeys(found))
