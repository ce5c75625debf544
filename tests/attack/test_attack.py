"""The attacks of `make attack`, small."""

from __future__ import annotations

import resource
import socket
import tempfile
from collections.abc import Iterator
from contextlib import ExitStack
from pathlib import Path

import pytest

from tests.attack.canaries import found, plant
from tests.attack.kills import WAYS, running, under_fire
from tests.attack.meanwhile import meanwhile, signed_in


@pytest.fixture
def state() -> Iterator[Path]:
    """A state directory, which the user postgres can enter."""
    with tempfile.TemporaryDirectory(prefix="pontifex-attack-") as directory:
        Path(directory).chmod(0o711)
        yield Path(directory)


def test_others_are_answered_meanwhile(state):
    """While every worker is busy with what was made to keep it busy, all else is answered; and the heavy questions are, too."""
    with running(state) as product:
        result = meanwhile(product, scale=16, rounds=3)
    assert result.unfinished, "the heavy questions were worked on all the while"
    assert set(result.statuses) <= {200, 422}


def test_what_is_told_is_true_under_fire(state):
    """Whatever is killed: what was told as written is there, what was told as not written isn't, and all comes up again."""
    with running(state) as product:
        outcome = under_fire(product, state / "postgresql", list(WAYS), between_s=0.7)
    assert outcome.written > 0
    assert (outcome.lost, outcome.untrue, dict(outcome.errors)) == (frozenset(), frozenset(), {})


def test_secrets_stay_where_they_are(state):
    """A key that was set is in no answer, log, file of the database, dump, environment or list of arguments."""
    with running(state) as product:
        answers = plant(product)
        assert found(product, state, answers) == []


def test_idle_connections_keep_nobody_out(state):
    """With fifteen hundred connections that say nothing, or half of something, all else is answered."""
    _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (most, most))
    with running(state) as product, ExitStack() as idle:
        for number in range(1500):
            connection = idle.enter_context(socket.create_connection(("127.0.0.1", product.port)))
            if number % 2:
                connection.sendall(b"POST /api/designs HTTP/1.1\r\nHost: ")
        with signed_in(product) as client:
            assert client.get("/api/health").is_success
            assert client.get("/api/designs/skerry-line/analysis").is_success
