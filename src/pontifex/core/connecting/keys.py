"""Keys that are still to be generated: a plan holds a stand-in for each, so that it can be made and judged without the vault."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from uuid import UUID

from pontifex.core.ipsec.generated_key import RANDOM_OCTETS, generated_key
from pontifex.core.ipsec.preshared_key import KeyFacts, key_facts
from pontifex.core.kinds import SIDES, Tunnel
from pontifex.core.model import AnyOperation, Design, Put, put


def stand_in(design: Design, number: int) -> KeyFacts:
    """Return the facts of a key that nobody keeps: its reference is its number, from 0."""
    secret = generated_key(number.to_bytes(RANDOM_OCTETS))
    return key_facts(secret, bytes.fromhex(design.key_salt), UUID(int=number), RANDOM_OCTETS * 8)


def with_keys(operations: Iterable[AnyOperation], keys: Sequence[KeyFacts]) -> tuple[AnyOperation, ...]:
    """Return operations with keys of the vault in the places of their stand-ins."""
    return tuple(_with_keys(operation, keys) for operation in operations)


def _with_keys(operation: AnyOperation, keys: Sequence[KeyFacts]) -> AnyOperation:
    if not isinstance(operation, Put) or not isinstance(operation.object, Tunnel):
        return operation
    tunnel = operation.object
    for side in SIDES:
        key = tunnel.end(side).key
        if key:
            tunnel = tunnel.with_end(side, key=keys[key.reference.int])
    return put(tunnel)
