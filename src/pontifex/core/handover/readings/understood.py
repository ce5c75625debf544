"""A value as a device has it, in the words of the design or as a design file has it, back as the field holds it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import cache
from typing import Any, Final

from pydantic import ValidationError

from pontifex.core.frozen_model import FrozenModel
from pontifex.core.handover.readings.setting import field_adapter
from pontifex.core.ipsec.proposal import TRANSFORM_KEYS, Proposal, Transform
from pontifex.core.kinds import AuthMethod, Technology
from pontifex.core.kinds.identity import Identity, IdentityType


def understood(model: type[FrozenModel], field: str, value: Any) -> tuple[Any] | None:
    """Return a value as the field of a model holds it; None for one that it can't hold."""
    info = model.model_fields[field]
    if value is None:
        return None if info.is_required() else (info.default,)
    adapter = field_adapter(model, field)
    for form in _forms(field, value):
        try:
            return (adapter.validate_python(form),)
        except ValidationError:
            continue
    return None


def _forms(field: str, value: Any) -> Iterator[Any]:
    yield value
    if isinstance(value, str):
        if field in _FROM_WORDS:
            yield _FROM_WORDS[field](value)
        yield value.split("; ")


def _identity(text: str) -> Identity | None:
    if text == str(Identity(type=IdentityType.ANY, value="")):
        return Identity(type=IdentityType.ANY, value="")
    type_, _, value = text.partition(" ")
    return (
        Identity(type=IdentityType(type_), value=value)
        if type_ in {identity_type.value for identity_type in IdentityType}
        else None
    )


@cache
def _transforms() -> dict[str, Transform]:
    made = (Transform(type=type_, id=id_, key_length=length) for type_, id_, length in TRANSFORM_KEYS)
    return {transform.label: transform for transform in made}


def _proposals(text: str) -> list[Proposal] | None:
    """Read proposals from their labels (see Proposal.label)."""
    known = _transforms()
    lists = [[name for part in proposal.split(" · ") for name in part.split(" or ")] for proposal in text.split("; ")]
    if not all(name in known for names in lists for name in names):
        return None
    return [Proposal(transforms=tuple(known[name] for name in names)) for names in lists]


_FROM_WORDS: Final[dict[str, Callable[[str], Any]]] = {
    "technology": {technology.label: technology for technology in Technology}.get,
    "local_auth": {method.label: method for method in AuthMethod}.get,
    "remote_auth": {method.label: method for method in AuthMethod}.get,
    "local_identity": _identity,
    "remote_identity": _identity,
    "ike_proposals": _proposals,
    "child_proposals": _proposals,
}
