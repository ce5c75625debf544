"""Intended, running, after a restart: a verdict for each setting of a device."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Any, Final

from pydantic import Field

from pontifex.core.choice import Choice
from pontifex.core.handover.readings.reading import Reading
from pontifex.core.handover.readings.setting import Setting, intended, text_of
from pontifex.core.handover.readings.take_over import TakeOver, take_over
from pontifex.core.model import Design
from pontifex.core.model.written import ABSENT


class DriftVerdict(Choice):
    """What the three values of a setting amount to."""

    AS_INTENDED = "as-intended"
    NOT_SAVED = "not-saved"  # runs, and a restart loses it
    NOT_APPLIED = "not-applied"  # saved, and doesn't run yet
    DIFFERS = "differs"
    NOT_ENTERED = "not-entered"
    MORE = "more"  # the device has something that nobody intends
    NOT_READ = "not-read"


LABELS: Final = {
    DriftVerdict.AS_INTENDED: "as intended",
    DriftVerdict.NOT_SAVED: "entered, not saved",
    DriftVerdict.NOT_APPLIED: "saved, not applied",
    DriftVerdict.DIFFERS: "differs",
    DriftVerdict.NOT_ENTERED: "not entered",
    DriftVerdict.MORE: "more than intended",
    DriftVerdict.NOT_READ: "not read yet",
}
_STEPS: Final = {
    DriftVerdict.DIFFERS: "Enter {intended} at {device}, and save.",
    DriftVerdict.NOT_ENTERED: "Enter {intended} at {device}, and save.",
    DriftVerdict.NOT_SAVED: "Save what runs at {device}.",
    DriftVerdict.NOT_APPLIED: "Apply at {device} what is saved, or restart it.",
    DriftVerdict.MORE: "Take it out at {device}, and save.",
}
_IN_ORDER: Final = (
    DriftVerdict.DIFFERS,
    DriftVerdict.NOT_ENTERED,
    DriftVerdict.NOT_SAVED,
    DriftVerdict.NOT_APPLIED,
    DriftVerdict.MORE,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class DriftLine:
    """One setting with its three values."""

    path: str
    title: str
    intended: str
    running: Annotated[str, Field(title="Runs now")]
    after_restart: Annotated[str, Field(title="After a restart")]
    verdict: DriftVerdict
    step: Annotated[str, Field(title="What mends it at the device", description="Empty where nothing has to be.")]
    take_over: Annotated[TakeOver | None, Field(title="What takes it into the design", description="Null where that can't be.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class Drift:
    """What a device has against what is intended."""

    gateway_id: str
    device: str
    taken_at: Annotated[datetime | None, Field(title="Read at", description="Null where it was never read.")]
    source: str
    lines: tuple[DriftLine, ...]

    @property
    def count(self) -> int:
        """How many settings aren't as intended, as far as they were read."""
        return sum(line.verdict in _IN_ORDER for line in self.lines)

    @property
    def not_read(self) -> int:
        """How many settings weren't read."""
        return sum(line.verdict is DriftVerdict.NOT_READ for line in self.lines)


def drift(design: Design, gateway_id: str, reading: Reading | None) -> Drift:
    """Hold a reading of a gateway against the design, setting by setting; without one nothing is read yet."""
    gateway = design.gateway_by_id[gateway_id]
    wanted = {setting.path: setting for setting in intended(design, gateway_id)}
    lines = list(_lines(design, gateway.name, wanted, reading))
    order = {verdict: place for place, verdict in enumerate(_IN_ORDER)}
    lines.sort(key=lambda line: (order.get(line.verdict, len(order)), line.path))
    return Drift(
        gateway_id=gateway_id,
        device=gateway.name,
        taken_at=reading.taken_at if reading else None,
        source=reading.source if reading else "",
        lines=tuple(lines),
    )


def _lines(design: Design, device: str, wanted: dict[str, Setting], reading: Reading | None) -> Iterator[DriftLine]:
    running = _texts(wanted, reading.running if reading else {})
    saved = reading.after_restart if reading else None
    kept = _texts(wanted, saved) if saved is not None else None
    complete = bool(reading and reading.complete)
    for path in sorted(wanted.keys() | running.keys() | (kept or {}).keys()):
        setting = wanted.get(path)
        intends = setting.text if setting else ABSENT
        runs = running.get(path, ABSENT if complete else "")
        stays = (kept.get(path, ABSENT if complete else runs)) if kept is not None else ""
        verdict = verdict_of(intends, runs, stays)
        if setting is None and verdict is DriftVerdict.AS_INTENDED:
            continue
        yield DriftLine(
            path=path,
            title=setting.title if setting else _title(design, path),
            intended=intends,
            running=runs,
            after_restart=stays,
            verdict=verdict,
            step=_STEPS.get(verdict, "").format(device=device, intended=intends),
            take_over=take_over(design, path, (reading.running if reading else {}).get(path))
            if verdict in (DriftVerdict.DIFFERS, DriftVerdict.MORE, DriftVerdict.NOT_ENTERED)
            else None,
        )


def _texts(wanted: dict[str, Setting], read: dict[str, Any]) -> dict[str, str]:
    """Return what was read in the words of the design; most of it is what is intended, word by word."""
    return {
        path: setting.text if (setting := wanted.get(path)) and setting.text == value else text_of(path, value)
        for path, value in read.items()
    }


def verdict_of(intends: str, runs: str, stays: str) -> DriftVerdict:
    """Return what three values amount to. A dash stands for nothing there, and nothing for not read."""
    if not runs:
        return DriftVerdict.NOT_READ
    if intends == ABSENT:
        return DriftVerdict.AS_INTENDED if runs == ABSENT and stays in ("", ABSENT) else DriftVerdict.MORE
    if runs == intends:
        return DriftVerdict.AS_INTENDED if stays in ("", intends) else DriftVerdict.NOT_SAVED
    if stays == intends:
        return DriftVerdict.NOT_APPLIED
    return DriftVerdict.NOT_ENTERED if runs == ABSENT else DriftVerdict.DIFFERS


def _title(design: Design, path: str) -> str:
    kind, id_, *rest = path.split("/")
    tunnel = design.tunnel_by_id.get(id_) if kind == "tunnel" else None
    return f"{tunnel.name}: {rest[-1].replace('_', ' ')}" if tunnel else "/".join(rest).replace("_", " ")
