"""What has to be entered to turn one state of a design into another, device by device.

The rules of the trade: the new beside the old before the old goes, and ends of a tunnel one after the other. What no device
holds (names, standards, intents) isn't entered anywhere.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from itertools import count
from typing import Any, Final

from pontifex.core.handover.plan.entry import Action, Device, Entry, Write
from pontifex.core.kinds import (
    SIDES,
    CloudRule,
    Gateway,
    Host,
    Network,
    ObjectType,
    Role,
    Route,
    Side,
    Site,
    SiteKind,
    Tunnel,
    TunnelEnd,
)
from pontifex.core.model import Design, DesignObject, difference
from pontifex.core.model.difference import ChangedObject
from pontifex.core.model.references import ObjectKey, references

ENTERED: Final = (  # the kinds that devices hold
    *(ObjectType.NETWORK, ObjectType.GATEWAY, ObjectType.UPLINK, ObjectType.TUNNEL, ObjectType.HOST),
    *(ObjectType.TRANSLATION, ObjectType.ROUTE, ObjectType.RULE, ObjectType.FILTER),
    ObjectType.CLOUD_RULE,
)
# lists of an end of which a device takes several at once: the new may stand beside the old
_BESIDE: Final = (
    *("ike_proposals", "child_proposals", "data_ciphers", "local_networks", "remote_networks", "pushed_networks"),
    "trust_anchors",
)
_BESIDE_SUFFIX: Final = "-beside"


def entries(before: Design, after: Design) -> tuple[Entry, ...]:
    """Return what has to be entered, with what each entry can't be made without; in no order yet."""
    making = _Making(before, after)
    changed = [changed_object for changed_object in difference(before, after).objects if changed_object.type in ENTERED]
    found = [entry for changed_object in changed for entry in making.of(changed_object)]
    return tuple(_with_needs(found, before, after))


