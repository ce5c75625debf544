"""Classes of traffic by their code point in the IP header (RFC 2474), under the names of IANA's registry."""

from __future__ import annotations

from typing import Annotated, Final

from pydantic import AfterValidator, Field, StringConstraints
from pydantic_core import PydanticCustomError

from pontifex.core.kinds.fields import Offered

# IANA "Differentiated Services Field Codepoints": RFC 2474 (CS), 2597 (AF), 3246 (EF), 5865 (VOICE-ADMIT), 8622 (LE)
CODE_POINTS: Final = {
    "DF": 0,
    "LE": 1,
    **{f"CS{n}": 8 * n for n in range(1, 8)},
    **{f"AF{c}{p}": 8 * c + 2 * p for c in range(1, 5) for p in range(1, 4)},
    "VOICE-ADMIT": 44,
    "EF": 46,
}
_NAMES: Final = {value: name for name, value in CODE_POINTS.items()}
_HIGHEST: Final = 63


def parse_dscp(text: str) -> int:
    """Read a name such as "EF", or a number. Raise ValueError with the reason."""
    word = text.strip().upper()
    if word == "CS0":  # the default class's older name
        return 0
    if word in CODE_POINTS:
        return CODE_POINTS[word]
    if word.isascii() and word.isdigit() and int(word) <= _HIGHEST:
        return int(word)
    raise ValueError(f"'{text}' is no class; say EF, AF41, CS3 … or a number up to {_HIGHEST}")


def dscp_name(value: int) -> str:
    """Return the registered name of a code point, or its number."""
    return _NAMES.get(value, str(value))


def _canonical(text: str) -> str:
    try:
        return dscp_name(parse_dscp(text))
    except ValueError as error:
        raise PydanticCustomError("dscp", "{reason}", {"reason": str(error)}) from None


Dscp = Annotated[
    str,
    StringConstraints(max_length=16),
    AfterValidator(_canonical),
    Field(examples=["EF", "AF41"]),
    Offered(tuple(CODE_POINTS)),
]
