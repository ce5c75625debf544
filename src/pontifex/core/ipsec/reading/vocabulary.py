"""The words that people use for transforms, sections, lifetimes and forward secrecy: patterns, each with its meaning.

A pattern is tried at a place of the text in the order of the table, so that longer notations go before shorter ones.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import cache
from typing import Final

from pontifex.core.ipsec.proposal import Protocol, Transform
from pontifex.core.ipsec.reading.languages import (
    AND,
    DAYS,
    ENCRYPTION,
    GROUP,
    HOURS,
    INTEGRITY,
    LIFETIME,
    MINUTES,
    NO,
    NOISE,
    NOT,
    OR,
    PFS,
    PHASE,
    PROPOSAL,
    SECONDS,
    YES,
)
from pontifex.core.ipsec.reading.word import Hash, Tag, Word, WordKind
from pontifex.core.ipsec.registry import REGISTRY, RegisteredTransform, TransformType

Meaning = Callable[[re.Match[str]], Word]
_GAP: Final = r"[\s_./:-]*"
_PLAIN_HASHES: Final = frozenset(hash_.value for hash_ in Hash)
_UNIT: Final = {"s": 1, "m": 60, "h": 3600, "d": 86_400}


def _understood(match: re.Match[str], meaning: str, *transforms: Transform) -> Word:
    return Word(match[0], match.start(), WordKind.UNDERSTOOD, meaning, (), transforms)


def _ambiguous(match: re.Match[str], question: str, choices: tuple[str, ...]) -> Word:
    return Word(match[0], match.start(), WordKind.AMBIGUOUS, question, choices)


def _transform(type_: TransformType, id_: int, key_length: int | None = None) -> Transform:
    return Transform(type=type_, id=id_, key_length=key_length)


def _registry_words() -> Iterator[tuple[str, Meaning]]:
    """IANA's names and our labels, as they stand in the registry, with the key length behind them."""
    named = [(name, row) for row in REGISTRY for name in {row.name, row.label}]
    for name, row in sorted(named, key=lambda entry: -len(entry[0])):
        is_plain_hash = row.type is TransformType.INTEG and name in _PLAIN_HASHES  # its role follows from what stands around it
        if is_plain_hash or name in ("NONE", "none") or (row.type.is_additional and name == row.name):
            continue
        pattern = re.sub(r"[\s_-]+", r"[ _-]", re.escape(name).replace(r"\ ", " ").replace(r"\-", "-"))
        if row.key_lengths:
            pattern += r"(?:[\s_(-]+(?P<key>128|192|256)(?:[\s-]*bits?)?\)?)"
        yield pattern, _registered_meaning(row)


def _registered_meaning(row: RegisteredTransform) -> Meaning:
    def meaning(match: re.Match[str]) -> Word:
        key = int(match["key"]) if row.key_lengths else None
        return _understood(match, f"{row.name}-{key}" if key else row.name, _transform(row.type, row.id, key))

    return meaning


_MODES: Final = {("aes", "cbc"): 12, ("aes", "ctr"): 13, ("camellia", "cbc"): 23, ("camellia", "ctr"): 24}
_COMBINED: Final = {
    ("aes", "gcm"): {8: 18, 12: 19, 16: 20},
    ("aes", "ccm"): {8: 14, 12: 15, 16: 16},
    ("camellia", "ccm"): {8: 25, 12: 26, 16: 27},
}
_ICV_OCTETS: Final = {8: 8, 12: 12, 16: 16, 64: 8, 96: 12, 128: 16}
_BLOCK_CIPHER: Final = (
    r"(?:(?P<before>128|192|256)[\s-]*bits?[\s-]+)?(?P<family>aes|camellia)"
    r"(?P<rest>(?:[\s_(/-]*(?:cbc|ctr|gcm|ccm|mode|icv|key|length|bits?|(?:128|192|256|16|12|8|64|96)"
    r"(?!\d)(?!\s*(?:h|s|m|d|sec|min|hours?|days?|[kmg]i?b)\b)(?![\s-]*bits?\s+(?:aes|camellia)))\)?)*)"
)


