"""Reading a form: the lines, what each says of the end that it describes, and what has to be asked."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from enum import Enum
from typing import Annotated, Any, Final

from pydantic import Field, ValidationError

from pontifex.core.addressing import Prefix, Selector
from pontifex.core.forms.crypto import CryptoLines
from pontifex.core.forms.labels import ALONE, FAR, OWN, PROOF_WORDS, SEPARATELY, Asked, labels, labels_at_start
from pontifex.core.forms.sides import Whose, inside, viewpoint
from pontifex.core.forms.values import BLOCK, Said, Unclear, address_in, identity_of, networks_in, said_of
from pontifex.core.handover.sheets.worksheet import answered_part
from pontifex.core.kinds import TunnelEnd
from pontifex.core.kinds.tunnel_end import MOST_SELECTORS
from pontifex.core.validation_reasons import reason_of

MOST_CHARACTERS: Final = 1_000_000
_MOST_OF_A_LINE: Final = 2000
_SEPARATOR: Final = re.compile(r"[:=\t|]| {3}")
_LONGEST_LABEL: Final = 72


class LineState(Enum):
    """What came of a line."""

    UNDERSTOOD = "understood"
    AMBIGUOUS = "ambiguous"
    UNKNOWN = "unknown"


@dataclass(frozen=True, slots=True, kw_only=True)
class FormLine:
    """One line of a form, and what it became."""

    number: Annotated[int, Field(title="Line", description="From 1.")]
    text: Annotated[str, Field(title="What stands there", description="Without what could be a secret.")]
    state: LineState
    meaning: Annotated[str, Field(title="What it means, or the question")]
    field: Annotated[str, Field(title="Field of the end", description="Empty where it is about none.")] = ""
    choices: Annotated[tuple[str, ...], Field(title="What the line may be replaced by")] = ()


@dataclass(frozen=True, slots=True)
class FormRead:
    """A form: each of its lines, and the fields of the end that they fill."""

    lines: tuple[FormLine, ...]
    fields: dict[str, Any]  # by the field of a tunnel end, as values of the model

    @property
    def is_clear(self) -> bool:
        """Whether nothing has to be asked."""
        return all(line.state is LineState.UNDERSTOOD for line in self.lines)


@dataclass
class _Line:
    """A line while it is read."""

    number: int
    text: str
    label: str
    value: str
    asked: Asked | None
    whose: Whose | None = None
    raw: str = ""  # with the blanks in front, which tell the columns of a table
    differing: tuple[str, ...] = ()  # what the columns of both sides say, where it isn't the same

    @property
    def whole(self) -> str:
        """The line for the reader of proposals."""
        return self.raw or self.text


@dataclass
class _Form:
    """What was read so far."""

    ours: tuple[Prefix, ...]
    theirs: tuple[Prefix, ...]
    lines: dict[int, FormLine] = field(default_factory=dict)
    fields: dict[str, Any] = field(default_factory=dict)
    networks: dict[str, dict[Selector, None]] = field(default_factory=dict)  # in their order

    def understood(self, line: _Line, meaning: str, field_: str = "") -> None:
        """Keep what a line became."""
        text = line.text if line.asked is not Asked.SECRET else f"{line.label}: …"
        self._keep(line, FormLine(number=line.number, text=text, state=LineState.UNDERSTOOD, meaning=meaning, field=field_))

    def unclear(self, line: _Line, reason: str, choices: Sequence[str] = ()) -> None:
        """Keep what is to be asked about a line."""
        whole = (line.text.replace(line.value, choice) if line.value else f"{line.text} {choice}" for choice in choices)
        self.ask(line, reason, tuple(whole))

    def ask(self, line: _Line, reason: str, choices: tuple[str, ...]) -> None:
        """Keep what is to be asked about a line; each choice is what it may be replaced by."""
        state = LineState.AMBIGUOUS if choices else LineState.UNKNOWN
        text = line.text if line.asked is not Asked.SECRET else f"{line.label}: …"
        self._keep(line, FormLine(number=line.number, text=text, state=state, meaning=reason, choices=choices))

    def refuse(self, field_: str, reason: str) -> None:
        """Ask about the lines that fill a field with what can't be its value."""
        for number, line in self.lines.items():
            if line.field == field_:
                self.lines[number] = replace(line, state=LineState.UNKNOWN, meaning=reason)

    def _keep(self, line: _Line, found: FormLine) -> None:
        before = self.lines.get(line.number)
        if before and before.state is not LineState.UNDERSTOOD:
            return  # what is to be asked of one column of a line stands
        if before and found.state is LineState.UNDERSTOOD:
            joined = "; ".join(dict.fromkeys((before.meaning, found.meaning)))
            found = FormLine(number=found.number, text=found.text, state=found.state, meaning=joined, field=before.field)
        self.lines[line.number] = found

    def put(self, line: _Line, field_: str, value: Any, meaning: str) -> None:
        """Set a field, unless another line says otherwise."""
        refused = why_not(field_, value)
        if refused:
            self.unclear(line, refused)
            return
        known = self.fields.get(field_)
        if known is not None and known != value:
            self.unclear(line, f"another line says {TunnelEnd.model_fields[field_].title or field_} otherwise")
            return
        self.fields[field_] = value
        self.understood(line, meaning, field_)

    def add(self, line: _Line, field_: str, networks: Sequence[Selector], meaning: str) -> None:
        """Add networks to a field."""
        known = self.networks.setdefault(field_, {})
        if len(known) >= MOST_SELECTORS:
            self.unclear(line, f"an end names {MOST_SELECTORS} networks at most")
            return
        known.update(dict.fromkeys(networks))
        self.understood(line, meaning, field_)


