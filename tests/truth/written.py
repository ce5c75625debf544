"""What partners write: proposals, lifetimes and forward secrecy rendered in hundreds of styles, read back, and judged.

A text is right when all of it came out as it was meant and nothing is asked; asked, when some word is ambiguous or unknown;
and silently wrong when nothing is asked and something differs. The last must never happen.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from random import Random

from pontifex.core.ipsec import Proposal, Protocol, TransformType
from pontifex.core.ipsec.reading import ProposalReading, WordKind, read_proposals
from tests.truth.written_words import CIPHERS, GROUPS, HASHES, LANGUAGES, Cipher, Language, Named


@dataclass(frozen=True)
class MeantProposal:
    """One proposal as somebody means it."""

    ciphers: tuple[Cipher, ...]
    hashes: tuple[Named, ...]
    groups: tuple[Named, ...]


@dataclass(frozen=True)
class Meant:
    """What somebody means: the proposals of each SA, lifetimes, and forward secrecy."""

    ike: tuple[MeantProposal, ...]
    child: tuple[MeantProposal, ...]
    ike_lifetime_s: int | None
    child_lifetime_s: int | None
    pfs: bool | None  # forward secrecy is said, or isn't

    def says(self) -> dict[str, object]:
        """What must be understood."""
        return {
            "ike": [labels for proposal in self.ike for labels in _parts(proposal, Protocol.IKE)],
            "child": [labels for proposal in self.child for labels in _parts(proposal, Protocol.ESP)],
            "ike_lifetime_s": self.ike_lifetime_s,
            "child_lifetime_s": self.child_lifetime_s,
        }


def _parts(meant: MeantProposal, protocol: Protocol) -> Iterator[frozenset[str]]:
    """Yield what a proposal offers, by cipher: several ciphers in one proposal are the same as a proposal for each."""
    rest = {f"group {group.label}" for group in meant.groups}
    if protocol is Protocol.IKE:
        rest |= {f"PRF {hash_.label}" for hash_ in meant.hashes}
    if not meant.ciphers[0].combined:
        rest |= {hash_.label for hash_ in meant.hashes}
    for cipher in meant.ciphers:
        yield frozenset({cipher.label, *rest})


def understood(reading: ProposalReading) -> dict[str, object]:
    """What was understood, in the same terms."""
    lifetimes = {"ike_lifetime_s": reading.ike_lifetime_s, "child_lifetime_s": reading.child_lifetime_s}
    return {**understood_of(reading.ike, reading.child), **lifetimes}


def understood_of(ike: Iterable[Proposal], child: Iterable[Proposal]) -> dict[str, object]:
    """What proposals offer, in the same terms."""
    return {
        "ike": [labels for proposal in ike for labels in _offers(proposal)],
        "child": [labels for proposal in child for labels in _offers(proposal)],
    }


def _offers(proposal: Proposal) -> Iterator[frozenset[str]]:
    ciphers = [transform.label for transform in proposal.transforms if transform.type is TransformType.ENCR]
    others = {
        transform.label for transform in proposal.transforms if transform.type not in (TransformType.ENCR, TransformType.ESN)
    }
    for cipher in ciphers or [""]:
        yield frozenset({cipher, *others})


# drawing


def draw(random: Random) -> Meant:
    """Draw what is meant: one or both SAs, one to three proposals, with lifetimes or without."""
    phases = random.choice(("ike", "child", "both", "both"))
    ike = _proposals(random, Protocol.IKE) if phases != "child" else ()
    pfs = random.choice((True, True, False, None))
    child = _proposals(random, Protocol.ESP, pfs=pfs) if phases != "ike" else ()
    return Meant(
        ike,
        child,
        random.choice((None, 28_800, 86_400, 14_400, 3600, 43_200)) if ike else None,
        random.choice((None, 3600, 28_800, 1800, 7200, 27_000)) if child else None,
        pfs if child else None,
    )


def _proposals(random: Random, protocol: Protocol, pfs: bool | None = None) -> tuple[MeantProposal, ...]:
    count = random.choice((1, 1, 1, 1, 2, 3))
    group = (random.choice(GROUPS),) if pfs else ()
    made: list[MeantProposal] = []
    while len(made) < count:
        combined = random.random() < 0.3
        fit = [cipher for cipher in CIPHERS if cipher.combined is combined]
        ciphers = tuple(random.sample(fit, random.choice((1, 1, 1, 2)) if count == 1 else 1))
        hashes = tuple(random.sample(HASHES, random.choice((1, 1, 1, 2)) if count == 1 else 1))
        if combined and protocol is Protocol.ESP:
            hashes = ()
        several = tuple(random.sample(GROUPS, random.choice((1, 1, 2)) if count == 1 else 1))
        groups = several if protocol is Protocol.IKE else group
        one = MeantProposal(ciphers, hashes, groups)
        if one not in made:
            made.append(one)
    return tuple(made)


# rendering


@dataclass(frozen=True)
class Style:
    """How one writer writes."""

    random: Random
    language: Language
    by_number: bool  # groups by number, else by name
    mark: str  # between a label and its value
    gap: str  # between parts
    joint: str  # between alternatives

    def pick(self, choices: Sequence[str]) -> str:
        """Pick one of several ways to write something; the language's words in the case of the writer."""
        return self.random.choice(choices)

    def alternatives(self, items: Iterable[str]) -> str:
        """Write alternatives of one type."""
        return self.joint.join(items)

    def label(self, choices: Sequence[str], value: str) -> str:
        """Write a value behind its label."""
        return f"{self.pick(choices)}{self.mark}{value}"

    def group(self, group: Named, *, labelled: bool) -> str:
        """Write a group by number or name."""
        number = group.label
        if labelled and self.by_number:
            return number if self.random.random() < 0.7 else self.pick((number, *group.written))
        if self.by_number:
            forms = ("group {}", "DH{}", "g{}", "DH group {}", "grp{}", "dh-group {}", "Group {}")
            return self.pick(forms).format(number)
        bare = labelled and self.random.random() < 0.7
        return number if bare else self.pick((number, *group.written) if labelled else group.written)

    def lifetime(self, value: int) -> str:
        """Write a lifetime behind its label, or alone where its unit says what it is."""
        written = self.seconds(value)
        alone = not written[-1].isdigit() and self.random.random() < 0.3
        return written if alone else self.label(self.language.lifetime, written)

    def seconds(self, value: int) -> str:
        """Write a time: in seconds, minutes or hours, with a unit or none, with thousands apart or not."""
        seconds, apart = self.pick(self.language.seconds), f"{value:,}"
        ways = [f"{value} {seconds}", f"{value}s", str(value), f"{apart} {seconds}", apart]
        ways += [apart.replace(",", ".") + " s", apart.replace(",", "'"), apart.replace(",", " ") + f" {seconds}"]
        if value % 60 == 0:
            ways += [f"{value // 60} {self.pick(self.language.minutes)}", f"{value // 60}min"]
        if value % 3600 == 0:
            ways += [f"{value // 3600} {self.pick(self.language.hours)}", f"{value // 3600}h"]
        elif value % 1800 == 0:
            ways += [f"{value / 3600} {self.pick(self.language.hours)}"]
        return self.pick(ways)


