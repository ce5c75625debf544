"""Requests that arrive by halves, over a real socket."""

from __future__ import annotations

import socket
from threading import Thread

import pytest
import uvicorn

from pontifex.patient_protocol import PatientProtocol
from tests.support.sessions import HOST, SESSIONS

PATIENCE_S = 30


@pytest.fixture
def impatient(monkeypatch):
    """Little patience, in place of what a slow line needs."""
    monkeypatch.setattr("pontifex.patient_protocol.HEAD_S", 0.3)
    monkeypatch.setattr("pontifex.api.guard._BODY_S", 0.3)


@pytest.fixture
def listening(app):
    """The application on a socket."""
    server = uvicorn.Server(uvicorn.Config(app, http=PatientProtocol, ws="none", lifespan="off", log_level="error"))
    with socket.socket() as bound:
        bound.bind(("127.0.0.1", 0))
        bound.listen()
        thread = Thread(target=server.run, kwargs={"sockets": [bound]})
        thread.start()
        yield bound.getsockname()
        server.should_exit = True
        thread.join(PATIENCE_S)


def _answer(address, *sent):
    with socket.create_connection(address, PATIENCE_S) as connection:
        for part in sent:
            connection.sendall(part)
        received = b""
        while part := connection.recv(65536):
            received += part
    return received


HEAD = f"Host: {HOST}\r\nCookie: pontifex={SESSIONS.open()}\r\n".encode()
POST = b"POST /api/designs HTTP/1.1\r\n" + HEAD + b"Content-Type: application/json\r\nContent-Length: 16\r\n\r\n"


@pytest.mark.usefixtures("impatient")
@pytest.mark.parametrize(
    ("sent", "answered"),
    [
        ([], b""),
        ([b"GET /api/health HTT"], b""),
        ([b"GET /api/health HTTP/1.1\r\n" + HEAD], b""),
        ([b"GET /api/health HTTP/1.1\r\n" + HEAD + b"\r\n" + b"GET /api/he"], b"200 OK"),
        ([POST], b"408 Request Timeout"),
        ([POST, b'{"name": '], b"408 Request Timeout"),
    ],
)
def test_what_comes_by_halves_is_given_up(listening, sent, answered):
    """Silence, half a head or half a body end after a time; the server closes the connection by itself."""
    assert answered in _answer(listening, *sent)


def test_what_is_whole_is_answered(listening):
    """A request that takes its time between its parts, and stays within the time, is answered."""
    close = POST.replace(b"Host", b"Connection: close\r\nHost")
    assert b"201 Created" in _answer(listening, close, b'{"name": ', b'"Line"}')
