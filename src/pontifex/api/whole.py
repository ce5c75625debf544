"""The whole API: all its parts, and their description."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, FastAPI

from pontifex.api import (
    changes,
    clouds,
    connecting,
    designs,
    devices,
    findings,
    handover,
    key_links,
    keys,
    partners,
    paths,
    people,
    reading,
    reference,
    rehearsing,
    space,
)
from pontifex.api.answers import definitions
from pontifex.api.entrance import entrance
from pontifex.api.problems import add_problem_handlers
from pontifex.api.session import Sessions
from pontifex.services.records import RecordServices


def complete(app: FastAPI, records: RecordServices) -> None:
    """Add to the application all that its first page doesn't need; requests for it that came before have waited."""
    state = app.state
    state.runs, state.partners, state.key_links = records.runs, records.partners, records.key_links
    state.devices, state.rollouts, state.cloud_accounts = records.devices, records.rollouts, records.cloud_accounts
    whole = _whole(state.entrance)
    whole.state = state
    state.rest.set_result(whole)


def description() -> dict[str, Any]:
    """Return the description of the API (OpenAPI), which takes no services."""
    return _whole(entrance(Sessions(b"", ""), "")).openapi()


def _whole(way_in: APIRouter) -> FastAPI:
    app = _Described(
        title="Pontifex",
        version="1",
        description="Design VPN tunnels with both ends in view. All writes to a design go through its changes.",
        openapi_url="/api/openapi.json",
        docs_url=None,
        redoc_url=None,
    )
    app.include_router(way_in)
    parts = (reference, reading, designs, findings, changes, connecting, space, paths)
    others = (rehearsing, handover, devices, people, clouds, partners, keys, key_links)
    for part in (*parts, *others):
        app.include_router(part.router)
    add_problem_handlers(app)
    return app


class _Described(FastAPI):
    """An application that adds to its description the models that answers and refusals name by reference."""

    def openapi(self) -> dict[str, Any]:
        """Return the description of the API (OpenAPI)."""
        document = super().openapi()
        schemas = document["components"]["schemas"]
        for name, definition in definitions().items():
            schemas.setdefault(name, definition)
        return document
