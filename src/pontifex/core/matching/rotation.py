"""Changing a pre-shared key: in which order, and how long the two ends may differ."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from pontifex.core.kinds import SIDES, AuthMethod
from pontifex.core.matching.authentication import uses
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.reasons.reason import minutes


@dataclass(frozen=True, slots=True, kw_only=True)
class RotationStep:
    """One step of changing the key."""

    title: Annotated[str, Field(title="What to do")]
    why: Annotated[str, Field(title="Why then, and what may happen meanwhile")]


def rotation(ends: TunnelEnds) -> tuple[RotationStep, ...]:
    """Return the steps. A key is used in IKE_AUTH alone (RFC 7296 section 2.15): a running SA outlives its change."""
    if not (ends.technology and ends.technology.is_ipsec and uses(ends, AuthMethod.PRE_SHARED_KEY)):
        return ()
    caller, answers = ends.names[ends.caller], ends.names[ends.caller.other]
    return (
        RotationStep(
            title="Make the new key here and set it at both ends of the design, in one change",
            why="The comparison then says that both agree, and undo brings the old key back while the devices still have it.",
        ),
        RotationStep(
            title=f"Enter it at {answers} first",
            why=f"{_role(ends)} The running SA is not touched: the key is asked for in IKE_AUTH alone.",
        ),
        RotationStep(
            title=f"Enter it at {caller} directly afterwards, and read the fingerprint across",
            why=f"{_window(ends)} A call between the two entries fails with AUTHENTICATION_FAILED.",
        ),
        RotationStep(
            title=f"Let {caller} call anew while somebody watches",
            why="Only a new IKE SA proves the key. Until then a slip stays hidden, and comes to light at the next restart.",
        ),
        RotationStep(title="Take the old key out of both devices", why="It is of no use any more, but to whoever finds it."),
    )


def _role(ends: TunnelEnds) -> str:
    answers = ends.caller.other
    if ends.calls(answers):
        return "Both ends call, so the order is yours; keep to one all the same."
    return f"{ends.names[answers]} only answers."


def _window(ends: TunnelEnds) -> str:
    """Say how long the two ends may differ."""
    times = [end.ike_lifetime_s for side in SIDES if (end := ends.end(side)).reauthenticate and end.ike_lifetime_s]
    if times:
        return f"The window is at most {minutes(min(times))}: then the ends authenticate anew."
    return "The window is open until something restarts: neither end authenticates anew by itself."
