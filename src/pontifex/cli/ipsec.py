"""Commands about proposals: read them, negotiate them, and what they cost."""

from __future__ import annotations

import json
import sys
from collections.abc import Sequence
from enum import Enum
from getpass import getpass
from typing import Annotated, Any, NoReturn
from uuid import UUID

import typer

from pontifex.core.addressing import Family
from pontifex.core.ipsec import (
    Agreement,
    Habit,
    Proposal,
    Protocol,
    Refusal,
    Transform,
    TransformType,
    negotiate,
    registered,
    weakest_link,
)
from pontifex.core.ipsec.overhead import OverheadError, overhead
from pontifex.core.ipsec.preshared_key import key_facts, spoken
from pontifex.core.ipsec.reading import ProposalReading, Word, WordKind, read_proposals
from pontifex.core.ipsec.reading.reader import TextTooLong

AGREED, NOT_AGREED, BAD_INPUT = 0, 1, 2


class For(Enum):
    """Which SA proposals are for."""

    IKE = "ike"
    CHILD = "child"

    @property
    def protocol(self) -> Protocol:
        """The protocol of the SA."""
        return Protocol.IKE if self is For.IKE else Protocol.ESP


class Outer(Enum):
    """The family of the outer packets."""

    V4 = "v4"
    V6 = "v6"


_Json = Annotated[bool, typer.Option("--json", help="Print JSON.")]
_For = Annotated[For, typer.Option("--for", help="Which SA the text is about, unless it says so itself.")]


def negotiate_command(
    initiator: Annotated[str, typer.Option(help="What the caller offers; ';' parts proposals.")],
    responder: Annotated[str, typer.Option(help="What the other end accepts; ';' parts proposals.")],
    for_: _For = For.IKE,
    habit: Annotated[Habit, typer.Option(help="Whose order the responder follows.")] = Habit.INITIATOR,
    as_json: _Json = False,
) -> None:
    """Say what two lists of proposals settle on. Exit with 0 (agreed), 1 (not) or 2 (the text can't be taken)."""
    offer, accept = _taken("--initiator", initiator, for_), _taken("--responder", responder, for_)
    outcome = negotiate(offer, accept, habit=habit)
    other = negotiate(offer, accept, habit=next(candidate for candidate in Habit if candidate is not habit))
    if as_json:
        typer.echo(json.dumps(_outcome(outcome, other, offer, accept), indent=2))
    elif isinstance(outcome, Agreement):
        typer.echo(f"Agreed: {outcome.label}" + (", after a second try for the group" if outcome.extra_round_trip else ""))
        if weakest := weakest_link(outcome.chosen):
            typer.echo(f"Strength: {weakest[0]} bits, by {weakest[1].label}")
        if isinstance(other, Agreement) and other.chosen != outcome.chosen:
            typer.echo(f"A responder of the other habit takes: {other.label}")
    else:
        typer.echo(f"No common proposal. {_nearest_text(outcome, offer, accept)}")
    raise typer.Exit(AGREED if isinstance(outcome, Agreement) else NOT_AGREED)


def _taken(option: str, text: str, for_: For) -> tuple[Proposal, ...]:
    """Read a text and return its proposals; where it can't be taken, say why and exit."""
    reading = _read(text, for_)
    problems = [f"{word.text!r}: {word.meaning} {' or '.join(word.choices)}" for word in reading.of_kind(WordKind.AMBIGUOUS)]
    proposals = reading.proposals(for_.protocol)
    if not proposals and not problems:
        problems = ["nothing is understood as a proposal"]
    problems += [f"{word.text!r} is not understood: {word.meaning}" for word in reading.of_kind(WordKind.UNKNOWN)]
    for number, proposal in enumerate(proposals, start=1):
        if not problems and (faults := proposal.faults(for_.protocol)):
            problems.append(f"proposal {number} ({proposal.label}) is invalid: {', '.join(faults)}")
    if problems:
        _refuse([f"{option}: {problem}" for problem in problems])
    return proposals


