"""A finding: one remark on a design, as data."""

from __future__ import annotations

from pydantic import Field

from pontifex.core.findings.catalogue import CATALOGUE, Severity
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds import ObjectType
from pontifex.core.matching import Remedy


class Place(FrozenModel):
    """A field of an object that a finding points at."""

    type: ObjectType
    id: str
    name: str = Field(title="Name of the object")
    field: str = Field(title="Field", description="Its path within the object.", examples=["right/key"])


class Finding(FrozenModel):
    """What is wrong, where, what follows from it, and how to mend it."""

    code: str = Field(title="Code", description="Stable; never reused.", examples=["end.key-differs"])
    severity: Severity
    title: str = Field(title="Title", examples=["Keys differ"])
    where: tuple[Place, ...] = Field(title="Places", description="The first one is where the cursor goes to.")
    why: str = Field(title="Cause", description="One sentence with the values that make it so.")
    consequence: str = Field(title="Consequence")
    reference: str = Field(title="Reference", examples=["RFC 7296 section 2.15"])
    remedies: tuple[Remedy, ...] = Field(default=(), title="Remedies", description="The best one first.")


def finding(code: str, where: tuple[Place, ...], why: str, remedies: tuple[Remedy, ...] = ()) -> Finding:
    """Return a finding of the catalogue. `why` is a clause; it becomes a sentence."""
    entry = CATALOGUE[code]
    return Finding.of(
        code=code,
        severity=entry.severity,
        title=entry.title,
        where=where,
        why=f"{why[0].upper()}{why[1:]}.",
        consequence=entry.consequence,
        reference=entry.reference,
        remedies=remedies,
    )
