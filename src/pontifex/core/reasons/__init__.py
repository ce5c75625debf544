"""What rows and findings say: one class a reason with typed parameters, and its wording beside it."""

from pontifex.core.reasons.reason import (
    NO_NAMES,
    Clause,
    Named,
    Names,
    Reason,
    Sentence,
    Statement,
    all_named,
    capitalised,
    named,
    sentence,
)

__all__ = [
    "NO_NAMES",
    "Clause",
    "Named",
    "Names",
    "Reason",
    "Sentence",
    "Statement",
    "all_named",
    "capitalised",
    "named",
    "sentence",
]
