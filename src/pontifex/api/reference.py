"""What the product knows by itself: the registry of transforms, the kinds of object, and the schema of the design file."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel, Field

from pontifex.api.answers import REFUSALS
from pontifex.core.design_file import DesignFile
from pontifex.core.ipsec import REGISTRY, Level, TransformType
from pontifex.core.kinds import KINDS
from pontifex.core.kinds.column import KindDescription, described
from pontifex.core.matching.end_fields import TEXTS, EndFieldDescription, described_field

router = APIRouter(prefix="/api", tags=["reference"], responses=REFUSALS)


class TransformInfo(BaseModel):
    """A transform of the registry."""

    type: TransformType
    id: int = Field(title="IANA number", examples=[20])
    name: str = Field(title="IANA name", examples=["ENCR_AES_GCM_16"])
    label: str = Field(title="Short name", examples=["AES-GCM-16"])
    level: Level = Field(title="What the standards ask for today")
    reference: str = Field(title="Reference", examples=["RFC 4106, RFC 5282"])
    key_lengths: list[int] = Field(title="Key lengths", description="In bits; empty where it is fixed.")
    combined_mode: bool = Field(title="Protects integrity by itself")


@router.get("/transforms", summary="List the transforms")
def list_transforms() -> list[TransformInfo]:
    """Return the registry of transforms, by type, the better ones first."""
    return [
        TransformInfo(
            type=row.type,
            id=row.id,
            name=row.name,
            label=row.label,
            level=row.level,
            reference=row.reference,
            key_lengths=list(row.key_lengths),
            combined_mode=row.combined_mode,
        )
        for row in REGISTRY
    ]


@router.get("/kinds", summary="List the kinds of object")
def list_kinds() -> list[KindDescription]:
    """Return the kinds of object that a design holds, each with the columns of its grid."""
    return [described(kind) for kind in KINDS]


@router.get("/end-fields", summary="List the fields of a tunnel's end")
def list_end_fields() -> list[EndFieldDescription]:
    """Return the fields of an end that are compared, how each is edited, and what its keeper is asked."""
    return [described_field(field) for field in TEXTS]


@router.get("/design-file.schema.json", summary="JSON Schema of the design file")
def read_schema() -> dict[str, Any]:
    """Return the JSON Schema of what Export writes and Import reads."""
    return design_file_schema()


def design_file_schema() -> dict[str, Any]:
    """Return the JSON Schema (2020-12) of the design file."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **DesignFile.model_json_schema()}
