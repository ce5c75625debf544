"""A stand-in gateway over HTTP: RESTCONF (RFC 8040) with the datastores of RFC 8527 and operations of RFC 6241 and RFC 7317."""

from __future__ import annotations

import asyncio
import base64
import hmac
import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Final

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import Response
from starlette.routing import Route
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from pontifex.core.handover.renderings.gateway_module import CONTAINER, NoSuchResource, instance_of, module_text, path_of
from pontifex.standins.gateway import GatewayHabit, SettingRefused, StandInGateway

_JSON: Final = "application/yang-data+json"
_MOST_OCTETS: Final = 1_000_000
_LONGEST_WAIT_S: Final = 3600
_USUAL_WAIT_S: Final = 600

CONNECTIONS: Final[dict[tuple[str, int], asyncio.Transport]] = {}  # by the address and port of their clients


@dataclass(frozen=True, slots=True)
class StandInLogin:
    """Who is let in."""

    user: str
    password: str = field(repr=False)

    @property
    def header(self) -> str:
        """How it stands in a request (RFC 7617)."""
        return "Basic " + base64.b64encode(f"{self.user}:{self.password}".encode()).decode()


class _RestconfError(Exception):
    """An answer that isn't what was asked for (RFC 8040 section 7)."""

    def __init__(self, status: int, tag: str, message: str) -> None:
        super().__init__(message)
        self.status, self.tag = status, tag


class RestconfGateway:
    """One device as a web application."""

    def __init__(self, device: StandInGateway, login: StandInLogin, late_s: float, away_s: float) -> None:
        """A slow device answers `late_s` seconds late; one that cuts connections is away for `away_s` seconds."""
        self._device, self._login, self._late_s, self._away_s = device, login, late_s, away_s
        self._away_until = 0.0
        routes = [
            Route("/.well-known/host-meta", self._host_meta),
            Route("/restconf/yang/pontifex-gateway.yang", self._module),
            Route("/restconf/ds/{datastore}/{resource:path}", self._data, methods=["GET", "PUT", "DELETE"]),
            Route("/restconf/operations/{operation}", self._operation, methods=["POST"]),
        ]
        app = Starlette(routes=routes, exception_handlers={_RestconfError: _fault_answer})
        self.application: ASGIApp = _Habits(app, self)

    def is_away(self) -> bool:
        """Whether nobody gets an answer now."""
        return self._device.clock() < self._away_until

    def is_known(self, header: str) -> bool:
        """Whether a request comes from who is let in."""
        return hmac.compare_digest(header.encode(), self._login.header.encode())

    @property
    def late_s(self) -> float:
        """How late it answers."""
        return self._late_s if self._device.habit is GatewayHabit.SLOW else 0.0

    async def _host_meta(self, _request: Request) -> Response:
        link = "<XRD xmlns='http://docs.oasis-open.org/ns/xri/xrd-1.0'><Link rel='restconf' href='/restconf'/></XRD>"
        return Response(link, media_type="application/xrd+xml")

    async def _module(self, _request: Request) -> Response:
        return Response(module_text(), media_type="application/yang")

    async def _data(self, request: Request) -> Response:
        module, _, datastore = request.path_params["datastore"].partition(":")
        if module != "ietf-datastores" or datastore not in ("candidate", "running", "startup"):
            raise _RestconfError(404, "invalid-value", "there is no such datastore")
        resource = request.scope["raw_path"].decode().partition(f"{datastore}/")[2]
        if request.method == "GET":
            if resource != CONTAINER:
                raise _RestconfError(404, "invalid-value", "only the whole gateway is read")
            return _answer(instance_of(self._device.settings(datastore)))
        if datastore != "candidate":
            raise _RestconfError(405, "operation-not-supported", "changes go into the candidate")
        path = self._path(resource)
        value = None if request.method == "DELETE" else _value(await _body(request), path)
        try:
            self._device.enter(path, value)
        except KeyError:
            raise _RestconfError(404, "data-missing", "it isn't there") from None
        except SettingRefused as refused:
            raise _RestconfError(400, "invalid-value", str(refused)) from None
        return Response(status_code=204)

    def _path(self, resource: str) -> str:
        try:
            return path_of(resource, self._device.gateway_id)
        except NoSuchResource as error:
            raise _RestconfError(400, "unknown-element", str(error)) from None

    async def _operation(self, request: Request) -> Response:
        operations: Mapping[str, Callable[[Mapping[str, Any]], None]] = {
            "ietf-netconf:discard-changes": lambda _: self._device.discard(),
            "ietf-netconf:validate": lambda _: self._device.validate(),
            "ietf-netconf:commit": self._commit,
            "ietf-netconf:copy-config": self._copy,
            "ietf-system:system-restart": lambda _: self._restart(),
        }
        name = request.path_params["operation"]
        if name not in operations:
            raise _RestconfError(404, "operation-not-supported", "there is no such operation")
        given = await _body(request)
        found = given.get(f"{name.partition(':')[0]}:input", {})
        try:
            operations[name](found if isinstance(found, Mapping) else {})
        except SettingRefused as refused:
            raise _RestconfError(400, "invalid-value", str(refused)) from None
        return Response(status_code=204)

    def _commit(self, given: Mapping[str, Any]) -> None:
        if "confirmed" not in given:
            self._device.confirm(str(given.get("persist-id", "")))
            return
        wait = given.get("confirm-timeout", _USUAL_WAIT_S)
        if not isinstance(wait, int) or not 0 < wait <= _LONGEST_WAIT_S:
            raise _RestconfError(400, "invalid-value", "the time to confirm is 1 to 3600 s")
        self._device.commit(wait, str(given.get("persist", "")))
        self._go_away(self._device.habit is GatewayHabit.CUTS)

    def _copy(self, given: Mapping[str, Any]) -> None:
        if given != {"target": {"startup": [None]}, "source": {"running": [None]}}:
            raise _RestconfError(400, "operation-not-supported", "only what runs is copied, and only to what is kept")
        self._device.save()

    def _restart(self) -> None:
        self._device.restart()
        self._go_away(True)

    def _go_away(self, goes: bool) -> None:
        if goes:
            self._away_until = self._device.clock() + self._away_s


