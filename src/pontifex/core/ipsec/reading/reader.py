"""From words to proposals, and back."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import Final

from pontifex.core.ipsec.proposal import Proposal, Protocol, Transform
from pontifex.core.ipsec.reading.vocabulary import INTEG_OF_HASH, PRF_OF_HASH, VOCABULARY
from pontifex.core.ipsec.reading.word import Hash, Word, WordKind
from pontifex.core.ipsec.registry import TransformType

MOST_CHARACTERS: Final = 20_000
_SKIPPED: Final = re.compile(r"[\s,/+&|·•:()=\[\]{}<>\"'._→*#-]+")
_UNKNOWN_WORD: Final = re.compile(r"[^\s,;/|()]+")
_ENCR, _PRF, _INTEG, _KE, _ESN = (TransformType[name] for name in ("ENCR", "PRF", "INTEG", "KE", "ESN"))


class TextTooLong(ValueError):
    """The text is longer than anybody's proposals."""


@dataclass(frozen=True, slots=True)
class Reading:
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


@dataclass
class _Draft:
    """The words of one proposal, while they are collected."""

    protocol: Protocol
    named: list[Transform | Hash] = field(default_factory=list)  # in the order of the text, which is that of preference

    @property
    def started(self) -> bool:
        return bool(self.named)

    @property
    def transforms(self) -> list[Transform]:
        return [one for one in self.named if isinstance(one, Transform)]

    @property
    def hashes(self) -> list[Hash]:
        return [one for one in self.named if isinstance(one, Hash)]

    def of(self, *types: TransformType) -> list[Transform]:
        return [transform for transform in self.transforms if transform.type in types]


def read_proposals(text: str, protocol: Protocol = Protocol.IKE) -> Reading:
    """Read proposals in any of the notations of the vocabulary. Text before any heading is about `protocol`.

    A semicolon ends a proposal, and so does the next of several joined notations (`aes256-sha256-modp2048, …`). A hash
    beside a combined-mode cipher is the PRF, else it is INTEG and, where no PRF is named, the PRF as well. A Child SA
    has no ESN unless the text says so. Raise TextTooLong.
    """
    if len(text) > MOST_CHARACTERS:
        raise TextTooLong(f"the text has {len(text)} characters; {MOST_CHARACTERS} at most")
    words = list(_words(text))
    drafts = [_Draft(protocol)]
    lifetimes: dict[Protocol, int] = {}
    pfs: bool | None = None
    pfs_groups: list[Transform] = []
    for at, word in enumerate(words):
        current = drafts[-1]
        if word.section is not None:
            drafts.append(current := _Draft(word.section))
        if word.text == ";" or (current.started and _begins_joined(text, words, at) and current.of(_ENCR)):
            drafts.append(current := _Draft(current.protocol))
        if word.lifetime_s is not None:
            lifetimes[current.protocol] = word.lifetime_s
        pfs = pfs if word.pfs is None else word.pfs
        is_for_pfs = at > 0 and words[at - 1].pfs is True and current.protocol is Protocol.IKE
        if is_for_pfs:
            pfs_groups.extend(word.transforms)
        else:
            current.named.extend(word.transforms)
        current.named += [word.hash] if word.hash else []
    _give_groups(drafts, words, pfs, pfs_groups)
    found: dict[Protocol, list[Proposal]] = {Protocol.IKE: [], Protocol.ESP: []}
    for draft in drafts:
        found[draft.protocol] += _proposals(draft)
    return Reading(
        words=tuple(word for word in words if word.text != ";"),
        ike=tuple(found[Protocol.IKE]),
        child=tuple(found[Protocol.ESP]),
        ike_lifetime_s=lifetimes.get(Protocol.IKE),
        child_lifetime_s=lifetimes.get(Protocol.ESP),
        pfs=pfs,
        pfs_groups=tuple(pfs_groups),
    )


def _give_groups(drafts: list[_Draft], words: list[Word], pfs: bool | None, pfs_groups: list[Transform]) -> None:
    """Give the groups named for forward secrecy to the Child SA; where it is wanted without a group, ask for one."""
    lacking = [draft for draft in drafts if draft.protocol is Protocol.ESP and draft.started and not draft.of(_KE)]
    for draft in lacking:
        draft.named += pfs_groups
    if not pfs or pfs_groups or not lacking:
        return
    at = next(at for at, word in enumerate(words) if word.pfs)
    choices = tuple(dict.fromkeys(group.label for draft in drafts for group in draft.of(_KE))) or ("group 14", "group 19")
    words[at] = replace(
        words[at],
        kind=WordKind.AMBIGUOUS,
        meaning="which group for forward secrecy?",
        choices=tuple(f"PFS {choice}" for choice in choices),
    )


def write_proposals(proposals: Sequence[Proposal]) -> str:
    """Write proposals in words that read back as the same ones."""
    return "; ".join(proposal.label for proposal in proposals)


def _words(text: str) -> Iterator[Word]:
    at = 0
    while at < len(text):
        if text[at] == ";":
            yield Word(";", at, WordKind.UNDERSTOOD, "the next proposal")
            at += 1
        elif skipped := _SKIPPED.match(text, at):
            at = skipped.end()
        else:
            word = _word_at(text, at)
            yield word
            at = word.end


def _word_at(text: str, at: int) -> Word:
    for pattern, meaning in VOCABULARY:
        match = pattern.match(text, at)
        if match and match[0].strip():
            return meaning(match)
    unknown = _UNKNOWN_WORD.match(text, at)
    return Word(unknown[0] if unknown else text[at], at, WordKind.UNKNOWN, "unknown")


def _begins_joined(text: str, words: Sequence[Word], at: int) -> bool:
    """Whether a cipher is joined to what follows it, as in aes256-sha256."""
    word = words[at]
    if not any(transform.type is _ENCR for transform in word.transforms) or at + 1 == len(words):
        return False
    following = words[at + 1]
    return bool(following.transforms or following.hash) and text[word.end : following.start] in ("-", "_", "/")


def _proposals(draft: _Draft) -> Iterator[Proposal]:
    """Yield the proposals of a draft: combined-mode ciphers and others make one each (RFC 7296 section 3.3)."""
    if not draft.started:
        return
    ciphers = draft.of(_ENCR)
    kinds = [[c for c in ciphers if c.combined_mode is combined] for combined in (True, False)]
    for combined, chosen in zip((True, False), kinds, strict=True):
        if chosen or (not ciphers and not combined):
            yield Proposal(transforms=tuple(_unique(_assembled(draft, chosen, combined))))


def _assembled(draft: _Draft, ciphers: list[Transform], combined: bool) -> Iterator[Transform]:
    is_ike = draft.protocol is Protocol.IKE
    yield from ciphers
    if is_ike:
        named = draft.of(_PRF)
        yield from named or [Transform(type=_PRF, id=PRF_OF_HASH[one]) for one in draft.hashes]
    if not combined:
        for one in draft.named:
            if isinstance(one, Hash):
                yield Transform(type=_INTEG, id=INTEG_OF_HASH[one])
            elif one.type is _INTEG:
                yield one
    yield from (transform for transform in draft.transforms if transform.type is _KE or transform.type.is_additional)
    if not is_ike:
        yield from draft.of(_ESN) or [Transform(type=_ESN, id=0)]


def _unique(transforms: Iterator[Transform]) -> Iterator[Transform]:
    seen = set()
    for transform in transforms:
        if transform.key not in seen:
            seen.add(transform.key)
            yield transform