def draw_style(random: Random) -> Style:
    """Draw a writer."""
    language = random.choice((LANGUAGES[0], LANGUAGES[0], *LANGUAGES))
    return Style(
        random,
        language,
        random.random() < 0.6,
        random.choice((": ", " = ", "=", ":", " ", " : ", "\t", " - ", ":\t")),
        random.choice((", ", "; ", " / ", "\n", " | ", ",", " ", " – ")),
        random.choice((f" {random.choice(language.or_)} ", "/", ", ", f" {random.choice(language.or_)} ")),
    )


def render(meant: Meant, random: Random) -> str:
    """Write what is meant in a style."""
    style = draw_style(random)
    writers: list[Callable[[Meant, Style], str]] = [_labelled, _labelled, _listed, _joined, _sentence]
    if meant.ike and meant.child and len(meant.ike) == len(meant.child) == 1:
        writers.append(_two_columns)
    return random.choice(writers)(meant, style)


_Section = tuple[str, tuple[MeantProposal, ...], int | None, bool | None, Protocol]


def _sections(meant: Meant, style: Style) -> list[_Section]:
    ike, child = style.random.choice(style.language.phases)
    found: list[_Section] = []
    if meant.ike:
        found.append((ike, meant.ike, meant.ike_lifetime_s, None, Protocol.IKE))
    if meant.child:
        found.append((child, meant.child, meant.child_lifetime_s, meant.pfs, Protocol.ESP))
    return found


