"""What a forecast amounts to."""

from __future__ import annotations

from pontifex.core.reasons.reason import Reason


class StopsAt(Reason, text="stops at {stage}: {reason}"):
    stage: str
    reason: Reason


class NotKnownAt(Reason, text="not known yet at {stage}: {reason}"):
    stage: str
    reason: Reason


class StopsLaterAt(Reason, text="comes up, stops later at {stage}: {reason}"):
    stage: str
    reason: Reason


class LessAt(Reason, text="comes up, for less than asked at {stage}: {reason}"):
    stage: str
    reason: Reason


class SizesNotExamined(Reason, text="packet sizes are not examined"):
    pass


class ComesUp(Reason, text="comes up{rekey:next}{sizes:next}"):
    rekey: Reason | None
    sizes: SizesNotExamined | None


class EndsNotCompared(Reason, text="not known: the two ends can't be compared, for an error of Pontifex itself"):
    pass
