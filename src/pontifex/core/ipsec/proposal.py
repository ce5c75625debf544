"""Proposals: what one end offers or accepts, by transform type (RFC 7296 section 3.3)."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import cached_property, lru_cache
from itertools import chain
from typing import Annotated, Final

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from pontifex.core.choice import Choice
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.ipsec.registry import DISPLAY_ORDER, REGISTRY, Level, TransformType, level_of, registered

OPTIONAL_TYPES: Final = frozenset(TransformType) - {TransformType.ENCR, TransformType.PRF, TransformType.ESN}


class Protocol(Choice):
    """What a proposal is for (RFC 7296 section 3.3.1)."""

    IKE = "ike"
    ESP = "esp"


class Phase(Choice):
    """What a proposal of IKEv1 is for (RFC 2409 section 5)."""

    PHASE_1 = "phase-1"
    PHASE_2 = "phase-2"


TRANSFORM_KEYS: Final = [(row.type, row.id, length) for row in REGISTRY for length in row.key_lengths or (None,)]
BIT: Final = {key: 1 << place for place, key in enumerate(TRANSFORM_KEYS)}  # of each transform that there is
NONE_BIT: Final = {type_: 1 << len(TRANSFORM_KEYS) + place for place, type_ in enumerate(TransformType)}  # the type is left out
BITS_OF_TYPE: Final = {type_: sum(bit for key, bit in BIT.items() if key[0] is type_) | none for type_, none in NONE_BIT.items()}


class Transform(FrozenModel):
    """One transform with its key length: a transform with another key length is another transform."""

    type: TransformType = Field(title="Transform type", examples=["ENCR"])
    id: int = Field(title="IANA number", ge=0, le=65535, examples=[20])
    key_length: int | None = Field(
        default=None, title="Key length", description="In bits; only where the transform has several.", examples=[256]
    )

    @model_validator(mode="after")
    def _is_registered(self) -> Transform:
        row = registered(self.type, self.id)
        if row is None:
            raise PydanticCustomError(
                "transform", "{type} {id} is not in the registry of transforms", {"type": self.type.value, "id": self.id}
            )
        if row.key_lengths and self.key_length not in row.key_lengths:
            wanted = ", ".join(map(str, row.key_lengths))
            raise PydanticCustomError(
                "transform", "{name} needs a key length of {wanted} bits", {"name": row.name, "wanted": wanted}
            )
        if not row.key_lengths and self.key_length is not None:
            raise PydanticCustomError("transform", "{name} has a fixed key length; leave it out", {"name": row.name})
        return self

    def __hash__(self) -> int:
        return self.id

    def __eq__(self, other: object) -> bool:
        if self is other:
            return True
        if not isinstance(other, Transform):
            return NotImplemented
        return self.id == other.id and self.type is other.type and self.key_length == other.key_length

    @property
    def key(self) -> tuple[TransformType, int, int | None]:
        """What two ends compare: type, number and key length."""
        return self.type, self.id, self.key_length

    @property
    def level(self) -> Level:
        """What the standards make of it today."""
        return level_of(self.type, self.id)

    @property
    def strength_bits(self) -> int:
        """Strength in bits; 0 where it has none (NIST SP 800-57 part 1, section 5.6)."""
        row = registered(self.type, self.id)
        return self.key_length or (row.strength_bits if row else 0)

    @property
    def is_none(self) -> bool:
        """Whether this is NONE, which says that the type may be left out."""
        return self.id == 0 and self.type in OPTIONAL_TYPES

    @property
    def combined_mode(self) -> bool:
        """Whether the cipher protects integrity by itself (RFC 5282)."""
        row = registered(self.type, self.id)
        return row is not None and row.combined_mode

    @property
    def label(self) -> str:
        """The short name, with the key length."""
        row = registered(self.type, self.id)
        assert row is not None  # the validator let only registered ones in
        return f"{row.label}-{self.key_length}" if self.key_length else row.label


class ProposalFacts:
    """What is worked out of a list of transforms, once for all proposals that hold the same one."""

    def __init__(self, transforms: tuple[Transform, ...]) -> None:
        self._transforms = transforms

    @cached_property
    def by_type(self) -> dict[TransformType, tuple[Transform, ...]]:
        """The transforms of each type."""
        found: dict[TransformType, list[Transform]] = {}
        for transform in self._transforms:
            found.setdefault(transform.type, []).append(transform)
        return {
            type_: tuple(found[type_])
            for type_ in sorted(found, key=DISPLAY_ORDER.__getitem__)
            if type_ not in OPTIONAL_TYPES or any(transform.id for transform in found[type_])
        }

    @cached_property
    def _faults(self) -> dict[Protocol | Phase, tuple[str, ...]]:
        return {}

    def faults(self, protocol: Protocol | Phase) -> tuple[str, ...]:
        """Say what makes it invalid by itself (RFC 7296 section 3.3); empty when it is sound."""
        if protocol not in self._faults:
            self._faults[protocol] = _faults_of(self.by_type, protocol)
        return self._faults[protocol]

    @cached_property
    def held(self) -> frozenset[TransformType]:
        """The types that it holds."""
        return frozenset(self.by_type)

    @cached_property
    def bits(self) -> int:
        """One bit for each transform, and for each type that may be left out."""
        held = self.by_type
        bits = sum({BIT[t.key] for t in chain.from_iterable(held.values()) if not t.is_none})
        for type_, none in NONE_BIT.items():
            if type_ not in held or any(t.is_none for t in held[type_]):
                bits |= none
        return bits

    @cached_property
    def label(self) -> str:
        """It in one line."""
        return " · ".join(" or ".join(t.label for t in found) for found in self.by_type.values()) or "empty"

    @cached_property
    def levels(self) -> frozenset[Level]:
        """What the standards make of its transforms today."""
        return frozenset(transform.level for transform in self._transforms if not transform.is_none)

    @cached_property
    def least_bits(self) -> int:
        """The strength of its weakest transform, in bits."""
        rated = [bits for transform in self._transforms if not transform.type.is_additional and (bits := transform.strength_bits)]
        return min(rated, default=0)


@lru_cache(maxsize=4096)
def _facts_of(keys: tuple[tuple[TransformType, int, int | None], ...]) -> ProposalFacts:
    return ProposalFacts(
        tuple(Transform.from_valid({"type": type_, "id": id_, "key_length": length}) for type_, id_, length in keys)
    )


class Proposal(FrozenModel):
    """One whole proposal: per type the acceptable transforms, best first."""

    transforms: Annotated[tuple[Transform, ...], Field(max_length=64)] = Field(
        title="Transforms", description="In order of preference within each type."
    )

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash(self.transforms)

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Proposal):
            return NotImplemented
        return self is other or self.transforms == other.transforms

    @cached_property
    def facts(self) -> ProposalFacts:
        """What is worked out of it: one value for all proposals that hold the same transforms."""
        return _facts_of(tuple((transform.type, transform.id, transform.key_length) for transform in self.transforms))

    @property
    def by_type(self) -> dict[TransformType, tuple[Transform, ...]]:
        """The transforms of each type, in the order given; a type with NONE alone is absent (RFC 7296 section 3.3.3)."""
        return self.facts.by_type

    def faults(self, protocol: Protocol | Phase) -> tuple[str, ...]:
        """Say what makes the proposal invalid by itself (RFC 7296 section 3.3); empty when it is sound."""
        return self.facts.faults(protocol)

    @property
    def held(self) -> frozenset[TransformType]:
        """The types that the proposal holds."""
        return self.facts.held

    @property
    def bits(self) -> int:
        """One bit for each transform, and for each type that may be left out: what two proposals share is their `&`."""
        return self.facts.bits

    @property
    def levels(self) -> frozenset[Level]:
        """What the standards make of its transforms today."""
        return self.facts.levels

    @property
    def least_bits(self) -> int:
        """The strength of its weakest transform, in bits; 0 where none has one."""
        return self.facts.least_bits

    @property
    def label(self) -> str:
        """The proposal in one line: types parted by " · ", alternatives by " or "."""
        return self.facts.label


REQUIRED: Final[
    dict[Protocol | Phase, tuple[TransformType, ...]]
] = {  # RFC 7296 section 3.3.3; INTEG is required as well, unless the cipher is a combined-mode one
    Protocol.IKE: (TransformType.ENCR, TransformType.PRF, TransformType.KE),
    Protocol.ESP: (TransformType.ENCR, TransformType.ESN),
    Phase.PHASE_1: (TransformType.ENCR, TransformType.KE),  # RFC 2409 section 4; the hash is its INTEG
    Phase.PHASE_2: (TransformType.ENCR,),
}
ALLOWED: Final[dict[Protocol | Phase, frozenset[TransformType]]] = {
    Protocol.IKE: frozenset(TransformType) - {TransformType.ESN},
    Protocol.ESP: frozenset(TransformType) - {TransformType.PRF},
    Phase.PHASE_1: frozenset(TransformType) - {TransformType.ESN},
    Phase.PHASE_2: frozenset(TransformType) - {TransformType.PRF},
}


def distinct_methods(
    choices: Sequence[tuple[Transform, ...]], used: frozenset[int] = frozenset()
) -> tuple[Transform, ...] | None:
    """Return a transform of each list, the first ones that are of different methods; None where there is no such choice.

    A responder must not take one method for two additional key exchanges (RFC 9370 section 2.2.1); NONE may stand twice.
    """
    if not choices:
        return ()
    for transform in choices[0]:
        if transform.id not in used:
            rest = distinct_methods(choices[1:], used if transform.is_none else used | {transform.id})
            if rest is not None:
                return (transform, *rest)
    return None


def _none_faults(held: dict[TransformType, tuple[Transform, ...]], protocol: Protocol | Phase) -> Iterator[str]:
    """Yield what NONE must not stand for: the key exchange of an IKE SA, and integrity where the cipher gives none."""
    combined = any(transform.combined_mode for transform in held.get(TransformType.ENCR, ()))
    needed = ({TransformType.KE} & set(REQUIRED[protocol])) | (set() if combined else {TransformType.INTEG})
    for type_ in TransformType:
        if type_ in needed and any(transform.is_none for transform in held.get(type_, ())):
            yield f"{type_.value} may not be NONE"


def _faults_of(held: dict[TransformType, tuple[Transform, ...]], protocol: Protocol | Phase) -> tuple[str, ...]:
    """Return what RFC 7296 section 3.3.3 and RFC 9370 section 2.2.1 refuse."""
    faults = [f"{type_.value} is missing" for type_ in REQUIRED[protocol] if type_ not in held]
    faults += [f"{type_.value} has no place in it" for type_ in held if type_ not in ALLOWED[protocol]]
    combined = {transform.combined_mode for transform in held.get(TransformType.ENCR, ())}
    if combined == {True, False}:
        faults.append("combined-mode ciphers and others share it; they need proposals of their own")
    elif combined == {True} and TransformType.INTEG in held:
        faults.append("INTEG stands beside a combined-mode cipher, which has its own")
    elif combined == {False} and TransformType.INTEG not in held:
        faults.append("INTEG is missing")
    faults += _none_faults(held, protocol)
    additional = {type_: choice for type_, choice in held.items() if type_.is_additional}
    if distinct_methods(tuple(additional.values())) is None:
        faults.append(f"{' and '.join(type_.value for type_ in additional)} would be of one method, and must differ")
    return tuple(faults)
