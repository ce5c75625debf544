"""A design as many additions change it, object by object: what is there already, and names and ids that are free."""

from __future__ import annotations

from collections import defaultdict
from itertools import count
from typing import Any

from pontifex.core.addressing import Family, Prefix
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.importing.words import as_name, folded, title_of
from pontifex.core.kinds import KINDS, Host, Network, Site, SiteKind
from pontifex.core.model import Design, DesignObject
from pontifex.core.model.ids import fresh_id
from pontifex.core.model.references import parent_id
from pontifex.core.model.written import written


class DesignDraft:
    """The objects of a design as they become."""

    def __init__(self, design: Design) -> None:
        self.lists: dict[type, dict[str, Any]] = {kind.model: dict(design.by_type[kind.name]) for kind in KINDS}
        self.host_at = {(host.network_id, host.address): host.id for host in design.hosts}
        self._at: dict[Prefix, set[str]] = defaultdict(set)  # ids of networks
        self._lengths: dict[Family, set[int]] = defaultdict(set)
        for network in design.networks:
            self._place(network, None)
        self.before = {type_: dict(items) for type_, items in self.lists.items()}
        self._site_by_name = {folded(site.name): site.id for site in design.sites} | {site.id: site.id for site in design.sites}
        self._numbers: dict[tuple[type, str, str], int] = {}  # the last one that a name was given, where it stood already
        self._names = {
            (type_, parent_id(item), folded(item.name)): item.id for type_, items in self.lists.items() for item in items.values()
        }

    def changed(self) -> list[DesignObject]:
        """Return the objects that are new or different, those that others refer to first."""
        return [item for type_, items in self.lists.items() for id_, item in items.items() if self.before[type_].get(id_) != item]

    def site_id(self, name: str) -> str | None:
        """Return the id of the site of a name, or of an id."""
        name = as_name(name)
        return self._site_by_name.get(folded(name)) or self._site_by_name.get(name)

    def site(self, name: str, kind: SiteKind = SiteKind.OFFICE, region: str = "") -> Site:
        """Return the site of a name, made when it isn't there."""
        known = self.site_id(name)
        if known:
            site: Site = self.lists[Site][known]
            return site
        name = as_name(name)
        made = Site(id=self.free_id(Site, name), name=name, kind=kind, region=region)
        self.keep(made)
        self._site_by_name[folded(name)] = made.id
        return made

    def named(self, type_: type, parent: str, name: str) -> str | None:
        """Return the id of the object of a name among the children of a parent."""
        return self._names.get((type_, parent, folded(name)))

    def change(self, type_: type[FrozenModel], id_: str, fields: dict[str, Any]) -> str:
        """Change fields of an object; return what differs in words, empty where nothing does. Raise ValidationError."""
        before = self.lists[type_][id_]
        after = type_.model_validate({**before.model_dump(mode="json"), **fields})
        if after == before:
            return ""
        self.keep(after)
        changed = [field for field in fields if getattr(after, field) != getattr(before, field)]
        return "; ".join(
            f"{title_of(type_, field)}: {written(getattr(before, field))} → {written(getattr(after, field))}" for field in changed
        )

    def keep(self, item: Any) -> None:
        """Take an object in, new or in the place of the one of its id."""
        before = self.lists[type(item)].get(item.id)
        self.lists[type(item)][item.id] = item
        if isinstance(item, Host):
            self.host_at[item.network_id, item.address] = item.id
        if isinstance(item, Network):
            self._place(item, before)
        self._names[type(item), parent_id(item), folded(item.name)] = item.id

    def _place(self, network: Network, before: Network | None) -> None:
        """Note where a network stands, so that what holds an address is found without asking all of them."""
        if before is not None and before.prefix != network.prefix:
            self._at[before.prefix].discard(before.id)
        self._at[network.prefix].add(network.id)
        self._lengths[network.prefix.family].add(network.prefix.length)

    def holding(self, site: Site | None, inside: Prefix) -> Network | None:
        """Return the narrowest network that holds a prefix, at a site or anywhere; None when sites are in doubt."""
        family, found = inside.family, list[Network]()
        for length in self._lengths[family]:
            if length <= inside.length:
                block = Prefix(family, inside.network & ~family.host_mask(length), length)
                found += (self.lists[Network][id_] for id_ in self._at.get(block, ()))
        fitting = [network for network in found if site is None or network.site_id == site.id]
        if len({network.site_id for network in fitting}) > 1:
            return None
        return max(fitting, key=lambda network: (network.prefix.length, network.id), default=None)

    def free_name(self, type_: type, parent: str, name: str) -> str:
        """Return a name that no sibling has: the name itself, or with a number."""
        if not self.named(type_, parent, name[:80]):
            return name[:80]
        stem = name[:70]
        first = self._numbers.get((type_, parent, stem), 1) + 1
        number = next(k for k in count(first) if not self.named(type_, parent, f"{stem} {k}"))
        self._numbers[type_, parent, stem] = number
        return f"{stem} {number}"

    def free_id(self, type_: type, words: str) -> str:
        """Return an id made of words that no object of a kind has."""
        return fresh_id(words, self.lists[type_], "imported")
