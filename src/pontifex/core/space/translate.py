"""Living with a collision: translating a network that can't move, and what that means for everything around it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import chain
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address, Prefix, Selector, common_region
from pontifex.core.kinds import SIDES, Host, Network, SiteKind, TranslatedSide, Translation, TranslationKind
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, Operation, Translate, crossed
from pontifex.core.model.written import ABSENT
from pontifex.core.space.meeting import JoinedSites, meet
from pontifex.core.space.room import NOBODY, Room


@dataclass(frozen=True, slots=True)
class AddressCarrier:
    """A protocol that carries addresses inside, so that a translation alone doesn't do (RFC 3027, RFC 2663 section 8)."""

    name: str
    ports: frozenset[int]
    what: str


CARRIES_ADDRESSES: Final = (
    AddressCarrier("FTP", frozenset({21}), "names the data connection's address in PORT and PASV (RFC 3027 section 4.1)"),
    AddressCarrier("SIP", frozenset({5060, 5061}), "names media addresses in its session description (RFC 3027 section 4.5)"),
    AddressCarrier("H.323", frozenset({1720}), "names addresses of further channels in its messages (RFC 3027 section 4.7)"),
    AddressCarrier("SNMP", frozenset({161, 162}), "carries addresses in its values (RFC 2962)"),
    AddressCarrier("Kerberos", frozenset({88}), "may have the client's address in a ticket (RFC 3027 sections 3.2 and 3.3)"),
    AddressCarrier("X11", frozenset(range(6000, 6008)), "calls back to the display that the client names (RFC 3027 section 3.4)"),
    AddressCarrier("rsh and rlogin", frozenset({513, 514}), "open a second connection backwards (RFC 3027 section 3.5)"),
    AddressCarrier(
        "AH", frozenset(), "covers the addresses with its check, so that no translated packet passes (RFC 3715 section 2.1)"
    ),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Seen:
    """One address, or prefix, and what the other side sees in its place."""

    what: Annotated[str, Field(title="What", examples=["berth system"])]
    real: Annotated[str, Field(title="Real")]
    seen: Annotated[str, Field(title="Seen as")]


@dataclass(frozen=True, slots=True, kw_only=True)
class TranslationPlan:
    """A translation, and all that it means."""

    translation: Translation
    where: Annotated[str, Field(title="Where it is done")]
    seen_by: Annotated[str, Field(title="Who sees the other addresses")]
    table: Annotated[tuple[Seen, ...], Field(title="What is seen as what")]
    selectors: Annotated[tuple[str, ...], Field(title="What the tunnels' ends are to name")]
    routes: Annotated[tuple[str, ...], Field(title="Routes that are needed")]
    names: Annotated[tuple[str, ...], Field(title="Names whose answers give away the wrong address")]
    protocols: Annotated[tuple[str, ...], Field(title="Protocols that carry addresses inside")]
    stops: Annotated[tuple[str, ...], Field(title="What stops working")]


def plan(design: Design, translation: Translation) -> TranslationPlan:
    """Return what a translation means in a design."""
    gateway = design.gateway_by_id[translation.gateway_id]
    here = design.site_by_id[gateway.site_id]
    own = translation.side is TranslatedSide.OWN
    through = [tunnel for tunnel, _ in crossed(design, translation)]
    far = sorted({design.site_of(tunnel.end(near.other)).name for tunnel, near in crossed(design, translation)})
    networks = networks_of(design, translation)
    hosts = hosts_of(design, translation)
    seers = (", ".join(far) or "nobody yet: no tunnel ends at the gateway") if own else here.name
    return TranslationPlan(
        translation=translation,
        where=f"at {gateway.name}, on {', '.join(tunnel.name for tunnel in through) or 'no tunnel yet'}",
        seen_by=seers,
        table=_table(translation, networks, hosts),
        selectors=tuple(_selector_words(design, translation)),
        routes=_routes(translation, gateway.name, seers, [tunnel.name for tunnel in through]),
        names=tuple(_names(translation, hosts, seers)),
        protocols=_protocols(hosts),
        stops=_stops(translation, hosts),
    )


def networks_of(design: Design, translation: Translation) -> list[Network]:
    """Return the networks whose addresses are translated."""
    here = design.gateway_by_id[translation.gateway_id].site_id
    far = {design.site_of(tunnel.end(side.other)).id for tunnel, side in crossed(design, translation)}
    sites = {here} if translation.side is TranslatedSide.OWN else far
    return [n for n in design.networks if n.site_id in sites and n.prefix.overlaps(translation.inside)]


def hosts_of(design: Design, translation: Translation) -> list[Host]:
    """Return the hosts whose addresses are translated."""
    networks = networks_of(design, translation)
    return [host for n in networks for host in design.hosts_of_network(n.id) if translation.inside.holds(host.address)]


def seen_as(translation: Translation, address: Address) -> Address:
    """Return what a real address is seen as."""
    return Address(address.family, translation.seen(address.value))


def _table(translation: Translation, networks: Sequence[Network], hosts: Sequence[Host]) -> tuple[Seen, ...]:
    rows = [Seen(what=", ".join(n.name for n in networks) or ABSENT, real=str(translation.inside), seen=str(translation.outside))]
    for network in networks:
        address = network.gateway_address
        if address and translation.inside.holds(address):
            rows.append(_seen(f"gateway of {network.name}", address, translation))
    rows += [_seen(host.name, host.address, translation) for host in hosts[:50]]
    return tuple(rows)


def _seen(what: str, address: Address, translation: Translation) -> Seen:
    return Seen(what=what, real=str(address), seen=str(seen_as(translation, address)))


def _selector_words(design: Design, translation: Translation) -> Iterable[str]:
    own = translation.side is TranslatedSide.OWN
    for tunnel, near in crossed(design, translation):
        near_site, far_site = (design.site_of(tunnel.end(side)).name for side in (near, near.other))
        named = Selector.of(translation.outside)
        if own and not common_region(tunnel.end(near).local_networks, (named,)):
            yield f"{tunnel.name}: does not carry it; neither end names it"
        elif own:
            yield f"{tunnel.name}: {near_site} names {translation.outside} as its own, {far_site} as the far side's"
        else:
            yield f"{tunnel.name}: both ends go on naming {translation.inside}; the translation comes after the tunnel"


def _routes(translation: Translation, gateway: str, seers: str, tunnels: Sequence[str]) -> tuple[str, ...]:
    if translation.side is TranslatedSide.OWN:
        words = [f"{seers}: {translation.outside} into {name}" for name in tunnels]
    else:
        words = [f"{seers}: {translation.outside} to {gateway}", f"{gateway}: {translation.inside} into {', '.join(tunnels)}"]
    return (*words, f"{gateway}: {translation.outside} is answered for nowhere else; no host may have one of its addresses")


def _names(translation: Translation, hosts: Sequence[Host], seers: str) -> Iterable[str]:
    for host in hosts:
        if host.dns_name:
            yield f"{host.dns_name} answers {host.address}; at {seers} it must answer {seen_as(translation, host.address)}"
    yield f"reverse names: {translation.outside} needs a zone of its own where {seers} asks"


def _protocols(hosts: Sequence[Host]) -> tuple[str, ...]:
    """Name the protocols that hosts here are known to speak first, then the others."""
    spoken: dict[str, list[str]] = {}
    for host in hosts:
        for carrier in CARRIES_ADDRESSES:
            if carrier.ports & set(host.ports):
                spoken.setdefault(carrier.name, []).append(host.name)
    known = [
        f"{address_carrier.name} ({', '.join(spoken[address_carrier.name])}) {address_carrier.what}"
        for address_carrier in CARRIES_ADDRESSES
        if address_carrier.name in spoken
    ]
    return (
        *known,
        *(
            f"{address_carrier.name} {address_carrier.what}"
            for address_carrier in CARRIES_ADDRESSES
            if address_carrier.name not in spoken
        ),
    )


def _stops(translation: Translation, hosts: Sequence[Host]) -> tuple[str, ...]:
    if translation.kind is TranslationKind.ONE_TO_ONE:
        return ()
    published = [f"{host.name} ({', '.join(map(str, host.ports))})" for host in hosts if host.ports]
    return (
        "connections that the other side begins: one address can't say which host is meant",
        *([f"services that hosts here publish: {', '.join(published)}"] if published else []),
        "protocols without ports, such as GRE, ESP and AH, for more than one host at a time",
        "who did what: the other side's logs show one address for all",
        "more than about 64,000 connections to one far address and port at a time: hosts are told apart by port",
    )


def translate_both(joined: JoinedSites, room: Room, first: Network, second: Network, tunnels: Sequence[str]) -> Remedy | None:
    """Return translations that keep two networks apart, one-to-one, with the selectors that follow; None without room.

    The first network is shown to the other as free space of its own size, or the second, or both where one is not enough.
    A partner's network is translated at our gateway: the partner changes nothing but the names of our addresses. The
    tunnels lead from the first network's site to the second one's.
    """
    design = joined.design
    if not tunnels or (_is_partner(design, first) and _is_partner(design, second)):
        return None
    alone = ((first, second, tunnels[0]), (second, first, tunnels[-1]))
    ways = chain(((way,) for way in alone if not _comes_to(joined, way[1], way[0])), (alone,))
    found = next((operations for way in ways if (operations := _translated(joined, room, way, first, second))), None)
    if found is None:
        return None
    made = sorted((operation.object for operation in found), key=lambda translation: translation.id)
    shown = " and ".join(f"{translation.inside} as {translation.outside}" for translation in made)
    return Remedy(title=f"Translate one-to-one: show {shown}", operations=tuple(found))


def _comes_to(joined: JoinedSites, network: Network, other: Network) -> bool:
    """Whether a network is seen where another one stands: then translating that other one alone is not enough."""
    return any(view.prefix.overlaps(other.prefix) for view in joined.views(network, other.site_id).get(other.site_id, ()))


def _translated(
    joined: JoinedSites, room: Room, way: Sequence[tuple[Network, Network, str]], first: Network, second: Network
) -> list[Translate] | None:
    """Return the operations of a way that keeps the two apart; None when it doesn't.

    A network is translated on the one tunnel that leads to the other; where that is not enough, on all of its gateway.
    """
    for everywhere in (False, True):
        operations: list[Translate] = []
        shown: list[Prefix] = [first.prefix, second.prefix]
        for network, _, tunnel_id in way:
            best = room.offers(NOBODY, network.prefix.family, network.prefix.length, most=1, avoid=shown)
            if not best:
                return None
            shown.append(best[0].prefix)
            operations.append(Translate(object=_shown(joined.design, network, best[0].prefix, tunnel_id, everywhere)))
        if not meet(joined.after(operations), first, second):
            return operations
    return None


def _is_partner(design: Design, network: Network) -> bool:
    return design.site_by_id[network.site_id].kind is SiteKind.PARTNER


def _shown(design: Design, network: Network, outside: Prefix, tunnel_id: str, everywhere: bool) -> Translation:
    """Return the translation that shows a network as something else: at its own gateway, or at ours when it is a partner's."""
    tunnel = design.tunnel_by_id[tunnel_id]
    near = next(side for side in SIDES if design.site_of(tunnel.end(side)).id == network.site_id)
    partner = _is_partner(design, network)
    id_, name = _fresh(design, f"{network.id[:50]}-shown", f"{network.name} of {design.site_by_id[network.site_id].name}")
    return Translation(
        id=id_,
        gateway_id=tunnel.end(near.other if partner else near).gateway_id,
        name=name,
        tunnel_id=None if everywhere and not partner else tunnel_id,
        side=TranslatedSide.FAR if partner else TranslatedSide.OWN,
        inside=network.prefix,
        outside=outside,
    )


def _fresh(design: Design, id_: str, name: str) -> tuple[str, str]:
    """Return an id and a name that no translation has: as they are, or with a number."""
    ids, names = (
        {translation.id for translation in design.translations},
        {translation.name.casefold() for translation in design.translations},
    )
    numbered = ((f"{id_}-{k}", f"{name[:74]} {k}") for k in range(2, 10_000))
    candidates = chain([(id_, name[:80])], numbered)
    return next(pair for pair in candidates if pair[0] not in ids and pair[1].casefold() not in names)


def behind_one(design: Design, network: Network, address: Prefix) -> list[Operation]:
    """Return the operations that hide a network behind a single address at its site's tunnels, selectors included.

    There are none where the gateway is a partner's, or there is none.
    """
    gateway = next((g for g in design.gateways if g.site_id == network.site_id), None)
    if gateway is None or _is_partner(design, network):
        return []
    id_, name = _fresh(design, f"{network.id[:50]}-hidden", f"{network.name} behind one")
    translation = Translation(
        id=id_,
        gateway_id=gateway.id,
        name=name,
        kind=TranslationKind.BEHIND_ONE,
        inside=network.prefix,
        outside=address,
    )
    return [Translate(object=translation)]
