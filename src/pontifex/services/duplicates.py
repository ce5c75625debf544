"""Copies of designs, with their keys."""

from __future__ import annotations

from uuid import uuid4

from pontifex.core.model import Design, DesignContent
from pontifex.services.designs import DesignService, summary
from pontifex.services.keys import KeyService
from pontifex.store import DesignSummary


def duplicate(designs: DesignService, keys: KeyService, design_id: str, name: str) -> DesignSummary:
    """Copy a design as it stands under another name, without its history. Raise DesignNotFound.

    Its keys are kept once more under references of their own, since a key is bound to its design.
    """
    original = designs.get(design_id)
    references = {reference: uuid4() for reference in keys.references(original)}
    text = original.content().model_dump_json()
    for reference, other in references.items():
        text = text.replace(str(reference), str(other))
    content = DesignContent.model_validate_json(text).changed(name=name)
    copy = designs.add(Design.from_valid({**content.by_field(), "id": "new", "incarnation": "", "revision": 0}))
    keys.copy(original, copy, references)
    return summary(copy)
