"""A plugin of mypy: the keywords of `changed` and its like are the fields of a model, each with its type.

A value is changed by naming fields (`network.changed(prefix=…)`). Python's type system can't say "the fields of this
class"; without this plugin a misspelt field or a value of the wrong type would pass unseen.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from mypy.nodes import ARG_NAMED_OPT, ARG_STAR2, TypeInfo, Var
from mypy.plugin import MethodSigContext, Plugin
from mypy.typeops import map_type_from_supertype
from mypy.types import CallableType, FunctionLike, Instance, Type, get_proper_type

_KINDS: Final = "pontifex.core.kinds"
_MODEL: Final = "pontifex.core.frozen_model.FrozenModel"
_OF_AN_END: Final = (
    f"{_KINDS}.tunnel.Tunnel.with_end",
    "pontifex.core.matching.tunnel_ends.TunnelEnds.set_field",
    "pontifex.core.matching.tunnel_ends.TunnelEnds.set_same",
)


class FieldsPlugin(Plugin):
    """Gives the methods named above a signature with one keyword for each field."""

    def get_method_signature_hook(self, fullname: str) -> Callable[[MethodSigContext], FunctionLike] | None:
        """Return what makes the signature of a method; None for all others."""
        if fullname.endswith(".changed"):
            return _with_own_fields
        return self._with_fields_of_an_end if fullname in _OF_AN_END else None

    def _with_fields_of_an_end(self, context: MethodSigContext) -> FunctionLike:
        found = self.lookup_fully_qualified(f"{_KINDS}.tunnel_end.TunnelEnd")
        if found is None or not isinstance(found.node, TypeInfo):
            return context.default_signature
        return _with_fields(context.default_signature, found.node)


def _with_own_fields(context: MethodSigContext) -> FunctionLike:
    own = get_proper_type(context.type)
    if isinstance(own, Instance) and own.type.has_base(_MODEL):
        return _with_fields(context.default_signature, own.type)
    return context.default_signature


def _with_fields(signature: CallableType, model: TypeInfo) -> CallableType:
    fields = _fields(model)
    kept = [place for place, kind in enumerate(signature.arg_kinds) if kind is not ARG_STAR2]
    return signature.copy_modified(
        arg_types=[*(signature.arg_types[place] for place in kept), *fields.values()],
        arg_kinds=[*(signature.arg_kinds[place] for place in kept), *(ARG_NAMED_OPT for _ in fields)],
        arg_names=[*(signature.arg_names[place] for place in kept), *fields],
    )


def _fields(model: TypeInfo) -> dict[str, Type]:
    found: dict[str, Type] = {}
    for owner in reversed(model.mro):
        for name, symbol in owner.names.items():
            node = symbol.node
            if isinstance(node, Var) and node.type and not (node.is_classvar or node.is_inferred or name.startswith("_")):
                found[name] = map_type_from_supertype(node.type, model, owner)
    return found


def plugin(version: str) -> type[Plugin]:  # noqa: ARG001 -- the signature that mypy asks for
    """Return the plugin."""
    return FieldsPlugin
