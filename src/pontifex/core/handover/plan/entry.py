"""What is entered at one device at once: the unit that a plan puts in order."""

from __future__ import annotations

from dataclasses import dataclass
from functools import reduce
from typing import Annotated, Any, Final, TypeVar

from pydantic import Field

from pontifex.core.choice import Choice
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds import KINDS, ObjectType, Side
from pontifex.core.model import Design, DesignObject
from pontifex.core.model.references import ObjectKey


class Action(Choice):
    """What an entry does. Where nothing else decides, an action comes before those below it."""

    ADD = "add"  # something that wasn't there
    ADD_BESIDE = "add-beside"  # the new beside the old, which stays for now
    ENTER = "enter"  # an end of a new tunnel, switched off
    SWITCH_ON = "switch-on"
    CHANGE = "change"  # one value in place of another
    TAKE_OUT = "take-out"  # the old from beside the new
    SWITCH_OFF = "switch-off"  # the end that calls, of a tunnel that goes
    REMOVE = "remove"
    RENEW = "renew"  # nothing is entered: hosts are to hear of what was


_Item = TypeVar("_Item", bound=FrozenModel)
ACTIONS: Final = tuple(Action)
TOUCHES_OLD: Final = frozenset({Action.CHANGE, Action.TAKE_OUT, Action.SWITCH_OFF, Action.REMOVE})


@dataclass(frozen=True, slots=True, kw_only=True)
class Device:
    """Where something is entered: a gateway, or the site whose hosts and networks are changed."""

    type: ObjectType
    id: str
    name: str
    organisation: Annotated[str, Field(title="Who enters it", description="Empty for one's own.")]


@dataclass(frozen=True, slots=True)
class Write:
    """A value of an object: `path` is a field, such as "left/ike_proposals"; empty for the object, which None removes."""

    type: ObjectType
    id: str
    path: str
    value: Any


@dataclass(frozen=True, slots=True)
class Entry:
    """Some values that a device takes at once.

    A state of the design follows from the set of what is entered, however it came about: entries that write the same value
    are kept in their order by `after`.
    """

    place: int
    device: Device
    action: Action
    key: ObjectKey  # the object that it is about
    writes: tuple[Write, ...]
    side: Side | None = None  # of a tunnel
    comes_second: bool = False  # the other device's entry of the same sort comes first where nothing else decides
    after: frozenset[int] = frozenset()  # places of entries without which it can't be made

    @property
    def rank(self) -> tuple[int, int, bool, int]:
        """Sort key: what is entered first where nothing else decides."""
        return ACTIONS.index(self.action), _ORDER[self.key[0]], self.comes_second, self.place


_ORDER: Final = {kind.name: place for place, kind in enumerate(KINDS)}


def only_tunnel(entry: Entry) -> str | None:
    """Return the id of the tunnel whose fields are all that an entry changes; None for any other entry."""
    ids = {write.id if write.type is ObjectType.TUNNEL and write.path else None for write in entry.writes}
    return ids.pop() if len(ids) == 1 else None


def written(design: Design, entry: Entry) -> Design:
    """Return a design with what is entered. In which order entries are made that may come in any order makes no difference."""
    tunnel_id = only_tunnel(entry)
    if tunnel_id is not None:
        tunnel = design.tunnel_by_id[tunnel_id]
        for write in entry.writes:
            tunnel = _with_field(tunnel, write.path.split("/"), write.value)
        return design.with_tunnel(tunnel)
    lists: dict[str, object] = {}
    for kind in KINDS:
        writes = [write for write in entry.writes if write.type is kind.name]
        if writes:
            objects: dict[str, DesignObject] = {member.id: member for member in getattr(design, kind.members)}
            for write in writes:
                _write(objects, write)
            lists[kind.members] = tuple(objects[id_] for id_ in sorted(objects))
    return design.with_valid(lists)


def _write(objects: dict[str, DesignObject], write: Write) -> None:
    if write.path:
        objects[write.id] = _with_field(objects[write.id], write.path.split("/"), write.value)
    elif write.value is None:
        objects.pop(write.id, None)
    else:
        objects[write.id] = write.value


def _with_field(item: _Item, path: list[str], value: Any) -> _Item:
    field, *rest = path
    return item.with_valid({field: _with_field(getattr(item, field), rest, value) if rest else value})


def value_at(item: FrozenModel, path: str) -> Any:
    """Return the value of a field of an object, by its path."""
    return reduce(getattr, path.split("/"), item)
