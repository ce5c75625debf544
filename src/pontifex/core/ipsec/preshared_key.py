"""Pre-shared keys without the keys: what a design may know of one, and how two are compared."""

from __future__ import annotations

import base64
import hmac
import math
import re
from enum import Enum
from typing import Annotated, Final
from uuid import UUID

from argon2.low_level import Type, hash_secret_raw
from pydantic import Field, StringConstraints

from pontifex.core.choice import Choice
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.ipsec.generated_key import is_generated

# A slow hash, truncated: each guess costs an attacker what it costs us (RFC 9106 section 4, second recommended option), and
# many keys share each short form. 30 bits still tell two keys apart; the forms that only explain a difference need 15.
_TIME_COST, _MEMORY_KIB, _LANES, _TAG_BYTES = 3, 65_536, 4, 32
_FINGERPRINT_CHARACTERS, _NEAR_CHARACTERS = 6, 3  # five bits each

Digest = Annotated[str, StringConstraints(pattern=r"^[A-Z2-7]{3,6}$")]


class Edge(Enum):
    """What stands before or behind the visible part of a key."""

    NONE = "none"
    BLANK = "blank"
    LINE_END = "line-end"


class KeyFacts(FrozenModel):
    """What the design holds of a pre-shared key: never the key itself."""

    reference: UUID = Field(title="Reference", description="Of the key in the vault.")
    fingerprint: Digest = Field(title="Fingerprint", description="Slow, salted hash, truncated to 30 bits.", examples=["K4V7QA"])
    trimmed: Digest = Field(title="Fingerprint without surrounding blanks and line ends", examples=["K4V"])
    folded: Digest = Field(title="Fingerprint without blanks and case", examples=["P2C"])
    length: int = Field(title="Length", description="In characters.", ge=1, le=1024, examples=[32])
    start: Edge = Field(default=Edge.NONE, title="Before the key")
    end: Edge = Field(default=Edge.NONE, title="After the key")
    strength_bits: int = Field(title="Strength", description="In bits.", ge=0, le=8192, examples=[256])
    weakness: Annotated[str, StringConstraints(max_length=200)] = Field(
        default="", title="Why it is weak", description="What the estimate rests on; empty for a generated key."
    )


def key_facts(secret: str, salt: bytes, reference: UUID, strength_bits: int | None = None) -> KeyFacts:
    """Derive what may be known of a key. `salt` is the design's, so that equal keys of one design are seen as equal.

    `strength_bits` is given where the key was generated and its strength is known exactly.
    """
    trimmed = secret.strip()
    folded = trimmed.casefold()
    slow = {text: _hashed(text, salt) for text in {secret, trimmed, folded}}
    return KeyFacts(
        reference=reference,
        fingerprint=_digest(slow[secret], b"exact", _FINGERPRINT_CHARACTERS),
        trimmed=_digest(slow[trimmed], b"trimmed", _NEAR_CHARACTERS),
        folded=_digest(slow[folded], b"folded", _NEAR_CHARACTERS),
        length=len(secret),
        start=_edge(secret[: len(secret) - len(secret.lstrip())]),
        end=_edge(secret[len(secret.rstrip()) :]),
        strength_bits=measured_strength(secret) if strength_bits is None else strength_bits,
        weakness=weakness(secret) if strength_bits is None else "",
    )


def _hashed(text: str, salt: bytes) -> bytes:
    """Return a hash that is slow unless there are too many keys of this form to try any."""
    if is_generated(text):
        return hmac.digest(salt, text.encode(), "sha256")
    return hash_secret_raw(text.encode(), salt, _TIME_COST, _MEMORY_KIB, _LANES, _TAG_BYTES, Type.ID)


def _digest(slow: bytes, label: bytes, characters: int) -> str:
    return base64.b32encode(hmac.digest(slow, label, "sha256")).decode()[:characters]


def _edge(text: str) -> Edge:
    if not text:
        return Edge.NONE
    return Edge.LINE_END if "\n" in text or "\r" in text else Edge.BLANK


class KeyEdge(Choice):
    """White space at an edge of a secret."""

    LEADING_BLANK = "leading blank"
    LEADING_LINE_END = "leading line end"
    TRAILING_BLANK = "trailing blank"
    TRAILING_LINE_END = "trailing line end"


