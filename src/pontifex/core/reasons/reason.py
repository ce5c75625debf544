"""A reason as a value: what is to be said, with typed parameters. Its wording is made where somebody reads it.

    class RestartNotNoticed(Reason, text="{side} doesn't notice when {side:far} restarts"):
        side: Side

Parameters are written by their type: a side by the name of its end, an object of the design by its own name, several one
behind the other. After a colon stands how:

- `far`: the end that faces the side
- `and`: several joined by "and"
- `some`: the first three, and how many more there are
- `minutes`: seconds in minutes, as short as it may be
- `next`: another reason, as a sentence that follows; nothing where there is none
- `route|routes`: the first word where it is one, the second otherwise
"""

from __future__ import annotations

import inspect
from collections.abc import Iterable
from dataclasses import dataclass
from enum import Enum
from functools import singledispatch
from string import Formatter
from threading import Lock
from typing import Any, ClassVar, Final, Generic, Never, Protocol, TypeVar, dataclass_transform

from pydantic import GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema

from pontifex.core.kinds import Side


@dataclass(frozen=True, slots=True)
class Names:
    """What to call each end of a tunnel."""

    left: str = ""
    right: str = ""

    def __getitem__(self, side: Side) -> str:
        return self.left if side is Side.LEFT else self.right


NO_NAMES: Final = Names()
_MOST: Final = 3
_MAKING: Final = Lock()


class _HasName(Protocol):
    @property
    def id(self) -> str: ...

    @property
    def name(self) -> str: ...


_Kind = TypeVar("_Kind", bound=_HasName)


@dataclass(frozen=True, slots=True)
class Named(Generic[_Kind]):
    """An object of the design as far as it is spoken of: a reason stays the same while nothing of what it says changes."""

    id: str
    name: str

    def __str__(self) -> str:
        return self.name


def named(item: _Kind) -> Named[_Kind]:
    """Return the name of an object."""
    return Named(item.id, item.name)


def all_named(items: Iterable[_Kind]) -> tuple[Named[_Kind], ...]:
    """Return the names of objects."""
    return tuple(map(named, items))


@dataclass_transform(frozen_default=True)
class Reason:
    """What is to be said. A subclass names its parameters as fields, and its wording as `text`, a clause."""

    _parts: ClassVar[tuple[tuple[str, str | None, str], ...]] = ()
    text: ClassVar[str] = ""

    def __init_subclass__(cls, text: str = "") -> None:
        super().__init_subclass__()
        cls.text = text
        cls._parts = tuple((literal, name, spec or "") for literal, name, spec, _ in Formatter().parse(text))
        said = {name for _, name, _ in cls._parts if name}
        if said != inspect.get_annotations(cls).keys():
            raise TypeError(f"{cls.__name__} says other things than it knows: {sorted(said)}")

    def __init__(self, *args: Never, **fields: Never) -> None:
        """Make the class a dataclass when the first of it is made: of some hundreds of them, most processes say few.

        The types are for reasons without parameters, to which nothing may be given; others have what a dataclass makes for them.
        """
        cls = type(self)
        with _MAKING:
            if "__dataclass_fields__" not in cls.__dict__:
                dataclass(frozen=True)(cls)
        cls.__init__(self, *args, **fields)  # which is the dataclass's own from now on

    def clause(self, names: Names = NO_NAMES) -> str:
        """Return it as a clause, `names` being what the ends of the tunnel are called."""
        return "".join(
            literal + (_written(getattr(self, name), spec, names) if name else "") for literal, name, spec in self._parts
        )


class More(Reason, text=" and {count} more"):
    """How many there are beside those that are named."""

    count: int


def sentence(reason: Reason, names: Names = NO_NAMES) -> str:
    """Return a reason as a sentence of its own."""
    return f"{capitalised(reason.clause(names))}."


def minutes(seconds: float) -> str:
    """Write a time in minutes, as short as it may be."""
    return f"{seconds / 60:.0f} min" if seconds >= 60 else f"{seconds:.0f} s"


@singledispatch
def _written(value: Any, spec: str, names: Names) -> str:
    """Write a parameter; its type decides how."""
    return str(value)


@_written.register
def _nothing(value: None, spec: str, names: Names) -> str:
    return ""


@_written.register(int)
@_written.register(float)
def _number(value: float, spec: str, names: Names) -> str:
    return minutes(value) if spec == "minutes" else _counted(int(value), spec) if "|" in spec else str(value)


@_written.register(tuple)
def _list(value: tuple[object, ...], spec: str, names: Names) -> str:
    return _counted(len(value), spec) if "|" in spec else _several(tuple(_written(item, "", names) for item in value), spec)


@_written.register
def _end(value: Side, spec: str, names: Names) -> str:
    return names[value.other if spec == "far" else value]


@_written.register
def _reason(value: Reason, spec: str, names: Names) -> str:
    return f". {capitalised(value.clause(names))}" if spec == "next" else value.clause(names)


@_written.register
def _choice(value: Enum, spec: str, names: Names) -> str:
    return str(getattr(value, "label", value.value))


def _counted(count: int, spec: str) -> str:
    one, several = spec.split("|")
    return one if count == 1 else several


def capitalised(text: str) -> str:
    """Return a text as a sentence or a title begins."""
    return text[:1].upper() + text[1:]


def _several(texts: tuple[str, ...], spec: str) -> str:
    if spec.startswith("some"):
        between = {"some and": " and ", "some or": " or "}.get(spec, ", ")
        rest = len(texts) - _MOST
        return between.join(texts[:_MOST]) + (f" and {rest} more" if rest > 0 else "")
    return (" and " if spec == "and" else ", ").join(texts)


@dataclass(frozen=True, slots=True)
class Statement:
    """A reason, and what the ends that it speaks of are called. In JSON it is its wording."""

    reason: Reason
    names: Names = NO_NAMES

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        """Describe it to Pydantic as a text that is only ever written."""
        written = core_schema.plain_serializer_function_ser_schema(str, return_schema=core_schema.str_schema())
        return core_schema.is_instance_schema(cls, serialization=written)


class Clause(Statement):
    """A statement within a sentence."""

    __slots__ = ()

    def __str__(self) -> str:
        return self.reason.clause(self.names)


class Sentence(Statement):
    """A statement that stands alone."""

    __slots__ = ()

    def __str__(self) -> str:
        return sentence(self.reason, self.names)
