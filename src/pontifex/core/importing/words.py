"""Names and values in the words of an import."""

from __future__ import annotations

from pontifex.core.frozen_model import FrozenModel


def folded(name: str) -> str:
    """Return a name as names are compared: without letter case and without spaces that say nothing."""
    return " ".join(name.casefold().split())


def as_name(text: str) -> str:
    """Return a text as the name that an object can have: of 80 characters at most."""
    return text[:80].strip()


def title_of(type_: type[FrozenModel], field: str) -> str:
    """Return the title of a field of an object."""
    return type_.model_fields[field].title or field