def read_form(text: str, ours: Sequence[Prefix] = (), theirs: Sequence[Prefix] = ()) -> FormRead:
    """Read a partner's form into the fields of the partner's end.

    `ours` is the address space of whoever reads it, `theirs` what is known of the partner's: what lies in both is told by
    its label, or asked. What the writer calls "our" or "local" is the partner's, "your" or "remote" is of whoever reads;
    where the addresses show that a form was written from the reader's side, it is the other way round. Of a worksheet of
    ours, what was filled in is read.
    """
    form = _Form(tuple(ours), tuple(theirs))
    lines = list(_lines(answered_part(text)))
    turned = viewpoint(((line.whose, line.value) for line in lines if line.asked is Asked.NETWORKS), form.ours)
    crypto = CryptoLines()
    for line in lines:
        if len(line.text) > _MOST_OF_A_LINE:
            line.text = line.text[:80] + "…"
            form.unclear(line, f"a line of a form has {_MOST_OF_A_LINE:,} characters at most")
        elif line.differing and line.asked is not Asked.REMARK:
            form.ask(line, "the columns differ: which one is the partner's?", line.differing)
            if line.asked is None:
                crypto.take(line.number, line.differing[0])  # so that what it settles isn't asked for as well
        elif line.asked is None:
            crypto.take(line.number, line.whole)
        else:
            _read(form, line, turned)
    for found in (crypto_line for crypto_line in crypto.read() if crypto_line.number not in form.lines):
        state = (LineState.AMBIGUOUS if found.choices else LineState.UNKNOWN) if found.is_open else LineState.UNDERSTOOD
        form.lines[found.number] = FormLine(
            number=found.number,
            text=crypto.text_of(found.number),
            state=state,
            meaning=found.meaning,
            field=found.field,
            choices=found.choices,
        )
    form.fields |= {field_: tuple(networks) for field_, networks in form.networks.items()}
    for field_, value in crypto.fields().items():
        refused = why_not(field_, value)
        if refused:
            form.refuse(field_, refused)
        else:
            form.fields[field_] = value
    return FormRead(tuple(form.lines[number] for number in sorted(form.lines)), form.fields)


def why_not(field_: str, value: Any) -> str:
    """Return why a value can't be that of a field of an end; empty where it can."""
    try:
        TunnelEnd.model_validate({"gateway_id": "partner", field_: value})
    except ValidationError as error:
        return reason_of(error.errors()[0])
    return ""