def _block_cipher(match: re.Match[str]) -> Word:
    """AES or Camellia with mode, key length and ICV length in any order."""
    family = match["family"].lower()
    rest = match["rest"].lower()
    numbers = [int(number) for number in re.findall(r"\d+", (match["before"] or "") + " " + rest)]
    mode = next(iter(re.findall(r"cbc|ctr|gcm|ccm", rest)), "cbc")
    keys = [number for number in numbers if number in (128, 192, 256)]
    ids = _COMBINED.get((family, mode))
    if ids is not None:
        keys = keys[:1]  # a second number of that size is the ICV in bits
        others = list(numbers)
        if keys:
            others.remove(keys[0])
        icv = next((_ICV_OCTETS[number] for number in others if number in _ICV_OCTETS), None)
        if icv is None and mode == "ccm":
            choices = tuple(f"{family}-ccm-{octets}-{keys[0] if keys else 256}" for octets in ids)
            return _ambiguous(match, f"how long is the ICV of {family.upper()}-CCM, in octets?", choices)
        id_, title = ids[icv or 16], f"{family.upper()}-{mode.upper()}-{icv or 16}"
    else:
        id_, title = _MODES.get((family, mode), 12), f"{family.upper()}-{mode.upper()}"
    if not keys:
        choices = tuple(f"{title}-{key}" for key in (128, 192, 256))
        return _ambiguous(match, f"which key length has {match[0].strip()}?", choices)
    found = [_transform(TransformType.ENCR, id_, key) for key in dict.fromkeys(keys)]
    return _understood(match, " or ".join(transform.label for transform in found), *found)


_HASH_OF_SIZE: Final = {"160": Hash.SHA1, "256": Hash.SHA2_256, "384": Hash.SHA2_384, "512": Hash.SHA2_512}
PRF_OF_HASH: Final = {Hash.MD5: 1, Hash.SHA1: 2, Hash.SHA2_256: 5, Hash.SHA2_384: 6, Hash.SHA2_512: 7}
INTEG_OF_HASH: Final = {Hash.MD5: 1, Hash.SHA1: 2, Hash.SHA2_256: 12, Hash.SHA2_384: 13, Hash.SHA2_512: 14}
_SHA: Final = (
    rf"(?P<prf>prf{_GAP}(?:is\s+)?)?(?:hmac{_GAP})?sha(?:[ _-]?(?P<family>[123])(?!\d|[\s-]*des))?"
    r"(?:[\s_-]?(?P<size>160|256|384|512))?"
    r"(?:[ _-](?:96|128|192|256)(?![\s-]*bit))?"
)


def _sha(match: re.Match[str]) -> Word:
    if match["family"] == "3":
        return Word(match[0], match.start(), WordKind.UNKNOWN, "IKEv2 has no SHA3 transform")
    if match["family"] == "2" and not match["size"]:
        prefix = "PRF " if match["prf"] else ""
        return _ambiguous(match, "which size of SHA2?", tuple(f"{prefix}SHA2-{size}" for size in (256, 384, 512)))
    return _hashed(match, _HASH_OF_SIZE[match["size"]] if match["size"] else Hash.SHA1)


def _hashed(match: re.Match[str], hash_: Hash) -> Word:
    if match["prf"]:
        transform = _transform(TransformType.PRF, PRF_OF_HASH[hash_])
        return _understood(match, transform.label, transform)
    return replace(_understood(match, f"hash {hash_.value}"), hash=hash_)


_MODP: Final = {"768": 1, "1024": 2, "1536": 5, "2048": 14, "3072": 15, "4096": 16, "6144": 17, "8192": 18}
_ECP: Final = {"192": 0, "224": 0, "256": 19, "384": 20, "521": 21}
_BRAINPOOL: Final = {"224": 27, "256": 28, "384": 29, "512": 30}
_ML_KEM: Final = {"512": 35, "768": 36, "1024": 37}


def _groups(match: re.Match[str]) -> Word:
    """One or several groups by number."""
    numbers = [int(number) for number in re.findall(r"\d+", match["numbers"])]
    known = {row.id for row in REGISTRY if row.type is TransformType.KE}
    wrong = [number for number in numbers if number not in known]
    if wrong:
        return Word(match[0], match.start(), WordKind.UNKNOWN, f"there is no group {wrong[0]} in the registry")
    found = [_transform(TransformType.KE, number) for number in numbers]
    return _understood(match, " or ".join(transform.label for transform in found), *found)


def _sized(table: dict[str, int]) -> Meaning:
    def meaning(match: re.Match[str]) -> Word:
        id_ = table[match["size"]]
        if not id_:
            return Word(match[0], match.start(), WordKind.UNKNOWN, "this group is not in the registry")
        return _understood(match, f"group {id_}", _transform(TransformType.KE, id_))

    return meaning


def _fixed(type_: TransformType, id_: int) -> Meaning:
    transform = _transform(type_, id_)
    return lambda match: _understood(match, transform.label, transform)


