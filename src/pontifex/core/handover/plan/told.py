"""What a step does, how it is checked and how it is taken back, in words."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.frozen_model import FrozenModel
from pontifex.core.handover.plan.entry import Action, Entry, Write, value_at
from pontifex.core.kinds import Tunnel
from pontifex.core.model import Design, DesignObject
from pontifex.core.model.written import ABSENT, WrittenObject

_HIDDEN: Final = ("id", "left", "right", "name", "standard_id", "exceptions")


@dataclass(frozen=True, slots=True, kw_only=True)
class Value:
    """One value that is entered; of a list that grows or shrinks only what is added, or what is taken out."""

    path: Annotated[str, Field(title="Field", examples=["left/ike_proposals"])]
    title: str
    before: Annotated[str, Field(title="Now", description="Empty where something is only added.")]
    after: Annotated[str, Field(title="Enter", description="Empty where something is only taken out.")]

    @property
    def text(self) -> str:
        """The value as a person reads it."""
        if not self.before:
            return f"{self.title}: add {self.after}"
        return f"{self.title}: {self.before} → {self.after}" if self.after else f"{self.title}: take out {self.before}"


def values(entry: Entry, before: Design, after: Design) -> tuple[Value, ...]:
    """Return what an entry changes between the states before and after it, value by value."""
    found = [value for write in entry.writes for value in _of_write(entry, write, before, after)]
    return tuple(value for value in found if value.before != value.after)


def _of_write(entry: Entry, write: Write, before: Design, after: Design) -> Iterator[Value]:
    was, is_ = before.by_type[write.type].get(write.id), after.by_type[write.type].get(write.id)
    if write.path:
        yield _value(write.path, was, is_, before, after)
        return
    some = is_ or was
    if isinstance(some, Tunnel) and entry.side:
        if entry.action is Action.ENTER:  # the design has both ends at once; each device takes its own
            yield from (_value(path, None, is_, before, after) for path in _paths(some.end(entry.side), f"{entry.side.value}/"))
        return
    if some:
        yield from (_value(path, was, is_, before, after) for path in _paths(some, ""))


def _paths(item: FrozenModel, head: str) -> Iterator[str]:
    yield from (f"{head}{field}" for field in type(item).model_fields if field not in _HIDDEN and field != "gateway_id")


def _value(path: str, was: DesignObject | None, is_: DesignObject | None, before: Design, after: Design) -> Value:
    some = is_ or was
    assert some
    if was and is_ and isinstance(value_at(is_, path), tuple):
        old, new = value_at(was, path), value_at(is_, path)
        added, gone = (
            tuple(candidate for candidate in some if candidate not in others) for some, others in ((new, old), (old, new))
        )
        if not added or not gone:
            texts = [WrittenObject(is_, after).field(path, part) if part else "" for part in (gone, added)]
            return Value(path=path, title=_title(some, path), before=texts[0], after=texts[1])
    return Value(path=path, title=_title(some, path), before=_text(was, path, before), after=_text(is_, path, after))


def _text(item: DesignObject | None, path: str, design: Design) -> str:
    return WrittenObject(item, design).field(path, value_at(item, path)) if item else ABSENT


def _title(item: DesignObject, path: str) -> str:
    *held, field = path.split("/")
    owner = value_at(item, "/".join(held)) if held else item
    return str(type(owner).model_fields[field].title or field)


_DOES: Final = {
    Action.ADD: "Add {kind} {name}",
    Action.ADD_BESIDE: "{name}: add the new beside the old",
    Action.ENTER: "Enter tunnel {name}, still switched off",
    Action.SWITCH_ON: "Switch on {name}",
    Action.CHANGE: "{name}: change",
    Action.TAKE_OUT: "{name}: take out the old",
    Action.SWITCH_OFF: "Switch off {name}, and take its end out",
    Action.REMOVE: "Take out {kind} {name}",
}
_UNDO: Final = {
    Action.ADD: "take it out again",
    Action.ADD_BESIDE: "take the new out again",
    Action.ENTER: "take the end out again",
    Action.SWITCH_ON: "switch it off again",
    Action.CHANGE: "enter the values as they were",
    Action.TAKE_OUT: "enter the old ones beside the new again",
    Action.SWITCH_OFF: "enter the end as it was, and switch it on",
    Action.REMOVE: "enter it as it was",
}


def does(entry: Entry, before: Design, after: Design) -> str:
    """Return what is to be done, in a few words; the values stand beside it."""
    kind, id_ = entry.key
    item = after.by_type[kind].get(id_) or before.by_type[kind].get(id_)
    return _DOES[entry.action].format(kind=kind.label, name=_name(item, id_))


def undo(entry: Entry) -> str:
    """Return the way back of a step."""
    return _UNDO[entry.action]


def _name(item: DesignObject | None, id_: str) -> str:
    name = str(getattr(item, "name", "") or "")
    if name or item is None:
        return name or id_
    prefix = getattr(item, "prefix", None)
    return f"to {prefix}" if prefix else id_