_LEADING: Final = {Edge.BLANK: KeyEdge.LEADING_BLANK, Edge.LINE_END: KeyEdge.LEADING_LINE_END}
_TRAILING: Final = {Edge.BLANK: KeyEdge.TRAILING_BLANK, Edge.LINE_END: KeyEdge.TRAILING_LINE_END}


def edges_of(key: KeyFacts) -> tuple[KeyEdge, ...]:
    """Return the white space at the edges of a secret."""
    found = (_LEADING.get(key.start), _TRAILING.get(key.end))
    return tuple(edge for edge in found if edge)


class KeyDifference(Choice):
    """How two secrets differ."""

    EDGES = "edges"  # by white space at an edge, and nothing else
    CASE = "case"
    LENGTH = "length"
    OTHERWISE = "otherwise"


def key_difference(left: KeyFacts, right: KeyFacts) -> KeyDifference | None:
    """Return how two secrets differ, as far as what is known of them tells; None when they are the same."""
    if left.fingerprint == right.fingerprint:
        return None
    if left.trimmed == right.trimmed:
        return KeyDifference.EDGES if edges_of(left) or edges_of(right) else KeyDifference.OTHERWISE
    if left.folded == right.folded:
        return KeyDifference.CASE
    return KeyDifference.LENGTH if left.length != right.length else KeyDifference.OTHERWISE


_WORD_BITS, _YEAR_BITS = 11.0, 7.0  # one of about 2,000 common words; one of about 130 years


def measured_strength(secret: str) -> int:
    """Estimate the strength of a key in bits, from below: words, years and repeats count for little.

    Random letters count by the alphabet in use. The estimate can't know a key that was leaked or used elsewhere.
    """
    bits = 0.0
    for token in set(re.findall(r"[A-Za-z]+|[0-9]+|[^A-Za-z0-9]", secret)):
        bits += _token_bits(token)
    return min(int(bits), 8192)


_FEW_CHARACTERS: Final = 20


def weakness(secret: str) -> str:
    """Say in general words what makes a key easy to guess, as a clause; empty when nothing does."""
    words = [word for word in re.findall(r"[A-Za-z]+", secret) if _is_wordlike(word)]
    said = [
        ("it is short", len(secret.strip()) < _FEW_CHARACTERS),
        ("it is made of words", bool(words)),
        ("it holds a year", bool(re.search(r"(?<!\d)(19|20)\d\d(?!\d)", secret))),
        ("it repeats few characters", len(set(secret)) * 2 < len(secret)),
        ("it has letters of one case and nothing else", secret.isalpha() and (secret.islower() or secret.isupper())),
        ("it has digits and nothing else", secret.isdigit()),
    ]
    return ", ".join(text for text, holds in said if holds)


def _is_wordlike(letters: str) -> bool:
    return len(letters) > 3 and (letters.islower() or letters.isupper() or letters.istitle())


# The spelling alphabet of the International Civil Aviation Organization (annex 10, volume II), and the digits of base32.
_SPELLING: Final = (
    "Alfa Bravo Charlie Delta Echo Foxtrot Golf Hotel India Juliett Kilo Lima Mike November Oscar Papa Quebec Romeo "
    "Sierra Tango Uniform Victor Whiskey Xray Yankee Zulu"
)
_DIGITS: Final = {"2": "Two", "3": "Three", "4": "Four", "5": "Five", "6": "Six", "7": "Seven"}
_SPOKEN: Final = {word[0]: word for word in _SPELLING.split()} | _DIGITS


def spoken(fingerprint: str) -> str:
    """Write a fingerprint in words to be read over the telephone: "K4V" is "Kilo Four Victor"."""
    return " ".join(_SPOKEN[letter] for letter in fingerprint)


def _token_bits(token: str) -> float:
    if token.isdigit():
        is_year = len(token) == 4 and token[:2] in ("19", "20")
        return _YEAR_BITS if is_year else len(set(token)) * math.log2(10)
    if not token.isalpha():
        return math.log2(33)
    if _is_wordlike(token):
        return _WORD_BITS * math.ceil(len(token) / 8)
    alphabet = 26 if token.islower() or token.isupper() else 52
    return len(token) * math.log2(alphabet)