_THOUSANDS: Final = re.compile(r"\d{1,3}(?:[.,' \u00a0\u202f]\d{3})+")
_DIGITS: Final = re.compile(r"\D")


def _timed(match: re.Match[str]) -> Word:
    """A number with a unit of time. A point before three digits parts thousands of seconds; of hours it could be either."""
    written, seconds = match["number"], _UNIT[_unit_of(match["unit"])]
    if _THOUSANDS.fullmatch(written):
        plain = _DIGITS.sub("", written)
        if seconds > 1 and " " not in written:
            fraction = written.replace(",", ".")
            return _ambiguous(
                match, f"how much is {written}?", (f"{plain} {match['unit']}", f"{float(fraction):g} {match['unit']}")
            )
        value = float(plain)
    else:
        value = float(written.replace(",", "."))
    total = round(value * seconds)
    return replace(_understood(match, f"lifetime {total} s"), lifetime_s=total)


def _unit_of(text: str) -> str:
    units = {"s": SECONDS, "m": MINUTES, "h": HOURS, "d": DAYS}
    return next(unit for unit, pattern in units.items() if re.fullmatch(pattern, text.rstrip("."), re.IGNORECASE))


def _number(match: re.Match[str]) -> Word:
    """A number by itself: the words around it tell what it is."""
    value = int(_DIGITS.sub("", match[0]))
    return replace(Word(match[0], match.start(), WordKind.UNKNOWN, "a number without a word that says of what"), number=value)


def _section(protocol: Protocol) -> Meaning:
    title = "IKE SA" if protocol is Protocol.IKE else "Child SA"
    return lambda match: replace(_understood(match, f"what follows is about the {title}"), section=protocol)


def _said(meaning: str, tag: Tag | None = None) -> Meaning:
    return lambda match: replace(_understood(match, meaning), tag=tag)


def _pfs(match: re.Match[str]) -> Word:
    return replace(_understood(match, "forward secrecy for the Child SA"), pfs=True, tag=Tag.PFS)


_ENCR, _PRF, _INTEG, _KE, _ESN = (TransformType[name] for name in ("ENCR", "PRF", "INTEG", "KE", "ESN"))
_NOT_A_TIME: Final = rf"(?!\d|\.\d|[., '\u00a0\u202f]\d{{3}}(?!\d)|[\s-]*(?:des|bit)|\s*(?:{SECONDS}|{MINUTES}|{HOURS}|{DAYS})\b)"
_NUMBERS: Final = rf"(?P<numbers>\d{{1,2}}{_NOT_A_TIME}(?:\s*(?:,|/|&|{OR}|{AND})\s*\d{{1,2}}{_NOT_A_TIME}(?![\s-]*bit))*)"
_DH: Final = rf"(?:(?:dh|d-h|diffie[\s-]*hellman|oakley|modp){_GAP})"
_BETWEEN: Final = r"[\s_.:/=#(-]{0,8}"  # a label and its number
_TIME: Final = rf"(?P<unit>(?:{SECONDS}|{MINUTES}|{HOURS}|{DAYS})\b\.?)"
_AMOUNT: Final = r"(?P<number>\d{1,3}(?:[.,' \u00a0\u202f]\d{3})+|\d{1,9}(?:[.,]\d{1,9})?)"  # of more digits nothing is written

_OF_SECTION: Final = r"(?:[ _-]*(?:sa|policy|proposals?(?!\s*#?\d)))?"
_MODP_SIZE: Final = r"(?P<size>768|1024|1536|2048|3072|4096|6144|8192)"