@dataclass
class _Making:
    """Two states, and the places of entries."""

    before: Design
    after: Design

    def __post_init__(self) -> None:
        self._places = count()

    def of(self, changed: ChangedObject) -> Iterator[Entry]:
        """Yield the entries about one object that differs."""
        was, is_ = changed.before, changed.after
        if isinstance(was, Tunnel) or isinstance(is_, Tunnel):
            yield from self._tunnel(was if isinstance(was, Tunnel) else None, is_ if isinstance(is_, Tunnel) else None)
        elif isinstance(was, Route) and isinstance(is_, Route) and was.changed(prefix=is_.prefix, name=is_.name) == is_:
            yield from self._moved_route(was, is_)
        else:
            action = Action.ADD if was is None else Action.REMOVE if is_ is None else Action.CHANGE
            yield self._entry(action, (changed.type, changed.id), is_ or was, [Write(changed.type, changed.id, "", is_)])

    def _entry(self, action: Action, key: ObjectKey, item: DesignObject | None, writes: list[Write]) -> Entry:
        return Entry(next(self._places), self._device(item), action, key, tuple(writes))

    def _moved_route(self, was: Route, is_: Route) -> Iterator[Entry]:
        """A route to another prefix: the new one beside the old one, which goes later."""
        key = (ObjectType.ROUTE, is_.id)
        beside = f"{is_.id[: 63 - len(_BESIDE_SUFFIX)]}{_BESIDE_SUFFIX}"
        yield self._entry(Action.ADD_BESIDE, key, is_, [Write(ObjectType.ROUTE, beside, "", is_.changed(id=beside))])
        writes = [Write(ObjectType.ROUTE, is_.id, "", is_), Write(ObjectType.ROUTE, beside, "", None)]
        yield self._entry(Action.TAKE_OUT, key, was, writes)

    def _tunnel(self, was: Tunnel | None, is_: Tunnel | None) -> Iterator[Entry]:
        if was is None and is_ is not None:
            yield from self._new_tunnel(is_)
        elif was is not None and is_ is None:
            yield from self._gone_tunnel(was)
        elif was is not None and is_ is not None:
            for side in SIDES:
                yield from self._changed_end(was, is_, side)

    def _new_tunnel(self, tunnel: Tunnel) -> Iterator[Entry]:
        """Both ends are entered, the waiting one first; then both are switched on, the waiting one first."""
        key = (ObjectType.TUNNEL, tunnel.id)
        off = tunnel.with_end(Side.LEFT, enabled=False).with_end(Side.RIGHT, enabled=False)
        for side in SIDES:
            yield self._of_end(Action.ENTER, tunnel, side, [Write(*key, "", off)])
        for side in SIDES:
            if tunnel.end(side).enabled:
                yield self._of_end(Action.SWITCH_ON, tunnel, side, [Write(*key, f"{side.value}/enabled", True)])

    def _gone_tunnel(self, tunnel: Tunnel) -> Iterator[Entry]:
        """The end that calls is taken out first, so that nobody is called who isn't there any more."""
        key = (ObjectType.TUNNEL, tunnel.id)
        first = next((side for side in SIDES if _calls(tunnel, side)), Side.LEFT)
        yield self._of_end(Action.SWITCH_OFF, tunnel, first, [Write(*key, f"{first.value}/enabled", False)])
        yield self._of_end(Action.REMOVE, tunnel, first.other, [Write(*key, "", None)])

    def _changed_end(self, was: Tunnel, is_: Tunnel, side: Side) -> Iterator[Entry]:
        """Yield what changes at an end: what can stand beside the old, what takes its place, and what goes then."""
        old, new = was.end(side), is_.end(side)
        fields = [field for field in TunnelEnd.model_fields if getattr(old, field) != getattr(new, field)]
        if not fields:
            return
        if {"gateway_id", "technology"} & set(fields):
            yield self._of_end(Action.CHANGE, is_, side, _end_writes(is_, side, fields, new))
            return
        beside = {field: _both(getattr(old, field), getattr(new, field)) for field in fields if field in _BESIDE}
        added = [field for field, both in beside.items() if both != getattr(old, field)]
        gone = [field for field, both in beside.items() if both != getattr(new, field) or field not in added]
        if added:
            joined = new.with_valid({field: beside[field] for field in added})
            yield self._of_end(Action.ADD_BESIDE, is_, side, _end_writes(is_, side, added, joined))
        switched = [field for field in fields if field == "enabled"]
        if switched:
            action = Action.SWITCH_ON if new.enabled else Action.CHANGE
            yield self._of_end(action, is_, side, _end_writes(is_, side, switched, new))
        others = [field for field in fields if field not in beside and field not in switched]
        if others:
            yield self._of_end(Action.CHANGE, is_, side, _end_writes(is_, side, others, new))
        if gone:
            yield self._of_end(Action.TAKE_OUT, is_, side, _end_writes(is_, side, gone, new))

    def _of_end(self, action: Action, tunnel: Tunnel, side: Side, writes: list[Write]) -> Entry:
        gateway_id = tunnel.end(side).gateway_id
        gateway = self.after.gateway_by_id.get(gateway_id) or self.before.gateway_by_id[gateway_id]
        second = _comes_second(tunnel, side)
        key = (ObjectType.TUNNEL, tunnel.id)
        return Entry(next(self._places), self._at_gateway(gateway), action, key, tuple(writes), side, comes_second=second)

    def _device(self, item: DesignObject | None) -> Device:
        if isinstance(item, Gateway):
            return self._at_gateway(item)
        if isinstance(item, Network | Host):
            network_id = item.network_id if isinstance(item, Host) else item.id
            network = self.after.network_by_id.get(network_id) or self.before.network_by_id[network_id]
            return self._at_site(network.site_id)
        if isinstance(item, CloudRule):
            return self._at_site(item.site_id)
        id_ = next(id_ for _, type_, id_ in references(item) if type_ is ObjectType.GATEWAY) if item else ""
        return self._at_gateway(self.after.gateway_by_id.get(id_) or self.before.gateway_by_id[id_])

    def _at_gateway(self, gateway: Gateway) -> Device:
        site = self.after.site_by_id.get(gateway.site_id) or self.before.site_by_id[gateway.site_id]
        return Device(type=ObjectType.GATEWAY, id=gateway.id, name=gateway.name, organisation=_other_organisation(site))

    def _at_site(self, site_id: str) -> Device:
        site = self.after.site_by_id.get(site_id) or self.before.site_by_id[site_id]
        return Device(type=ObjectType.SITE, id=site.id, name=site.name, organisation=_other_organisation(site))


