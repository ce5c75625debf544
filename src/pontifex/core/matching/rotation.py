"""Changing a pre-shared key: in which order, and how long the two ends may differ."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from pontifex.core.kinds import SIDES, AuthMethod
from pontifex.core.matching.authentication import uses
from pontifex.core.matching.rekey import minutes
from pontifex.core.matching.tunnel_ends import TunnelEnds


@dataclass(frozen=True, slots=True, kw_only=True)
class RotationStep:
    """One step of changing the key."""

    title: Annotated[str, Field(title="What to do")]
    why: Annotated[str, Field(title="Why then, and what may happen meanwhile")]


def rotation(pair: TunnelEnds) -> tuple[RotationStep, ...]:
    """Return the steps. A key is used in IKE_AUTH alone (RFC 7296 section 2.15): a running SA outlives its change."""
    if not (pair.technology and pair.technology.is_ipsec and uses(pair, AuthMethod.PRE_SHARED_KEY)):
        return ()
    caller, answers = pair.names[pair.caller], pair.names[pair.caller.other]
    return (
        RotationStep(
            title="Make the new key here and set it at both ends of the design, in one change",
            why="The comparison then says that both agree, and undo brings the old key back while the devices still have it.",
        ),
        RotationStep(
            title=f"Enter it at {answers} first",
            why=f"{_role(pair)} The running SA is not touched: the key is asked for in IKE_AUTH alone.",
        ),
        RotationStep(
            title=f"Enter it at {caller} directly afterwards, and read the fingerprint across",
            why=f"{_window(pair)} A call between the two entries fails with AUTHENTICATION_FAILED.",
        ),
        RotationStep(
            title=f"Let {caller} call anew while somebody watches",
            why="Only a new IKE SA proves the key. Until then a slip stays hidden, and comes to light at the next restart.",
        ),
        RotationStep(title="Take the old key out of both devices", why="It is of no use any more, but to whoever finds it."),
    )


def _role(pair: TunnelEnds) -> str:
    answers = pair.caller.other
    if pair.calls(answers):
        return "Both ends call, so the order is yours; keep to one all the same."
    return f"{pair.names[answers]} only answers."


def _window(pair: TunnelEnds) -> str:
    """Say how long the two ends may differ."""
    times = [end.ike_lifetime_s for side in SIDES if (end := pair.end(side)).reauthenticate and end.ike_lifetime_s]
    if times:
        return f"The window is at most {minutes(min(times))}: then the ends authenticate anew."
    return "The window is open until something restarts: neither end authenticates anew by itself."
