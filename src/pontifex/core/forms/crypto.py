"""The lines of a form that are about algorithms and lifetimes, read together, since a heading holds for those below it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from pontifex.core.ipsec import Protocol
from pontifex.core.ipsec.reading import ProposalReading, Word, WordKind, read_proposals
from pontifex.core.ipsec.reading.reader import TextTooLong
from pontifex.core.kinds import is_set


@dataclass(frozen=True, slots=True)
class CryptoLine:
    """What came of a line."""

    number: int
    meaning: str  # or the question
    choices: tuple[str, ...] = ()  # what the line may be replaced by
    field: str = ""
    is_open: bool = False  # it is to be asked about


@dataclass
class CryptoLines:
    """Lines that nothing else was found in."""

    _texts: dict[int, str] = field(default_factory=dict)  # by the number of the line
    _reading: ProposalReading | None = None

    def take(self, number: int, text: str) -> None:
        """Take a line in."""
        before = self._texts.get(number)
        self._texts[number] = text if before is None else f"{before} {text}"

    def text_of(self, number: int) -> str:
        """Return a line as it stands."""
        return self._texts[number]

    def read(self) -> Iterator[CryptoLine]:
        """Yield what came of each line."""
        whole = "\n".join(self._texts.values())
        try:
            self._reading = read_proposals(whole)
        except TextTooLong as error:
            for number in self._texts:
                yield CryptoLine(number, str(error), is_open=True)
            return
        start = 0
        for number, text in self._texts.items():
            end = start + len(text)
            words = [word for word in self._reading.words if start <= word.start < end or (word.start == end and not word.text)]
            yield _line(number, text, start, words)
            start = end + 1

    def fields(self) -> dict[str, Any]:
        """Return the fields of an end that the lines fill."""
        if self._reading is None:
            return {}
        found = {
            "ike_proposals": self._reading.ike,
            "child_proposals": self._reading.child,
            "ike_lifetime_s": self._reading.ike_lifetime_s,
            "child_lifetime_s": self._reading.child_lifetime_s,
        }
        return {name: value for name, value in found.items() if is_set(value)}


def _line(number: int, text: str, start: int, words: list[Word]) -> CryptoLine:
    """Return what a line means, or the first question about it, with the line as each choice would make it."""
    open_words = [word for word in words if word.kind is not WordKind.UNDERSTOOD]
    telling = [word for word in words if word.is_value or word.lifetime_s or word.section or word.pfs is not None]
    asked = [word for word in open_words if word.choices]
    if not words or (open_words and not telling and not asked):
        return CryptoLine(number, "not understood", is_open=True)
    if open_words:
        word = (asked or open_words)[0]
        at = word.start - start
        choices = tuple(text[:at] + choice + text[at + len(word.text) :] for choice in word.choices)
        return CryptoLine(number, word.meaning if word.choices else f"'{word.text}' isn't understood", choices, is_open=True)
    return CryptoLine(number, "; ".join(word.meaning for word in telling) or "a label", field=_field(words))


def _field(words: list[Word]) -> str:
    """Return the field of an end that a line fills first; empty for a mere heading."""
    for word in words:
        sa = "ike" if word.about is Protocol.IKE else "child"
        if word.lifetime_s:
            return f"{sa}_lifetime_s"
        if word.is_value or word.pfs is not None:
            return "child_proposals" if word.pfs is not None else f"{sa}_proposals"
    return ""
