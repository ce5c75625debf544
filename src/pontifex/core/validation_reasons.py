"""What a validation error says to a person: cause and what would be right, without the value that was refused."""

from __future__ import annotations

from typing import Any, Final

_TEXTS: Final = {
    "missing": "is missing",
    "extra_forbidden": "there is no such field here",
    "enum": "must be one of {expected}",
    "literal_error": "must be {expected}",
    "union_tag_invalid": "must be one of {expected_tags}",
    "union_tag_not_found": "needs the field 'op'",
    "string_type": "must be text",
    "string_unicode": "must be text; half of a pair of UTF-16 is none",
    "string_too_short": "must have at least {min_length} characters",
    "string_too_long": "is too long; {max_length} characters at most",
    "int_type": "must be a whole number",
    "int_parsing": "must be a whole number",
    "int_from_float": "must be a whole number",
    "float_type": "must be a number",
    "float_parsing": "must be a number",
    "bool_type": "must be true or false",
    "bool_parsing": "must be true or false",
    "greater_than": "must be more than {gt}",
    "greater_than_equal": "must be {ge} or more",
    "less_than_equal": "must be {le} or less",
    "too_short": "must have at least {min_length}, and has {actual_length}",
    "too_long": "has {actual_length} entries; {max_length} at most",
    "model_type": "must be an object",
    "model_attributes_type": "must be an object",
    "dict_type": "must be an object",
    "tuple_type": "must be a list",
    "json_invalid": "not JSON: {error}",
}
_PATTERNS: Final = (  # the first part of a pattern, and what it asks for
    ("^[a-z0-9]([a-z0-9-]", "must be lower-case letters, digits and hyphens, such as 'harbour-staff'"),
    ("^(\\*\\.)?([A-Za-z0-9_]", "is neither a DNS name, such as gate.ostvik.example, nor a domain, such as *.ostvik.example"),
    ("^[A-Za-z0-9][A-Za-z0-9._-]", "is no name of an interface: letters, digits, dots, hyphens and underscores"),
    ("^([A-Za-z0-9_]", "is not a full DNS name, such as gate.ostvik.example"),
    ("^[^\\x00-", "must be one line without control characters"),
    ("^[^\\x00]", "must not hold the character NUL"),
)


def reason_of(error: Any) -> str:
    """Return the reason of one Pydantic error as a clause."""
    kind, context = error["type"], error.get("ctx", {})
    if context.get("min_length") == 1 and kind in ("string_too_short", "too_short"):
        return "must not be empty"
    if kind == "string_pattern_mismatch":
        pattern = context.get("pattern", "")
        return next((text for start, text in _PATTERNS if pattern.startswith(start)), f"must match {pattern}")
    if kind in _TEXTS:
        return _TEXTS[kind].format_map(context)
    message: str = error["msg"]
    return message