class _Habits:
    """What happens to a request before the device looks at it, and to its answer."""

    def __init__(self, app: ASGIApp, gateway: RestconfGateway) -> None:
        self._app, self._gateway = app, gateway

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return
        if self._gateway.is_away():
            await _cut(scope, receive)
            return
        header = dict(scope["headers"]).get(b"authorization", b"").decode("latin-1")
        if not self._gateway.is_known(header):
            await _fault(_RestconfError(401, "access-denied", "nobody of this name and password"))(scope, receive, send)
            return
        if self._gateway.late_s:
            await asyncio.sleep(self._gateway.late_s)

        async def answered(message: Message) -> None:
            if not self._gateway.is_away():
                await send(message)

        await self._app(scope, receive, answered)
        if self._gateway.is_away():
            await _cut(scope, receive)


async def _cut(scope: Scope, receive: Receive) -> None:
    """Cut the connection, and wait until it is gone: nothing is answered any more."""
    CONNECTIONS[tuple(scope["client"])].abort()
    while (await receive())["type"] != "http.disconnect":
        pass


async def _body(request: Request) -> Mapping[str, Any]:
    octets = await request.body()
    if len(octets) > _MOST_OCTETS:
        raise _RestconfError(413, "too-big", "that is too much at once")
    try:
        found = json.loads(octets) if octets else {}
    except (ValueError, RecursionError):
        found = None
    if not isinstance(found, Mapping):
        raise _RestconfError(400, "malformed-message", "the body is no JSON object")
    return found


def _value(body: Mapping[str, Any], path: str) -> str:
    values = list(body.values())
    if len(values) != 1 or not isinstance(values[0], str):
        raise _RestconfError(400, "malformed-message", f"one text is expected for {path}")
    return values[0]


def _answer(document: object) -> Response:
    return Response(json.dumps(document), media_type=_JSON)


def _fault(fault: _RestconfError) -> Response:
    error = {"error-type": "application", "error-tag": fault.tag, "error-message": str(fault)}
    headers = {"WWW-Authenticate": 'Basic realm="gateway"'} if fault.status == 401 else None
    return Response(json.dumps({"ietf-restconf:errors": {"error": [error]}}), fault.status, media_type=_JSON, headers=headers)


def _fault_answer(_request: Request, fault: Exception) -> Response:
    assert isinstance(fault, _RestconfError)  # for no other is it asked
    return _fault(fault)
