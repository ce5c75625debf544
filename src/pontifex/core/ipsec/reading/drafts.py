"""From words to proposals: which belong together, what each lacks, and the proposals that they make."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import Final

from pontifex.core.ipsec.proposal import Proposal, Protocol, Transform
from pontifex.core.ipsec.reading.vocabulary import INTEG_OF_HASH, PRF_OF_HASH
from pontifex.core.ipsec.reading.word import Hash, Tag, Word, WordKind
from pontifex.core.ipsec.registry import TransformType

_ENCR, _PRF, _INTEG, _KE, _ESN = (TransformType[name] for name in ("ENCR", "PRF", "INTEG", "KE", "ESN"))


@dataclass
class Draft:
    """The words of one proposal, while they are collected."""

    protocol: Protocol
    named: list[Transform | Hash] = field(default_factory=list)  # in the order of the text, which is that of preference
    end: int = 0  # of the last word, in the text
    turned: bool = False  # another type was named since the last cipher
    cipher_first: bool = True

    def add(self, word: Word) -> None:
        """Take a word in."""
        is_cipher = names_cipher(word)
        self.cipher_first = is_cipher if not self.named else self.cipher_first
        self.turned = not is_cipher
        self.named += [*word.transforms, *([word.hash] if word.hash else [])]
        self.end = word.end

    @property
    def transforms(self) -> list[Transform]:
        """The transforms that are named by themselves."""
        return [transform for transform in self.named if isinstance(transform, Transform)]

    @property
    def hashes(self) -> list[Hash]:
        """The hashes, whose role the ciphers decide."""
        return [candidate for candidate in self.named if isinstance(candidate, Hash)]

    def of(self, *types: TransformType) -> list[Transform]:
        """Return the transforms of some types."""
        return [transform for transform in self.transforms if transform.type in types]


def names_cipher(word: Word) -> bool:
    """Whether a word names a cipher."""
    return any(transform.type is _ENCR for transform in word.transforms)


def drafts_of(words: list[Word], places: Sequence[int], protocol: Protocol) -> list[Draft]:
    """Return the words at some places as drafts: where the types come round again, another proposal begins.

    A cipher that comes alone behind other types could be another choice or another proposal: it is asked about.
    """
    drafts = [Draft(protocol)]
    stream = [at for at in places if words[at].is_value or words[at].tag is Tag.PROPOSAL]
    for number, at in enumerate(stream):
        word, current = words[at], drafts[-1]
        if word.tag is Tag.PROPOSAL:
            drafts.append(Draft(protocol))
            continue
        if names_cipher(word) and current.of(_ENCR) and current.turned:
            if not _comes_round(words, stream, number, protocol) or not current.cipher_first:
                words[at] = _asked_about(word)
                continue
            drafts.append(Draft(protocol))
        drafts[-1].add(word)
    return [draft for draft in drafts if draft.named]


def _comes_round(words: Sequence[Word], stream: Sequence[int], number: int, protocol: Protocol) -> bool:
    """Whether a cipher is followed by other types before the next one, or needs none."""
    for at in stream[number + 1 :]:
        if words[at].tag is Tag.PROPOSAL:
            break
        if not names_cipher(words[at]):
            return True
    return protocol is Protocol.ESP and all(transform.combined_mode for transform in words[stream[number]].transforms)


def _asked_about(word: Word) -> Word:
    question = f"is {word.text} another choice? Then write it beside the first one; or it begins a proposal that lacks its rest"
    choices = (f"not {word.text}",)
    return replace(word, kind=WordKind.AMBIGUOUS, meaning=question, choices=choices, transforms=(), hash=None)


_LACKING: Final = {
    _ENCR: ("which encryption?", (", AES-GCM-16-256", ", AES-CBC-256", ", AES-CBC-128")),
    _KE: ("which group?", (", group 14", ", group 19", ", group 20")),
    _PRF: ("which PRF?", (", PRF SHA2-256", ", PRF SHA2-384", ", PRF SHA2-512")),
    _INTEG: ("which integrity?", (", SHA2-256", ", SHA2-384", ", SHA2-512", ", SHA1")),
}


def lacking(draft: Draft) -> Iterator[Word]:
    """Yield a question for each type that a proposal lacks; each choice is put behind it."""
    ciphers = draft.of(_ENCR)
    needs = {_ENCR: not ciphers}
    if draft.protocol is Protocol.IKE:
        needs |= {_PRF: bool(ciphers) and not draft.hashes and not draft.of(_PRF), _KE: not draft.of(_KE)}
    plain = [cipher for cipher in ciphers if not cipher.combined_mode]
    needs[_INTEG] = bool(plain) and not draft.hashes and not draft.of(_INTEG)
    if needs[_INTEG]:
        needs[_PRF] = False  # a hash answers both
    for type_, lacks in needs.items():
        if lacks:
            question, choices = _LACKING[type_]
            yield Word("", draft.end, WordKind.AMBIGUOUS, question, choices)


def proposals_of(draft: Draft) -> Iterator[Proposal]:
    """Yield the proposals of a draft: combined-mode ciphers and others make one each (RFC 7296 section 3.3)."""
    ciphers = draft.of(_ENCR)
    kinds = dict.fromkeys(cipher.combined_mode for cipher in ciphers) or {False: None}
    for combined in kinds:
        chosen = [cipher for cipher in ciphers if cipher.combined_mode is combined]
        yield Proposal(transforms=tuple(_unique(_assembled(draft, chosen, combined))))


def _assembled(draft: Draft, ciphers: list[Transform], combined: bool) -> Iterator[Transform]:
    is_ike = draft.protocol is Protocol.IKE
    yield from ciphers
    if is_ike:
        named = draft.of(_PRF)
        yield from named or [Transform(type=_PRF, id=PRF_OF_HASH[hashed]) for hashed in draft.hashes]
    if not combined:
        for word in draft.named:
            if isinstance(word, Hash):
                yield Transform(type=_INTEG, id=INTEG_OF_HASH[word])
            elif word.type is _INTEG:
                yield word
    yield from (transform for transform in draft.transforms if transform.type is _KE or transform.type.is_additional)
    if not is_ike:
        yield from draft.of(_ESN) or [Transform(type=_ESN, id=0)]


def _unique(transforms: Iterator[Transform]) -> Iterator[Transform]:
    seen = set()
    for transform in transforms:
        if transform.key not in seen:
            seen.add(transform.key)
            yield transform
