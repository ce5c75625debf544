"""From a text to proposals, and back."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Final

from pontifex.core.ipsec.proposal import Proposal, Protocol, Transform
from pontifex.core.ipsec.reading.context import between, in_context, protocols
from pontifex.core.ipsec.reading.drafts import Draft, drafts_of, lacking, proposals_of
from pontifex.core.ipsec.reading.vocabulary import vocabulary
from pontifex.core.ipsec.reading.word import Tag, Word, WordKind
from pontifex.core.ipsec.registry import TransformType

MOST_CHARACTERS: Final = 20_000
_SKIPPED: Final = re.compile(r"[\s,;/+&|·•:()=\[\]{}<>\"'._→*#–—-]+")
_UNKNOWN_WORD: Final = re.compile(r"[^\s,;/|()=:]+")
_KE: Final = TransformType.KE


class TextTooLong(ValueError):
    """The text is longer than anybody's proposals."""


@dataclass(frozen=True, slots=True)
class ProposalReading:
    """What was understood of a text. Nothing of it is dropped: every word is in `words`."""

    words: tuple[Word, ...]
    ike: tuple[Proposal, ...]
    child: tuple[Proposal, ...]
    ike_lifetime_s: int | None = None
    child_lifetime_s: int | None = None
    pfs: bool | None = None
    pfs_groups: tuple[Transform, ...] = ()  # groups named for forward secrecy, for the Child SA

    def of_kind(self, kind: WordKind) -> tuple[Word, ...]:
        """The words of one kind, in their order."""
        return tuple(word for word in self.words if word.kind is kind)

    def proposals(self, protocol: Protocol) -> tuple[Proposal, ...]:
        """The proposals for one kind of SA."""
        return self.ike if protocol is Protocol.IKE else self.child


def read_proposals(text: str, protocol: Protocol = Protocol.IKE, *, whole: bool = True) -> ProposalReading:
    """Read proposals in any of the notations of the vocabulary. Text before any heading is about `protocol`.

    Where the types of algorithms come round again, another proposal begins. A hash beside a combined-mode cipher is the
    PRF, else it is INTEG and, where no PRF is named, the PRF as well. A Child SA has no ESN unless the text says so. What
    makes an incomplete proposal is asked for, once nothing else is open, unless parts of one are all that is wanted. Raise
    TextTooLong.
    """
    if len(text) > MOST_CHARACTERS:
        raise TextTooLong(f"the text has {len(text)} characters; {MOST_CHARACTERS} at most")
    words = in_context(text, list(_words(text)))
    about = protocols(text, words, protocol)
    words = [replace(word, about=named) for word, named in zip(words, about, strict=True)]
    for_pfs = _forward_secrecy(text, words)
    pfs_groups = [transform for at in sorted(for_pfs) for transform in words[at].transforms]
    drafts = []
    for sa in Protocol:
        places = [at for at in range(len(words)) if about[at] is sa and at not in for_pfs]
        drafts += drafts_of(words, places, sa)
    pfs = next((word.pfs for word in reversed(words) if word.pfs is not None), None)
    _give_groups(drafts, words, pfs, pfs_groups)
    lifetimes = {protocol: _lifetime(words, about, protocol) for protocol in Protocol}
    if whole and all(word.kind is WordKind.UNDERSTOOD for word in words):
        words += [question for draft in drafts for question in lacking(draft)]
    proposals = {
        protocol: tuple(p for draft in drafts if draft.protocol is protocol for p in proposals_of(draft)) for protocol in Protocol
    }
    return ProposalReading(
        words=tuple(sorted(words, key=lambda word: word.start)),
        ike=proposals[Protocol.IKE],
        child=proposals[Protocol.ESP],
        ike_lifetime_s=lifetimes[Protocol.IKE],
        child_lifetime_s=lifetimes[Protocol.ESP],
        pfs=pfs,
        pfs_groups=tuple(pfs_groups),
    )


def _forward_secrecy(text: str, words: Sequence[Word]) -> set[int]:
    """Return the places of the groups that stand directly behind forward secrecy that is wanted."""
    found = set()
    for at, word in enumerate(words):
        if not word.pfs:
            continue
        behind = at + 1
        while behind < len(words) and words[behind].tag in (Tag.YES, Tag.GROUP, Tag.AND):
            behind += 1
        while (
            behind < len(words)
            and any(transform.type is _KE for transform in words[behind].transforms)
            and "\n" not in between(text, words[behind - 1], words[behind])
        ):
            found.add(behind)
            behind += 1
    return found


def _give_groups(drafts: list[Draft], words: list[Word], pfs: bool | None, pfs_groups: list[Transform]) -> None:
    """Give the groups named for forward secrecy to the Child SA; where it is wanted without a group, ask for one."""
    lacks = [draft for draft in drafts if draft.protocol is Protocol.ESP and not draft.of(_KE)]
    for draft in lacks:
        draft.named += pfs_groups
    if not pfs or pfs_groups or not lacks:
        return
    at = next(at for at, word in enumerate(words) if word.pfs)
    choices = tuple(dict.fromkeys(group.label for draft in drafts for group in draft.of(_KE))) or ("group 14", "group 19")
    words[at] = replace(
        words[at],
        kind=WordKind.AMBIGUOUS,
        meaning="which group for forward secrecy?",
        choices=tuple(f"PFS {choice}" for choice in choices),
    )


def _lifetime(words: list[Word], about: Sequence[Protocol], protocol: Protocol) -> int | None:
    """Return the lifetime of an SA. Where a second one is named, it may be the Child SA's: it is asked about."""
    places = [at for at, word in enumerate(words) if about[at] is protocol and word.lifetime_s is not None]
    if not places:
        return None
    first = words[places[0]].lifetime_s
    for at in places[1:]:
        if words[at].lifetime_s != first:
            choices = (f"phase 2: lifetime {words[at].lifetime_s} s",)
            words[at] = replace(words[at], kind=WordKind.AMBIGUOUS, meaning="whose lifetime is this?", choices=choices)
    return first


def write_proposals(proposals: Sequence[Proposal]) -> str:
    """Write proposals in words that read back as the same ones."""
    return "; ".join(proposal.label for proposal in proposals)


def _words(text: str) -> Iterator[Word]:
    at = 0
    while at < len(text):
        if skipped := _SKIPPED.match(text, at):
            at = skipped.end()
            continue
        word = _word_at(text, at)
        yield word
        at = word.end


def _word_at(text: str, at: int) -> Word:
    for pattern, meaning in vocabulary():
        match = pattern.match(text, at)
        if match and match[0].strip():
            return meaning(match)
    unknown = _UNKNOWN_WORD.match(text, at)
    return Word(unknown[0] if unknown else text[at], at, WordKind.UNKNOWN, "unknown")