def _lines(text: str) -> Iterator[_Line]:
    """Yield the lines of a form with what each is about; networks below a label belong to it, and columns to their sides."""
    columns: tuple[str, tuple[Whose | None, ...]] | None = None
    last: _Line | None = None
    for number, written in enumerate(text.splitlines(), 1):
        line = written.strip().replace("\u00a0", " ")
        if not line or not re.search(r"\w", line):
            continue
        heads = _side_columns(line)
        if heads:
            columns = heads
            yield _Line(number, line, line, "", Asked.REMARK)
            continue
        if columns and line.count(columns[0]) >= 1:
            yield from _row(number, line, columns)
            continue
        found = _parted(number, line)
        if found.asked is None and last and last.asked is Asked.NETWORKS and not BLOCK.sub("", line).strip(" ,;-•*"):
            found = _Line(number, line, last.label, line, Asked.NETWORKS, last.whose)
        if found.asked is None and last and last.asked is Asked.SECRET and not last.value and " " not in line:
            found = _Line(number, line, last.label, line, Asked.SECRET)
        last = found
        found.raw = written.rstrip()
        yield found


def _parted(number: int, line: str) -> _Line:
    """Return a line with its label and value parted, and what it is about."""
    bare = line.lstrip(" •*-\t")
    separator = _SEPARATOR.search(bare, 2, _LONGEST_LABEL)
    label, value = (bare[: separator.start()].strip(), bare[separator.end() :].strip(" =\t|")) if separator else ("", line)
    if separator is None:
        alone = next((asked for asked, pattern in ALONE if pattern.fullmatch(line)), None)
        if alone:
            return _Line(number, line, "", line, alone)
        label, value = _label_before_blank(line) or (label, value)
    asked = next((asked for asked, pattern in labels() if pattern.fullmatch(label)), None) if label else None
    if asked is Asked.PROOF and not any(pattern.search(value) for pattern, _ in PROOF_WORDS):
        asked = None  # "Authentication: SHA256" is about a hash
    if asked in (Asked.MODE, Asked.ROLE, Asked.VERSION) and not value:
        asked = None
    return _Line(number, line, label, value, asked, _whose(label))


def _label_before_blank(line: str) -> tuple[str, str] | None:
    """Part a line whose label ends with a mere blank, as in "Peer 203.0.113.9"."""
    for asked, pattern in labels_at_start():
        found = pattern.match(line)
        if found and asked is not Asked.REMARK:
            return found[0].strip(), line[found.end() :].strip(" -–")
    return None


def _whose(label: str) -> Whose | None:
    own, far = bool(OWN.search(label)), bool(FAR.search(label))
    return (Whose.WRITER if own else Whose.READER) if own is not far else None


def _side_columns(line: str) -> tuple[str, tuple[Whose | None, ...]] | None:
    """Return what parts the cells, and whose each column is, where a line is the head of a table of both sides."""
    for mark in ("\t", "|", ";"):
        cells = [cell.strip() for cell in line.split(mark)]
        sides = tuple(_whose(cell) for cell in cells)
        if {Whose.WRITER, Whose.READER} <= set(sides) and not BLOCK.search(line):
            return mark, sides
    return None


def _row(number: int, line: str, columns: tuple[str, tuple[Whose | None, ...]]) -> Iterator[_Line]:
    """Yield the cells of a row: the same value in both columns is one, another belongs to its side."""
    mark, sides = columns
    cells = [cell.strip() for cell in line.split(mark)]
    whole = _parted(number, f"{cells[0]}: {cells[1] if len(cells) > 1 else ''}")
    values = [
        (side, cell) for side, cell in zip(sides[1:], cells[1:], strict=False) if side and cell not in ("", "-", "—", "n/a")
    ]
    if whole.asked in (Asked.ADDRESS, Asked.IDENTITY, Asked.NETWORKS):
        for side, cell in values:
            yield _Line(number, line, whole.label, cell, whole.asked, side)
    elif values:
        whole.text, whole.value = f"{whole.label}: {values[0][1]}", values[0][1]
        different = dict.fromkeys(f"{whole.label}: {cell}" for _, cell in values)
        whole.differing = tuple(different) if len({cell.casefold() for _, cell in values}) > 1 else ()
        yield whole


