"""What the architecture forbids under the core fails here: sockets, the clock and randomness."""

from __future__ import annotations

import os
import random
import secrets
import socket
import sys
import time

import pytest


@pytest.fixture(autouse=True)
def core_stays_pure(monkeypatch):
    """Fail the test when code of the core opens a socket, asks the time or draws a random number."""

    def guarded(module, name):
        real = getattr(module, name)

        def call(*arguments, **named):
            caller = sys._getframe(1).f_globals.get("__name__", "")
            assert not caller.startswith("pontifex.core"), f"{caller} used {name}"
            return real(*arguments, **named)

        monkeypatch.setattr(module, name, call)

    for module, names in {
        socket: ("socket",),
        time: ("time", "monotonic", "perf_counter"),
        os: ("urandom",),
        secrets: ("token_bytes", "token_hex", "token_urlsafe"),
        random: ("random", "randint", "choice"),
    }.items():
        for name in names:
            guarded(module, name)
