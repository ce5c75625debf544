"""What people's devices ask over HTTPS, by their own token alone (RFC 6750): an application of its own."""

from __future__ import annotations

from typing import Annotated, Final

from fastapi import Depends, FastAPI, Request
from fastapi.responses import JSONResponse, Response
from starlette.types import ASGIApp, Receive, Scope, Send

from pontifex.api.problems import add_problem_handlers, problem
from pontifex.services.provisioning import DeviceSays, ProvisioningService, UnknownToken
from pontifex.store.rollouts import DeviceIdentity

MOST_OCTETS: Final = 16_000
_SCHEME: Final = "bearer "


def _service(request: Request) -> ProvisioningService:
    service: ProvisioningService = request.app.state.provisioning
    return service


def _caller(request: Request) -> DeviceIdentity:
    header = request.headers.get("authorization", "")
    if not header.lower().startswith(_SCHEME):
        raise UnknownToken("a device brings its token along: Authorization: Bearer …")
    return _service(request).device_of(header[len(_SCHEME) :].strip())


Caller = Annotated[DeviceIdentity, Depends(_caller)]


def create_provisioning_app(service: ProvisioningService) -> ASGIApp:
    """Return the application that devices speak to."""
    app = FastAPI(title="Pontifex, for devices", openapi_url=None, docs_url=None, redoc_url=None)
    app.state.provisioning = service
    add_problem_handlers(app)
    app.add_api_route("/profiles", _offers, methods=["GET"])
    app.add_api_route("/profiles/{profile_id}", _fetch, methods=["GET"])
    app.add_api_route("/profiles/{profile_id}/report", _report, methods=["POST"], status_code=204)
    return _SmallBodies(app)


def _offers(request: Request, caller: Caller) -> Response:
    """Say which profiles a device is offered, and which version of each."""
    offers = _service(request).offers(caller)
    return JSONResponse({"profiles": [{"profile": offer.profile, "version": offer.version} for offer in offers]})


def _fetch(request: Request, caller: Caller, profile_id: str) -> Response:
    """Hand out the version that is offered, as a JWS in compact form."""
    return Response(_service(request).fetch(caller, profile_id), media_type="application/jose")


def _report(request: Request, caller: Caller, profile_id: str, says: DeviceSays) -> Response:
    """Note what a device says."""
    _service(request).report(caller, profile_id, says)
    return Response(status_code=204)


class _SmallBodies:
    """Refuses what no device has to say."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return
        length = dict(scope["headers"]).get(b"content-length", b"0")
        chunked = b"transfer-encoding" in dict(scope["headers"])
        if chunked or not length.isdigit() or int(length) > MOST_OCTETS:
            refusal = problem(413, "Too much at once", f"A report has at most {MOST_OCTETS} octets, and says how many.")
            await refusal(scope, receive, send)
            return
        await self._app(scope, receive, send)
