"""The design as a whole, and the changes that may be made to it.

A design is an immutable value at a revision; it may be incomplete or wrong, since engineers work through wrong states.
"""

from pontifex.core.model.apply import ChangeRefused, OperationProblem, apply_operations, touched_objects
from pontifex.core.model.design import Design, DesignContent, DesignObject, DesignSettings
from pontifex.core.model.difference import Difference, FieldChange, difference
from pontifex.core.model.new_route import new_route
from pontifex.core.model.occupied import occupied_prefixes
from pontifex.core.model.operations import (
    AnyOperation,
    LoggedOperation,
    Operation,
    Put,
    Remove,
    RenumberNetwork,
    Translate,
    put,
)
from pontifex.core.model.renumber import Move, naming_tunnels
from pontifex.core.model.translating import crossed, reselected
from pontifex.core.model.weak_secrets import without_weak_secrets

__all__ = [
    "AnyOperation",
    "ChangeRefused",
    "Design",
    "DesignContent",
    "DesignObject",
    "DesignSettings",
    "Difference",
    "FieldChange",
    "LoggedOperation",
    "Move",
    "Operation",
    "OperationProblem",
    "Put",
    "Remove",
    "RenumberNetwork",
    "Translate",
    "apply_operations",
    "crossed",
    "difference",
    "naming_tunnels",
    "new_route",
    "occupied_prefixes",
    "put",
    "reselected",
    "touched_objects",
    "without_weak_secrets",
]
