"""Running checks so that one which fails is a finding of its own, and the others stand."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import TypeVar

from pontifex.core.catalogue import Code
from pontifex.core.failures import FailedCheck, Failures
from pontifex.core.findings.finding import Place, Remark, remark
from pontifex.core.kinds import ObjectType, Tunnel
from pontifex.core.model import Design
from pontifex.core.model.design import SETTINGS_ID
from pontifex.core.reasons.tunnels import CheckFailed

_About = TypeVar("_About")


class Checks(Failures):
    """The remarks of some checks about a tunnel, or about the design as a whole."""

    def __init__(self, design: Design, tunnel: Tunnel | None = None) -> None:
        super().__init__()
        self.remarks: list[Remark] = []
        self._design, self._tunnel = design, tunnel
        self._about_id = tunnel.id if tunnel else SETTINGS_ID

    def run(self, name: str, check: Callable[[_About], Iterable[Remark]], about: _About) -> None:
        """Make a check and keep its remarks, all or none."""
        with self.guard(name, self._about_id):
            self.remarks += tuple(check(about))

    def note(self, failed: FailedCheck) -> None:
        """Keep what failed, and say it in a remark."""
        super().note(failed)
        why = CheckFailed(self._place.name, failed.check, failed.kind)
        self.remarks.append(remark(Code.ANALYSIS_CHECK_FAILED, (self._place,), why))

    @property
    def _place(self) -> Place:
        if self._tunnel:
            return Place(type=ObjectType.TUNNEL, id=self._tunnel.id, name=self._tunnel.name, field="name")
        return Place(type=ObjectType.SETTINGS, id=SETTINGS_ID, name=self._design.name, field="name")
