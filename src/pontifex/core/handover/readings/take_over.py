"""Taking over into the design what a device has: the other way to mend a drift."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any

from pydantic import Field, ValidationError

from pontifex.core.frozen_model import FrozenModel
from pontifex.core.handover.readings.setting import field_adapter
from pontifex.core.kinds import Gateway, Side, TunnelEnd
from pontifex.core.model import Design, Operation, put


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeOver:
    """A change of the design by which it has what the device has."""

    operations: Annotated[tuple[Operation, ...], Field(title="Operations")]


def take_over(design: Design, path: str, value: Any) -> TakeOver | None:
    """Return the change that takes a value of a field into the design; None for what no single field holds."""
    kind, id_, *rest = path.split("/")
    if kind == "tunnel" and len(rest) == 2 and rest[0] in {side.value for side in Side} and rest[1] in TunnelEnd.model_fields:
        tunnel = design.tunnel_by_id.get(id_)
        found = _valid(TunnelEnd, rest[1], value)
        return _change(put(tunnel.with_field(Side(rest[0]), rest[1], found[0]))) if tunnel and found else None
    if kind == "gateway" and len(rest) == 1 and rest[0] in Gateway.model_fields:
        gateway = design.gateway_by_id.get(id_)
        found = _valid(Gateway, rest[0], value)
        return _change(put(gateway.with_valid({rest[0]: found[0]}))) if gateway and found else None
    return None


def _change(operation: Operation) -> TakeOver:
    return TakeOver(operations=(operation,))


def _valid(model: type[FrozenModel], field: str, value: Any) -> tuple[Any] | None:
    """Return a value as the field holds it; None for one that the field can't hold."""
    info = model.model_fields[field]
    if value is None:
        return None if info.is_required() else (info.default,)
    adapter = field_adapter(model, field)
    for form in (value, value.split("; ")) if isinstance(value, str) else (value,):  # a list as the design writes it
        try:
            return (adapter.validate_python(form),)
        except ValidationError:
            continue
    return None