def _read(text: str, for_: For, *, whole: bool = False) -> ProposalReading:
    try:
        return read_proposals(text, for_.protocol, whole=whole)
    except TextTooLong as error:
        _refuse([str(error)])


def _refuse(problems: Sequence[str]) -> NoReturn:
    for problem in problems:
        typer.echo(problem, err=True)
    raise typer.Exit(BAD_INPUT)


def _outcome(
    outcome: Agreement | Refusal, other: Agreement | Refusal, offer: Sequence[Proposal], accept: Sequence[Proposal]
) -> dict[str, Any]:
    agreed = isinstance(outcome, Agreement)
    return {
        "outcome": "agreed" if agreed else "none",
        "chosen": [_transform(transform) for transform in outcome.chosen] if isinstance(outcome, Agreement) else [],
        "extra_round_trip": isinstance(outcome, Agreement) and outcome.extra_round_trip,
        "weakest": _weakest(outcome.chosen) if isinstance(outcome, Agreement) else None,
        "other_habit": [_transform(transform) for transform in other.chosen] if isinstance(other, Agreement) else [],
        "nearest": None if isinstance(outcome, Agreement) else _nearest(outcome, offer, accept),
    }


def _weakest(chosen: Sequence[Transform]) -> dict[str, Any] | None:
    link = weakest_link(chosen)
    return None if link is None else {"strength_bits": link[0], **_transform(link[1])}


def _transform(transform: Transform) -> dict[str, Any]:
    row = registered(transform.type, transform.id)
    name = row.name if row else ""
    return {"type": transform.type.value, "id": transform.id, "name": name, "key_length": transform.key_length}


def _nearest(refusal: Refusal, offer: Sequence[Proposal], accept: Sequence[Proposal]) -> dict[str, Any]:
    nearest = refusal.nearest
    return {
        "initiator_proposal": nearest.offered + 1,
        "responder_proposal": nearest.accepted + 1,
        "unmet": [
            {
                "type": type_.value,
                "initiator": [_transform(t) for t in offer[nearest.offered].by_type.get(type_, ())],
                "responder": [_transform(t) for t in accept[nearest.accepted].by_type.get(type_, ())],
            }
            for type_ in nearest.unmet
        ],
    }


def _nearest_text(refusal: Refusal, offer: Sequence[Proposal], accept: Sequence[Proposal]) -> str:
    nearest = refusal.nearest

    def held(proposal: Proposal, type_: TransformType) -> str:
        return " or ".join(transform.label for transform in proposal.by_type.get(type_, ())) or "none"

    parts = [
        f"{type_.value} ({held(offer[nearest.offered], type_)} against {held(accept[nearest.accepted], type_)})"
        for type_ in nearest.unmet
    ]
    pair = f"the caller's {nearest.offered + 1} and the other end's {nearest.accepted + 1}"
    return f"The nearest pair is {pair}: no common {', '.join(parts)}"


def proposals_command(
    text: Annotated[str, typer.Argument(help="Proposals as somebody wrote them.")], for_: _For = For.IKE, as_json: _Json = False
) -> None:
    """Say what is understood, ambiguous and unknown in a text. Exit with 0, or 2 (a word is open, or no proposal)."""
    reading = _read(text, for_, whole=True)
    open_words = reading.of_kind(WordKind.AMBIGUOUS) + reading.of_kind(WordKind.UNKNOWN)
    if as_json:
        typer.echo(json.dumps(_reading(reading), indent=2, ensure_ascii=False))
    else:
        for title, proposals in (("IKE", reading.ike), ("Child SA", reading.child)):
            for proposal in proposals:
                typer.echo(f"{title}: {proposal.label}")
        for word in reading.words:
            choices = f" {' or '.join(word.choices)}" if word.choices else ""
            typer.echo(f"  {word.text!r}: {word.kind.value}: {word.meaning}{choices}")
    understood = reading.ike or reading.child
    raise typer.Exit(BAD_INPUT if open_words or not understood else AGREED)


