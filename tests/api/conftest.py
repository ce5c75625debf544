"""The API through HTTP, with the demo in a real database."""

from __future__ import annotations

from pathlib import Path

import pytest
from starlette.testclient import TestClient

from pontifex.api import create_app
from pontifex.api.whole import complete
from pontifex.demo import load_demo
from tests.support.sessions import HOST, SESSIONS


@pytest.fixture
def app(designs, keys, records, workers):
    """The application over the demo."""
    load_demo(designs, keys)
    made = create_app(designs, keys, workers, SESSIONS, frozenset({HOST}), "pontifex", Path("/none"), "build")
    complete(made, records)
    return made


@pytest.fixture
def stranger(app):
    """A client without a session."""
    with TestClient(app, base_url=f"http://{HOST}", follow_redirects=False, raise_server_exceptions=False) as client:
        yield client


@pytest.fixture
def client(stranger):
    """A client that has opened the printed address."""
    assert stranger.get(f"/open/{SESSIONS.ticket()}").status_code == 303
    return stranger