_WORDS: Final[tuple[tuple[str, Meaning], ...]] = (
    (rf"{PROPOSAL}\s*#?\d{{1,2}}(?=\s*[:.)=-]|\s)", _said("the next proposal", Tag.PROPOSAL)),
    (rf"{PHASE}[\s-]*(?:1|i|one)|p1|main[\s-]*mode|aggressive[\s-]*mode|ike(?:v[12])?{_OF_SECTION}", _section(Protocol.IKE)),
    (rf"{PHASE}[\s-]*(?:2|ii|two)|p2|quick[\s-]*mode|(?:ipsec|esp|child(?:[ _-]*sa)?){_OF_SECTION}", _section(Protocol.ESP)),
    (r"3[\s-]*des(?:[\s-]*(?:cbc|ede3?))*(?:[\s-]*168)?|triple[\s-]*des|tdes|des[\s-]*ede3(?:[\s-]*cbc)?", _fixed(_ENCR, 3)),
    (rf"no{_GAP}esn|without\s+esn|esn[\s:=-]*(?:{NO})|no\s+extended\s+sequence\s+numbers?", _fixed(_ESN, 0)),
    (rf"esn(?:[\s:=-]*(?:{YES}))?|extended\s+sequence\s+numbers?", _fixed(_ESN, 1)),
    *_registry_words(),
    (rf"prf{_GAP}aes(?:128)?{_GAP}xcbc(?:{_GAP}128)?", _fixed(_PRF, 4)),
    (rf"prf{_GAP}aes(?:128)?{_GAP}cmac(?:{_GAP}128)?", _fixed(_PRF, 8)),
    (rf"aes{_GAP}xcbc(?:{_GAP}(?:mac{_GAP})?96)?", _fixed(_INTEG, 5)),
    (rf"aes{_GAP}cmac(?:{_GAP}96)?", _fixed(_INTEG, 8)),
    (r"des(?:[\s-]*cbc)?(?:[\s-]*(?:56|64))?(?:[\s-]*bits?)?", _fixed(_ENCR, 2)),
    (rf"chacha(?:20)?{_GAP}(?:poly{_GAP}1305)?(?:[ _-]256(?![\s-]*bit))?", _fixed(_ENCR, 28)),
    (_BLOCK_CIPHER, _block_cipher),
    (rf"(?P<prf>prf{_GAP}(?:is\s+)?)?(?:hmac{_GAP})?md5(?:[\s_-]*96)?", lambda match: _hashed(match, Hash.MD5)),
    (_SHA, _sha),
    (rf"(?:integrity|integ|auth(?:entication)?){_GAP}none|no\s+integrity", _fixed(_INTEG, 0)),
    (PFS, _pfs),
    (rf"(?:{GROUP}|g){_BETWEEN}{_NUMBERS}(?![\s-]*bit)", _groups),
    (rf"(?:{GROUP}|g){_BETWEEN}{_MODP_SIZE}(?:[\s-]*bits?)?(?:[\s-]*modp)?", _sized(_MODP)),
    (rf"{_DH}?modp{_GAP}{_MODP_SIZE}(?:[\s-]*bits?)?", _sized(_MODP)),
    (rf"{_MODP_SIZE}[\s-]*bits?(?:[\s-]*modp)?", _sized(_MODP)),
    (rf"brainpool{_GAP}(?:p{_GAP})?(?P<size>224|256|384|512)(?:[rt]1)?", _sized(_BRAINPOOL)),
    (rf"ecp{_GAP}(?P<size>224|256|384|512)bp", _sized(_BRAINPOOL)),
    (rf"(?:nist{_GAP})?(?:ecp|ecdh|secp|p)[\s_-]?(?P<size>192|224|256|384|521)(?:r1)?", _sized(_ECP)),
    (r"(?:curve|x)?[\s-]?25519", _fixed(_KE, 31)),
    (r"(?:curve|x)[\s-]?448", _fixed(_KE, 32)),
    (rf"ml{_GAP}kem{_GAP}(?P<size>512|768|1024)", _sized(_ML_KEM)),
    (r"(?:\d{1,3}(?:[., ]\d{3})+|\d{1,9}(?:\.\d{1,9})?) ?(?:kilobytes?|[kmg]i?b|[kmg]bytes?)",
     _said("lifetime in bytes")),
    (rf"{_AMOUNT}\s*{_TIME}", _timed),
    (r"\d{1,3}(?:[.,' \u00a0\u202f]\d{3})+|\d{1,9}", _number),
    (LIFETIME, _said("a label: a lifetime", Tag.LIFETIME)),
    (ENCRYPTION, _said("a label: encryption")),
    (INTEGRITY, _said("a label: integrity")),
    (GROUP, _said("a label: a group", Tag.GROUP)),
    (NO, _said("no", Tag.NO)),
    (NOT, _said("not what follows", Tag.NOT)),
    (YES, _said("yes", Tag.YES)),
    (OR, _said("or", Tag.OR)),
    (AND, _said("and", Tag.AND)),
    (NOISE, _said("a label")),
)  # fmt: skip


@cache
def vocabulary() -> tuple[tuple[re.Pattern[str], Meaning], ...]:
    """Return the pattern of each notation with its meaning. They are made when the first text is read, which takes longer."""
    return tuple((re.compile(rf"(?<![^\W_])(?:{pattern})(?![^\W_])", re.IGNORECASE), meaning) for pattern, meaning in _WORDS)
