"""Running checks so that one which fails is a finding of its own, and the others stand."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from pontifex.core.catalogue import Code
from pontifex.core.failures import FailedCheck, Failures
from pontifex.core.findings.finding import Place, Remark, remark
from pontifex.core.kinds import ObjectType, Tunnel
from pontifex.core.model import Design
from pontifex.core.model.design import SETTINGS_ID
from pontifex.core.reasons.tunnels import CheckFailed


class Checks(Failures):
    """The remarks of some checks about a tunnel, or about the design as a whole."""

    def __init__(self, design: Design, tunnel: Tunnel | None = None) -> None:
        super().__init__()
        self.remarks: list[Remark] = []
        if tunnel:
            self._place = Place(type=ObjectType.TUNNEL, id=tunnel.id, name=tunnel.name, field="name")
        else:
            self._place = Place(type=ObjectType.SETTINGS, id=SETTINGS_ID, name=design.name, field="name")

    def run(self, check: str, found: Callable[[], Iterable[Remark]]) -> None:
        """Run a check and keep its remarks, all or none."""
        with self.guard(check, self._place.id):
            self.remarks += tuple(found())

    def note(self, failed: FailedCheck) -> None:
        """Keep what failed, and say it in a remark."""
        super().note(failed)
        why = CheckFailed(self._place.name, failed.check, failed.kind)
        self.remarks.append(remark(Code.ANALYSIS_CHECK_FAILED, (self._place,), why))