def _pfs(style: Style, proposal: MeantProposal, pfs: bool | None) -> list[str]:
    """Write forward secrecy in one of its forms."""
    if pfs is None:
        return []
    if not pfs:
        return [style.pick((f"PFS{style.mark}{style.pick(style.language.no)}", f"{style.language.without[0]} PFS"))]
    number, name = proposal.groups[0].label, style.pick(proposal.groups[0].written)
    yes = style.pick(style.language.yes)
    forms = [f"PFS group {number}", f"PFS: {number}", f"PFS {number}", f"PFS (DH{number})", f"PFS: {yes}, group {number}",
             f"PFS={name}", f"PFS {name}", f"PFS: {yes} ({name})", f"PFS: DH group {number}", f"PFS{style.mark}group {number}",
             f"Perfect Forward Secrecy: group {number}", f"PFS {yes} DH{number}", f"PFS - {name}"]  # fmt: skip
    return [style.pick(forms)]


def _labelled(meant: Meant, style: Style) -> str:
    """Write each part behind its label; several proposals one below the other with a number."""
    blocks = []
    sections = _sections(meant, style)
    paired = bool(meant.ike_lifetime_s and meant.child_lifetime_s) and style.random.random() < 0.2
    for title, proposals, lifetime_s, pfs, protocol in sections:
        gap = style.gap if style.gap.strip() or "\n" in style.gap else ", "
        lines = []
        for number, proposal in enumerate(proposals, 1):
            ciphers = style.alternatives(style.pick(cipher.written) for cipher in proposal.ciphers)
            parts = [style.label(style.language.encryption, ciphers)]
            if proposal.hashes:
                hashes = style.alternatives(style.pick(hash_.written) for hash_ in proposal.hashes)
                parts.append(style.label(style.language.integrity, hashes))
            if protocol is Protocol.IKE:
                groups = style.alternatives(style.group(group, labelled=True) for group in proposal.groups)
                parts.append(style.label(style.language.group, groups))
            if number == len(proposals):
                parts += _pfs(style, proposal, pfs)
            head = f"Proposal {number}: " if len(proposals) > 1 else ""
            lines.append(head + gap.join(parts))
        if lifetime_s and not paired:
            lines.append(style.lifetime(lifetime_s))
        blocks.append(title + style.pick((":\n", "\n", ": ")) + "\n".join(lines))
    if paired:
        titles = style.pick(("/", " / ", " and ")).join(title for title, *_ in sections)
        times = style.pick(("/", " / ")).join(style.seconds(lifetime_s or 0) for _, _, lifetime_s, _, _ in sections)
        blocks.append(f"{style.pick(style.language.lifetime)} ({titles}): {times}")
    return style.pick(("\n", "\n\n")).join(blocks)


def _bare(proposal: MeantProposal, style: Style, protocol: Protocol, gap: str) -> str:
    parts = [style.alternatives(style.pick(c.written) for c in proposal.ciphers)]
    parts += [style.alternatives(style.pick(h.written) for h in proposal.hashes)] if proposal.hashes else []
    if protocol is Protocol.IKE:
        parts.append(style.alternatives(style.group(group, labelled=False) for group in proposal.groups))
    return gap.join(parts)


def _listed(meant: Meant, style: Style) -> str:
    """Write values alone, a line or a clause for each proposal."""
    blocks = []
    gap = style.pick((", ", " ", " / ", " - ", "; ", " | "))
    between = style.pick(("\n", "; ", f" {style.language.or_[0]} "))
    for title, proposals, lifetime_s, pfs, protocol in _sections(meant, style):
        text = between.join(_bare(proposal, style, protocol, gap) for proposal in proposals)
        more = _pfs(style, proposals[-1], pfs)
        more += [style.lifetime(lifetime_s)] if lifetime_s else []
        blocks.append(title + style.pick((": ", " ", " - ", ":\n")) + ", ".join([text, *more]))
    return style.pick(("\n", "; ", ". ")).join(blocks)


def _joined(meant: Meant, style: Style) -> str:
    """Write joined notations, as in aes256-sha256-modp2048."""
    blocks = []
    mark = style.pick(("-", "/", "_", "-"))
    for title, proposals, lifetime_s, pfs, protocol in _sections(meant, style):
        notations = []
        for proposal in proposals:
            parts = [_in_one_word(cipher) for cipher in proposal.ciphers[:1]]
            parts += [h.written[2] if h.label != "SHA1" else "sha1" for h in proposal.hashes]
            if protocol is Protocol.IKE:
                parts += [style.pick((g.written[0], f"dh{g.label}", f"g{g.label}", f"group{g.label}")) for g in proposal.groups]
            notations.append(mark.join(parts))
        more = _pfs(style, proposals[-1], pfs)
        more += [style.lifetime(lifetime_s)] if lifetime_s else []
        blocks.append(title + style.pick((": ", "=", " ")) + ", ".join([", ".join(notations), *more]))
    if any(len(meant_proposal.ciphers) > 1 for meant_proposal in (*meant.ike, *meant.child)):
        return _listed(meant, style)
    return style.pick(("\n", "; ", " ")).join(blocks)


