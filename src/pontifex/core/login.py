"""An account as a device has it: with the secret, or what stands in its place in a rehearsal."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(frozen=True, slots=True)
class Login:
    """An account that an end calls with, or that it has made for the other one."""

    name: str
    secret: bytes = field(repr=False)
    may_call: bool = True  # it is enabled, and one for tunnels
