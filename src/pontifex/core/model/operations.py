"""The operations that a change is made of: put an object, or remove one."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, Final, Literal, Union

from pydantic import Field, create_model

from pontifex.core.addressing import Prefix
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds import KINDS, DesignMember, ObjectId, ObjectType, Translation, kind_of
from pontifex.core.model.design import SETTINGS_ID, DesignObject, DesignSettings


class Put(FrozenModel):
    """Add an object, or replace the one with its id. Each type of object has an operation of its own, such as put-site."""

    op: str = "put"
    object: DesignObject


def _put_type(type_: ObjectType, model: type[DesignObject]) -> type[Put]:
    name = f"put-{type_.value}"
    named: Any = Literal[name]
    return create_model(
        f"Put{model.__name__.removeprefix('Design')}",
        __base__=Put,
        __doc__=f"Add a {type_.label}, or replace the one with its id."
        if issubclass(model, DesignMember)
        else "Replace what holds for the design as a whole.",
        op=(named, name),
        object=(model, ...),
    )


_PUT_BY_MODEL: Final[dict[type[DesignObject], type[Put]]] = {
    **{kind.model: _put_type(kind.name, kind.model) for kind in KINDS},
    DesignSettings: _put_type(ObjectType.SETTINGS, DesignSettings),
}


class RenumberNetwork(FrozenModel):
    """Move a network to another prefix of its family and length, with everything that names it."""

    op: Literal["renumber-network"] = "renumber-network"
    id: ObjectId
    prefix: Prefix = Field(title="New prefix")


class Translate(FrozenModel):
    """Put a translation, and let the ends of the tunnels that it is about name what is seen."""

    op: Literal["translate"] = "translate"
    object: Translation


class Remove(FrozenModel):
    """Remove an object. With `cascade`, what hangs on it goes as well; without, the change is refused if anything does."""

    op: Literal["remove"] = "remove"
    type: ObjectType = Field(title="Type", description="Any type but 'settings'.", examples=["network"])
    id: ObjectId
    cascade: bool = Field(default=False, title="With what hangs on it")


if TYPE_CHECKING:
    AnyPut = Put
else:  # the union that tells them apart by their names; a type checker can't follow what is made of a registry
    AnyPut = Union[tuple(_PUT_BY_MODEL.values())]  # noqa: UP007

LoggedOperation = Annotated[AnyPut | Remove, Field(discriminator="op")]  # what every change comes down to
AnyOperation = AnyPut | Remove | RenumberNetwork | Translate
Operation = Annotated[AnyOperation, Field(discriminator="op")]


def put(item: DesignObject) -> Put:
    """Return the operation that puts an object."""
    return _PUT_BY_MODEL[type(item)](object=item)


def target(operation: Put | Remove) -> tuple[ObjectType, str]:
    """Return type and id of the object that an operation puts or removes."""
    if isinstance(operation, Remove):
        return operation.type, operation.id
    if isinstance(operation.object, DesignSettings):
        return ObjectType.SETTINGS, SETTINGS_ID
    return kind_of(operation.object).name, operation.object.id