def _in_one_word(cipher: Cipher) -> str:
    return cipher.written[2].replace("-", "") if cipher.label.startswith("AES-CBC") else cipher.written[1]


def _sentence(meant: Meant, style: Style) -> str:
    """Write sentences, with what isn't wanted beside what is."""
    if len(meant.ike) > 1 or len(meant.child) > 1:
        return _listed(meant, style)
    and_, without = style.pick(style.language.and_), style.pick(style.language.without)
    blocks = []
    for title, proposals, lifetime_s, pfs, protocol in _sections(meant, style):
        text = f"{title}: {_bare(proposals[0], style, protocol, f' {and_} ' if and_ != '+' else ' + ')}"
        unwanted = [cipher for cipher in (CIPHERS[5], CIPHERS[2]) if cipher not in proposals[0].ciphers]
        if unwanted and style.random.random() < 0.4:
            text += f", {without} {style.pick(unwanted[0].written)}"
        more = _pfs(style, proposals[0], pfs)
        more += [style.lifetime(lifetime_s)] if lifetime_s else []
        blocks.append(", ".join([text, *more]))
    return style.pick((". ", ".\n", "\n")).join(blocks)


def _two_columns(meant: Meant, style: Style) -> str:
    """Write a table with a column for each SA."""
    mark = style.pick(("\t", " | ", ";"))
    ike_title, child_title = style.random.choice(style.language.phases)
    (ike,), (child,) = meant.ike, meant.child
    row = style.language
    none = style.pick(("-", "—", ""))

    def hashes(one: MeantProposal) -> str:
        return style.alternatives(style.pick(h.written) for h in one.hashes) or none

    joint = style.joint if style.joint.strip() not in (",", ";") else "/"
    style = Style(style.random, style.language, style.by_number, style.mark, style.gap, joint)
    group_of_child = style.group(child.groups[0], labelled=True) if child.groups else none
    rows = [
        ("", ike_title, child_title),
        (
            style.pick(row.encryption),
            *(style.alternatives(style.pick(c.written) for c in proposal.ciphers) for proposal in (ike, child)),
        ),
        (style.pick(row.integrity), hashes(ike), hashes(child)),
        (style.pick(row.group), style.alternatives(style.group(g, labelled=True) for g in ike.groups), group_of_child),
    ]
    if meant.ike_lifetime_s and meant.child_lifetime_s:
        rows.append((style.pick(row.lifetime), style.seconds(meant.ike_lifetime_s), style.seconds(meant.child_lifetime_s)))
    elif meant.ike_lifetime_s or meant.child_lifetime_s:
        texts = [style.seconds(number) if number else none for number in (meant.ike_lifetime_s, meant.child_lifetime_s)]
        rows.append((style.pick(row.lifetime), *texts))
    return "\n".join(mark.join(cells) for cells in rows)


# judging

RIGHT, ASKED, WRONG = "right", "asked", "silently wrong"


def outcome(text: str, meant: Meant) -> str:
    """Return how a text came out."""
    protocol = Protocol.IKE if meant.ike else Protocol.ESP
    reading = read_proposals(text, protocol)
    if reading.of_kind(WordKind.AMBIGUOUS) or reading.of_kind(WordKind.UNKNOWN):
        return ASKED
    return RIGHT if understood(reading) == meant.says() else WRONG


def judge(seeds: Iterable[int]) -> tuple[Counter[str], list[str]]:
    """Read a text of each seed; return how they ended, and those that were silently wrong."""
    counts, found = Counter[str](), []
    for seed in seeds:
        random = Random(seed)
        meant = draw(random)
        text = render(meant, random)
        ended = outcome(text, meant)
        counts[ended] += 1
        if ended == WRONG:
            read = understood(read_proposals(text, Protocol.IKE if meant.ike else Protocol.ESP))
            found.append(f"seed {seed}: {text!r}\n  meant {meant.says()}\n  read  {read}")
    return counts, found