def _reading(reading: ProposalReading) -> dict[str, Any]:
    def words(kind: WordKind) -> list[dict[str, Any]]:
        return [_word(word) for word in reading.of_kind(kind)]

    return {
        "ike": [[_transform(t) for t in proposal.transforms] for proposal in reading.ike],
        "child": [[_transform(t) for t in proposal.transforms] for proposal in reading.child],
        "ike_lifetime_s": reading.ike_lifetime_s,
        "child_lifetime_s": reading.child_lifetime_s,
        "pfs": reading.pfs,
        **{kind.value: words(kind) for kind in WordKind},
    }


def _word(word: Word) -> dict[str, Any]:
    return {"text": word.text, "at": word.start, "meaning": word.meaning, "choices": list(word.choices)}


def overhead_command(
    encr: Annotated[str, typer.Option(help="Cipher, for example aes-gcm-16 or ENCR_AES_CBC.")],
    path_mtu: Annotated[int, typer.Option(help="In octets.", min=68, max=65_535)],
    outer: Annotated[Outer, typer.Option(help="Family of the outer packets.")],
    key_length: Annotated[int | None, typer.Option(help="In bits; not for ciphers of a fixed key length.")] = None,
    integ: Annotated[str, typer.Option(help="Integrity algorithm, for example sha256; not beside a combined-mode cipher.")] = "",
    nat_t: Annotated[bool, typer.Option("--nat-t", help="With UDP encapsulation (RFC 3948).")] = False,
    as_json: _Json = False,
) -> None:
    """Say what ESP in tunnel mode leaves of a path MTU. Exit with 0, or 2 when the combination can't be."""
    text = f"{encr}-{key_length}" if key_length else encr
    cipher = _one(text, TransformType.ENCR, "--encr")
    integrity = _one(f"null {integ}", TransformType.INTEG, "--integ") if integ else None  # a cipher that leaves INTEG to it
    try:
        found = overhead(cipher, integrity, Family.V4 if outer is Outer.V4 else Family.V6, nat_t, path_mtu)
    except OverheadError as error:
        _refuse([str(error)])
    values = {
        "inner_mtu": found.inner_mtu,
        "tcp_mss_v4": found.tcp_mss_v4,
        "tcp_mss_v6": found.tcp_mss_v6,
        "path_mtu": found.path_mtu,
        "fixed_octets": found.fixed,
        "alignment": found.alignment,
        "outer_size_at_inner_mtu": found.outer_size(found.inner_mtu),
    }
    typer.echo(json.dumps(values, indent=2) if as_json else "\n".join(f"{name}: {value}" for name, value in values.items()))


def _one(text: str, type_: TransformType, option: str) -> Transform:
    """Read the one transform of a type that a text names."""
    reading = _read(text, For.CHILD)
    for word in reading.of_kind(WordKind.AMBIGUOUS):
        _refuse([f"{option}: {word.text!r}: {word.meaning} {' or '.join(word.choices)}"])
    found = [t for proposal in reading.child for t in proposal.transforms if t.type is type_]
    if len(found) != 1:
        _refuse([f"{option}: {text.strip()!r} is not one {type_.value}"])
    return found[0]


def fingerprint_command(
    salt: Annotated[str, typer.Option(help="The design's key salt: 32 hexadecimal digits.")],
    as_json: _Json = False,
) -> None:
    """Read a pre-shared key from the terminal or standard input, and print its fingerprint and the words to read aloud."""
    try:
        salted = bytes.fromhex(salt)
    except ValueError:
        salted = b""
    if len(salted) != 16:
        _refuse(["--salt: 32 hexadecimal digits are wanted"])
    key = getpass("Key (not shown): ") if sys.stdin.isatty() else sys.stdin.read().removesuffix("\n")
    if not key:
        _refuse(["the key is empty"])
    facts = key_facts(key, salted, UUID(int=0))
    values = {"fingerprint": facts.fingerprint, "spoken": spoken(facts.fingerprint), "length": facts.length}
    typer.echo(
        json.dumps(values, indent=2) if as_json else f"{facts.fingerprint}: {values['spoken']} ({facts.length} characters)"
    )
