"""Values of a design as a person reads them: the one place that writes them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import Enum
from typing import Any, Final

from pontifex.core.ipsec.preshared_key import KeyFacts
from pontifex.core.ipsec.proposal import Proposal
from pontifex.core.kinds import AuthMethod, Member, ObjectType, Path, SuffixResolver, Technology
from pontifex.core.model.design import Design, DesignObject
from pontifex.core.model.references import references

ABSENT: Final = "—"
_LABELLED: Final = (Proposal, Technology, AuthMethod)
NameOf = Callable[[ObjectType, str], str]


@dataclass(frozen=True, slots=True)
class WrittenObject:
    """An object whose fields are written with the names of the objects that they refer to."""

    item: DesignObject
    design: Design

    def field(self, path: str, value: Any) -> str:
        """Write the value of a field; `path` is its place within the object, such as "left/uplink_id"."""
        for field, type_, id_ in references(self.item):
            if field == path:
                return self._name(type_, id_)
        return written(value, self._name)

    def _name(self, type_: ObjectType, id_: str) -> str:
        named = self.design.by_type[type_].get(id_)
        return str(getattr(named, "name", "") or id_)


def _by_id(type_: ObjectType, id_: str) -> str:  # noqa: ARG001 -- one signature for all
    return id_


def written(value: Any, name_of: NameOf = _by_id) -> str:
    """Write a value; a key shows as its fingerprint, an object that it names by `name_of`."""
    if value is None or isinstance(value, str):
        return value or ABSENT
    if isinstance(value, tuple):
        return "; ".join([written(part, name_of) for part in value]) or ABSENT
    if isinstance(value, KeyFacts):
        return f"key {value.fingerprint} ({value.length} characters)"
    if isinstance(value, _LABELLED):
        return value.label
    if isinstance(value, SuffixResolver):
        return f"{value.suffix} by {value.resolver}"
    if isinstance(value, Path | Member):
        limits = _limits(value) if isinstance(value, Path) else ()
        return " ".join((value.type.value, name_of(ObjectType(value.type.value), value.id), *limits))
    if isinstance(value, bool):
        return "yes" if value else "no"
    return str(value.value if isinstance(value, Enum) else value) or ABSENT


def _limits(path: Path) -> Iterator[str]:
    for limit, word, unit in (
        (path.most_delay_ms, "delay", "ms"),
        (path.most_jitter_ms, "jitter", "ms"),
        (path.most_loss_percent, "loss", "%"),
    ):
        if limit is not None:
            yield f"{word} up to {limit:g} {unit}"
