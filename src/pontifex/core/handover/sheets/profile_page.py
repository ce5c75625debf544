"""The page of one version of a profile: what all its devices are set to, for whoever signs it by hand."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from hashlib import sha256

from pontifex.core.handover.sheets.written import page_environment
from pontifex.core.kinds import DialInEnd
from pontifex.core.model.written import ABSENT, written
from pontifex.core.people.profile_file import ProfileFile


@dataclass(frozen=True, slots=True)
class PageLine:
    """One setting."""

    title: str
    value: str


@dataclass(frozen=True, slots=True)
class PageSection:
    """Settings that belong together."""

    title: str
    lines: tuple[PageLine, ...]


_SECTIONS = {
    "For whom": ("groups", "families"),
    "Where and when to dial": ("servers", "expected", "dial", "dial_applications", "inside_tests", "second_factor"),
    "What goes through": ("mode", "routes", "rules", "lock_down"),
    "Names and proxy": ("resolvers", "suffixes", "own_resolvers", "search", "proxy"),
    "Limits": ("idle_limit_s", "session_limit_s"),
}


def profile_page(file: ProfileFile, token: str) -> str:
    """Return the page of a version, with the fingerprint of its signed file, as HTML that needs nothing from anywhere."""
    sections = [PageSection(title, tuple(_lines(file, fields))) for title, fields in _SECTIONS.items()]
    sections.insert(2, PageSection("The tunnel, at the device", tuple(_end(file.device_end))))
    digest = sha256(token.encode()).hexdigest()
    fingerprint = " ".join(digest[at : at + 4] for at in range(0, len(digest), 4))
    return page_environment().get_template("profile.html.jinja").render(file=file, sections=sections, fingerprint=fingerprint)


def _lines(file: ProfileFile, fields: tuple[str, ...]) -> Iterator[PageLine]:
    for name in fields:
        yield PageLine(ProfileFile.model_fields[name].title or name, written(getattr(file, name)))


def _end(end: DialInEnd) -> Iterator[PageLine]:
    """Yield what the device's end is set to; what isn't set is left out."""
    for name, info in DialInEnd.model_fields.items():
        value = written(getattr(end, name))
        if value != ABSENT:
            yield PageLine(info.title or name, value)