def _read(form: _Form, line: _Line, turned: bool) -> None:
    """Read a line that is about something else than algorithms."""
    try:
        if line.asked is Asked.REMARK:
            form.understood(line, "a remark")
        elif line.asked is Asked.SECRET:
            _secret(form, line)
        elif line.asked is Asked.NETWORKS:
            _networks(form, line, turned)
        elif line.asked is Asked.ADDRESS:
            _address(form, line, turned)
        elif line.asked is Asked.IDENTITY:
            _identity(form, line, turned)
        elif line.asked:
            _said(form, line, said_of(line.asked, line.value))
    except Unclear as unclear:
        form.unclear(line, unclear.reason, unclear.choices)


def _secret(form: _Form, line: _Line) -> None:
    if SEPARATELY.fullmatch(line.value) or not line.value:
        form.understood(line, "the key comes by another way")
    elif any(pattern.search(line.value) for pattern, _ in PROOF_WORDS):
        _said(form, line, said_of(Asked.PROOF, line.value))
    else:
        form.unclear(line, "a key isn't taken from a form: set it at its row, and have the sender change it")


def _said(form: _Form, line: _Line, said: Said) -> None:
    if said.field == "auth":
        form.fields["local_auth"] = said.value
        form.put(line, "remote_auth", said.value, f"both prove themselves by {said.value.label}")
    elif said.field:
        form.put(line, said.field, said.value, said.meaning)
    else:
        form.understood(line, said.meaning)


def _is_theirs(line: _Line, turned: bool) -> bool | None:
    """Whether something is of the partner's side, by the words of its label; None where they don't say."""
    if line.whose is None:
        return None
    return (line.whose is Whose.WRITER) is not turned


def _networks(form: _Form, line: _Line, turned: bool) -> None:
    networks = list(networks_in(line.value))
    if not networks:
        if line.value:
            raise Unclear("no network stands there")
        form.understood(line, "networks, in the lines below")
        return
    by_label = _is_theirs(line, turned)
    for network in networks:
        by_address = _theirs_by_address(form, network)
        if by_label is not None and by_address is not None and by_label is not by_address:
            whose = "yours" if by_label else "the partner's"
            raise Unclear(f"by its address {network} is {whose}, by its label it isn't")
        theirs = by_label if by_label is not None else by_address
        if theirs is None:
            form.ask(line, "whose networks are these?", (f"partner's networks: {line.value}", f"your networks: {line.value}"))
            return
        side = "the partner's network" if theirs else "a network of yours"
        form.add(line, "local_networks" if theirs else "remote_networks", [network], f"{side} {network}")


def _theirs_by_address(form: _Form, network: Selector) -> bool | None:
    """Whether a network is the partner's, by where it lies; None where that doesn't tell."""
    known, own = inside(network, form.theirs), inside(network, form.ours)
    if not form.ours or (known and own):
        return None
    return known or not own


def _address(form: _Form, line: _Line, turned: bool) -> None:
    found = address_in(line.value)
    if found is None:
        raise Unclear("no address and no DNS name stands there")
    theirs = _is_theirs(line, turned)
    if theirs is None and form.ours:
        theirs = not any(inside(network, form.ours) for network in networks_in(line.value)) if BLOCK.search(line.value) else None
    if theirs is None:
        form.ask(line, "whose address is this?", (f"partner's gateway: {found}", f"your gateway: {found}"))
    elif theirs:
        form.understood(line, f"the partner's gateway is at {found}: the peer address of your end")
    else:
        form.put(line, "peer_address", found, f"the partner's end calls {found}")


def _identity(form: _Form, line: _Line, turned: bool) -> None:
    if not line.value:
        raise Unclear("no identity stands there")
    theirs = _is_theirs(line, turned)
    identity = identity_of(line.value)
    if theirs is None:
        form.ask(line, "whose identity is this?", (f"partner's ID: {line.value}", f"your ID: {line.value}"))
        return
    said = "the partner's end says" if theirs else "the partner's end expects"
    form.put(line, "local_identity" if theirs else "remote_identity", identity, f"{said} {identity}")
