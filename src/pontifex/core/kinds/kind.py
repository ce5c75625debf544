"""What there is to know about one kind of object in a design, stated once beside its model."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import reduce
from typing import Any, Final, Generic, TypeVar

from pontifex.core.choice import Choice
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds.fields import Name, ObjectId


class ObjectType(Choice):
    """The types of object that a design holds."""

    SITE = "site"
    NETWORK = "network"
    GATEWAY = "gateway"
    UPLINK = "uplink"
    STANDARD = "standard"
    TUNNEL = "tunnel"
    HOST = "host"
    PREFIX_RESERVATION = "prefix-reservation"
    TRANSLATION = "translation"
    ROUTE = "route"
    RULE = "rule"
    FILTER = "filter"
    PREFIX_LIST = "prefix-list"
    EXIT = "exit"
    CLOUD_NETWORK = "cloud-network"
    CLOUD_RULE = "cloud-rule"
    INTENT = "intent"
    PLATFORM = "platform"
    PROFILE = "profile"
    ACCEPTANCE = "acceptance"
    TEMPLATE = "template"
    SETTINGS = "settings"  # what holds for the design as a whole

    @property
    def label(self) -> str:
        """What people call one of them."""
        return self.value.replace("-", " ")


class Group(Choice):
    """Where the interface shows the objects of a kind."""

    PLACES = "places"
    ADDRESSES = "addresses"
    PATHS = "paths"
    PEOPLE = "people"
    CLOUDS = "clouds"
    MATCH = "match"  # a screen of their own, no grid
    HANDOVER = "handover"  # beside the devices that they are for, no grid
    WORKLIST = "worklist"  # beside the findings that they are about, no grid


NO_GRID: Final = frozenset({Group.MATCH, Group.HANDOVER, Group.WORKLIST})


class Removal(Choice):
    """What becomes of an object when one that it refers to is removed with all that hangs on it."""

    FOLLOWS = "follows"  # it is removed as well
    EMPTIES = "empties"  # it stays, and no longer says which one it was


class DesignMember(FrozenModel):
    """An object of a design, known in it by its type and id."""

    id: ObjectId
    name: Name


PLACES: Final = (ObjectType.SITE, ObjectType.NETWORK, ObjectType.HOST)  # what has addresses


@dataclass(frozen=True, slots=True)
class Reference:
    """A field that names objects of the design.

    `field` is a path within the object, such as "left/gateway_id". Where `to` is None, the field lists members that each
    have a type, which is `among` some, and an id.
    """

    field: str
    to: ObjectType | None = None
    among: tuple[ObjectType, ...] = ()  # where that is fewer than the members could be
    is_parent: bool = False  # names are unique among the objects of one parent
    on_removal: Removal = Removal.FOLLOWS

    def named_by(self, item: FrozenModel) -> Iterator[tuple[str, ObjectType, str]]:
        """Yield the path, the type and the id of each object that an item names in this field."""
        held: Any = reduce(getattr, self.field.split("/"), item)
        if self.to is None:
            for place, member in enumerate(held):
                yield f"{self.field}/{place}", ObjectType(member.type.value), member.id
        elif held:
            yield self.field, self.to, str(held)

    def misplaced_in(self, item: FrozenModel) -> Iterator[tuple[str, ObjectType]]:
        """Yield the path and the type of each member that an item names here, and that can't stand here."""
        for path, type_, _ in self.named_by(item) if self.among else ():
            if type_ not in self.among:
                yield path, type_


T = TypeVar("T", bound=DesignMember)


@dataclass(frozen=True, slots=True)
class Kind(Generic[T]):
    """One kind of object."""

    name: ObjectType
    model: type[T]
    members: str  # the field of the design that lists them
    title: str  # what people call several of them
    group: Group
    refers: tuple[Reference, ...] = ()
    searched: tuple[str, ...] = ()  # fields that a search looks at beside the name, and shows
    one_of: tuple[tuple[str, ...], ...] = ()  # fields of which one, of each group, says something in every object
    beside_grid: tuple[str, ...] = ()  # fields that a screen of their own edits; no grid shows them

    @property
    def parent(self) -> Reference | None:
        """The reference to the object among whose children a name is unique; None where it is unique in the design."""
        return next((reference for reference in self.refers if reference.is_parent), None)

    def named_by(self, item: T) -> Iterator[tuple[str, ObjectType, str]]:
        """Yield the path, the type and the id of each object that an item refers to."""
        for reference in self.refers:
            yield from reference.named_by(item)
