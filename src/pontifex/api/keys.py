"""Keys: set, generate, and show once. Keys go in and out in bodies that nobody may keep, never in a URL."""

from __future__ import annotations

from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Path
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field, SecretStr, StringConstraints

from pontifex.api.answers import CONFLICT, REFUSALS, DesignId, Designs, Keys, Person, answered, json_answer
from pontifex.core.ipsec.preshared_key import KeyFacts
from pontifex.core.kinds import KeyPair

router = APIRouter(prefix="/api/designs/{design_id}/keys", tags=["keys"], responses=REFUSALS)

KeyText = Annotated[SecretStr, Field(min_length=1, max_length=512)]


class SetKey(BaseModel):
    """A key as it is typed or pasted: every character counts, blanks and line ends included."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"how": "set", "secret": "…"}]})
    how: Literal["set"]
    secret: KeyText


class GenerateKey(BaseModel):
    """A key of 256 random bits to be made."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"how": "generate"}]})
    how: Literal["generate"]


class ShownKey(BaseModel):
    """A key in clear text."""

    secret: Annotated[str, StringConstraints()] = Field(title="The key")


@router.post("", status_code=201, responses=answered(KeyFacts, 201), summary="Set or generate a key")
def keep_key(
    designs: Designs, keys: Keys, design_id: DesignId, key: Annotated[SetKey | GenerateKey, Field(discriminator="how")]
) -> Response:
    """Keep a key in the vault and return what a design may know of it, to be put into an end by a change."""
    design = designs.get(design_id)
    facts = keys.set(design, key.secret.get_secret_value()) if isinstance(key, SetKey) else keys.generate(design)
    return json_answer(facts, 201)


@router.post("/pair", status_code=201, responses=answered(KeyPair, 201), summary="Make a key pair")
def make_pair(designs: Designs, keys: Keys, design_id: DesignId) -> Response:
    """Keep the private half in the vault, and return the public one with its reference, to be put into an end."""
    return json_answer(keys.generate_pair(designs.get(design_id)), 201)


@router.post("/{reference}/show", responses={**answered(ShownKey), **CONFLICT}, summary="Show a key once")
def show_key(
    designs: Designs, keys: Keys, person: Person, design_id: DesignId, reference: Annotated[UUID, Path(title="Reference")]
) -> Response:
    """Return a key in clear text, once; who saw it and when is recorded. The second time is refused."""
    return json_answer(ShownKey(secret=keys.show(designs.get(design_id), reference, person)))