def _other_organisation(site: Site) -> str:
    """Return who else runs a site; nothing where we do."""
    return (site.organisation or site.name) if site.kind is SiteKind.PARTNER else ""


def _calls(tunnel: Tunnel, side: Side) -> bool:
    role = tunnel.end(side).role
    return role is not None and role is not Role.WAIT


def _comes_second(tunnel: Tunnel, side: Side) -> bool:
    """Whether the other end comes first: the one that waits before the one that calls, a request before it is accepted."""
    calls, called = _calls(tunnel, side), _calls(tunnel, side.other)
    if calls == called:
        return side is Side.RIGHT
    return called if tunnel.end(side).technology.traits.needs_agreement else calls


def _end_writes(tunnel: Tunnel, side: Side, fields: Iterable[str], end: TunnelEnd) -> list[Write]:
    return [Write(ObjectType.TUNNEL, tunnel.id, f"{side.value}/{field}", getattr(end, field)) for field in fields]


def _both(old: tuple[Any, ...], new: tuple[Any, ...]) -> tuple[Any, ...]:
    """Return a list that has all of the old one, and behind it what is new."""
    return (*old, *(candidate for candidate in new if candidate not in old))


def _with_needs(found: list[Entry], before: Design, after: Design) -> Iterator[Entry]:
    """Yield the entries with what each can't be made without."""
    adds = {entry.key: entry.place for entry in found if entry.action in (Action.ADD, Action.ENTER) and not entry.comes_second}
    by_key: dict[ObjectKey, list[Entry]] = {}
    for entry in found:
        by_key.setdefault(entry.key, []).append(entry)
    leaving = _leaving(by_key, before, after)
    for entry in found:
        needs = {adds[used] for used in _used(entry) if used in adds} | leaving.get(entry.place, set())
        needs |= {other.place for other in by_key[entry.key] if _precedes(other, entry)}
        yield replace(entry, after=frozenset(needs - {entry.place}))


def _used(entry: Entry) -> Iterator[ObjectKey]:
    """Yield the objects that must be there for an entry to be made."""
    for write in entry.writes:
        if not write.path and write.value is not None:
            yield from ((type_, id_) for _, type_, id_ in references(write.value))
        elif write.path.endswith(("uplink_id", "gateway_id")) and write.value:
            yield (ObjectType.UPLINK if write.path.endswith("uplink_id") else ObjectType.GATEWAY), write.value


def _leaving(by_key: dict[ObjectKey, list[Entry]], before: Design, after: Design) -> dict[int, set[int]]:
    """Return, for each removal of an object by its place, the entries by which others stop referring to it."""
    removals = {key: entry.place for key, some in by_key.items() for entry in some if entry.action is Action.REMOVE}
    found: dict[int, set[int]] = {}
    for key, some in by_key.items():
        was, is_ = before.by_type[key[0]].get(key[1]), after.by_type[key[0]].get(key[1])
        still = {(type_, id_) for _, type_, id_ in references(is_)} if is_ else set()
        for _, type_, id_ in references(was) if was else ():
            if (type_, id_) in removals and (type_, id_) not in still:
                found.setdefault(removals[type_, id_], set()).update(entry.place for entry in some)
    return found


_PRECEDES: Final = {  # of entries about one object: which must be made before which, at the same device or at both
    (Action.ADD_BESIDE, Action.TAKE_OUT): True,
    (Action.ENTER, Action.SWITCH_ON): False,
    (Action.SWITCH_OFF, Action.REMOVE): False,
}


def _precedes(one: Entry, other: Entry) -> bool:
    if one.action is Action.ENTER and other.action is Action.ENTER:
        return other.comes_second and not one.comes_second
    same_device_only = _PRECEDES.get((one.action, other.action))
    return same_device_only is not None and (not same_device_only or one.side is other.side)
