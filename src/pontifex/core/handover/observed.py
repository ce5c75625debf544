"""What somebody has seen of a probe, as it is typed or pasted from `ping` or `traceroute -n`: whether it was answered."""

from __future__ import annotations

import re
from typing import Final

MOST_CHARACTERS: Final = 8000
# what `ping` sums up at its end: packets sent and received, in the words of its several versions
_COUNTED: Final = re.compile(r"(\d+)\s+packets?\s+(?:transmitted|sent)\D+(\d+)\s+(?:packets?\s+)?received", re.IGNORECASE)
_LOST: Final = re.compile(r"(\d+(?:\.\d+)?)%\s*(?:packet\s+)?loss", re.IGNORECASE)
_TARGET: Final = re.compile(r"^traceroute6? to \S+ \(([0-9a-f.:]+)\)", re.IGNORECASE | re.MULTILINE)
_NO: Final = re.compile(
    r"\b(?:no\s+(?:answer|reply|response|route)|not\s+answered|unanswered|unreachable|timed?\s*-?out|lost|fail(?:s|ed)?|down|refused)\b|^no\b",
    re.IGNORECASE,
)
_YES: Final = re.compile(
    r"\b(?:answer(?:s|ed)?|repl(?:y|ies|ied)|ok|okay|works?|reached|up|passes|connected|open)\b|\btime[=<]\d|^yes\b",
    re.IGNORECASE,
)


def answered(text: str) -> bool | None:
    """Return whether a probe was answered; None where the text doesn't say, or says both."""
    text = text[:MOST_CHARACTERS]
    counted = _COUNTED.search(text)
    if counted:
        return int(counted[2]) > 0
    lost = _LOST.search(text)
    if lost:
        return float(lost[1]) < 100
    target = _TARGET.search(text)
    if target:
        return _reached(text, target[1])
    said_no, said_yes = bool(_NO.search(text)), bool(_YES.search(_NO.sub(" ", text)))
    return None if said_no is said_yes else said_yes


def _reached(text: str, target: str) -> bool | None:
    """Whether the last hop of a trace is the address that was asked for."""
    hops = [words for line in text.splitlines() if len(words := line.split()) > 1 and words[0].isdigit()]
    return target in hops[-1] if hops else None
