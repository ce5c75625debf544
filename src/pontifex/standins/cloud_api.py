"""A stand-in cloud over HTTP: an API of the product's own; what it refuses is told as problem details (RFC 9457)."""

from __future__ import annotations

import hmac
import json
from collections.abc import Callable, Mapping
from typing import Final, TypeVar

from pydantic import Field, ValidationError
from starlette.applications import Starlette
from starlette.concurrency import run_in_threadpool
from starlette.requests import Request
from starlette.responses import Response
from starlette.routing import Route
from starlette.types import ASGIApp

from pontifex.core.addressing import AddressError, Prefix, parse_prefix
from pontifex.core.clouds.resources import CloudRoute, CloudSubnet, HeldRule
from pontifex.core.frozen_model import FrozenModel
from pontifex.standins.cloud import CloudRefused, StandInCloud

_MOST_OCTETS: Final = 200_000
M = TypeVar("M", bound=FrozenModel)


class PeeringAsked(FrozenModel):
    """Which network asks which for a peering."""

    requester: str = Field(max_length=64)
    accepter: str = Field(max_length=64)
    accepter_account: str = Field(max_length=200)


class PeeringAnswer(FrozenModel):
    """Whether a request is accepted."""

    accepted: bool


class CloudApi:
    """One cloud as a web application. Whoever has the token of an account acts for it."""

    def __init__(self, cloud: StandInCloud, tokens: Mapping[str, str], keep: Callable[[], None]) -> None:
        """`tokens` are the accounts' by account; `keep` writes the state down after each change."""
        self._cloud, self._tokens, self._keep = cloud, tokens, keep
        network = "/v1/networks/{network}"
        self.application: ASGIApp = Starlette(
            routes=[
                Route("/v1/account", self._account),
                Route("/v1/peerings", self._request, methods=["POST"]),
                Route("/v1/peerings/{peering}/answer", self._answer, methods=["POST"]),
                Route("/v1/peerings/{peering}", self._take_down, methods=["DELETE"]),
                Route(f"{network}/subnets/{{subnet}}", self._subnet, methods=["PUT", "DELETE"]),
                Route(f"{network}/tables/{{table}}/routes/{{prefix:path}}", self._route, methods=["PUT", "DELETE"]),
                Route(f"{network}/rules/{{rule}}", self._rule, methods=["PUT", "DELETE"]),
            ],
            exception_handlers={CloudRefused: _problem},
        )

    def _whose(self, request: Request) -> str:
        given = request.headers.get("authorization", "").removeprefix("Bearer ")
        for account, token in self._tokens.items():
            if hmac.compare_digest(given.encode(), token.encode()):
                return account
        raise CloudRefused(401, "unknown-token", "nobody has this token")

    async def _account(self, request: Request) -> Response:
        return _told(self._cloud.account(self._whose(request)))

    async def _request(self, request: Request) -> Response:
        account, asked = self._whose(request), await _read(request, PeeringAsked)
        made = self._cloud.request(account, asked.requester, asked.accepter, asked.accepter_account)
        return await self._done(made)

    async def _answer(self, request: Request) -> Response:
        account, answer = self._whose(request), await _read(request, PeeringAnswer)
        return await self._done(self._cloud.answer(account, request.path_params["peering"], answer.accepted))

    async def _take_down(self, request: Request) -> Response:
        return await self._done(self._cloud.take_down(self._whose(request), request.path_params["peering"]))

    async def _subnet(self, request: Request) -> Response:
        account, network, subnet_id = self._whose(request), request.path_params["network"], request.path_params["subnet"]
        if request.method == "DELETE":
            self._cloud.remove_subnet(account, network, subnet_id)
        else:
            self._cloud.put_subnet(account, network, _of_id(await _read(request, CloudSubnet), subnet_id))
        return await self._done()

    async def _route(self, request: Request) -> Response:
        account, network, table = self._whose(request), request.path_params["network"], request.path_params["table"]
        prefix = _prefix(request.path_params["prefix"])
        if request.method == "DELETE":
            self._cloud.remove_route(account, network, table, prefix)
        else:
            self._cloud.put_route(account, network, table, (await _read(request, CloudRoute)).changed(prefix=prefix))
        return await self._done()

    async def _rule(self, request: Request) -> Response:
        account, network, rule_id = self._whose(request), request.path_params["network"], request.path_params["rule"]
        if request.method == "DELETE":
            self._cloud.remove_rule(account, network, rule_id)
        else:
            self._cloud.put_rule(account, network, _of_id(await _read(request, HeldRule), rule_id))
        return await self._done()

    async def _done(self, made: FrozenModel | None = None) -> Response:
        """Answer that it is taken on: it is so only later."""
        await run_in_threadpool(self._keep)
        return Response(status_code=202) if made is None else _told(made, 202)


Named = TypeVar("Named", CloudSubnet, HeldRule)


def _of_id(given: Named, id_: str) -> Named:
    if given.id != id_:
        raise CloudRefused(400, "malformed", f"the body is about {given.id}, and the address about {id_}")
    return given


def _prefix(text: str) -> Prefix:
    try:
        return parse_prefix(text)
    except AddressError as error:
        raise CloudRefused(400, "malformed", error.reason) from None


async def _read(request: Request, model: type[M]) -> M:
    octets = await request.body()
    if len(octets) > _MOST_OCTETS:
        raise CloudRefused(413, "too-large", "that is too much at once")
    try:
        return model.model_validate_json(octets)
    except ValidationError as error:
        first = error.errors()[0]
        where = "/".join(map(str, first["loc"])) or "the body"
        raise CloudRefused(400, "malformed", f"{where}: {first['msg']}") from None


def _told(item: FrozenModel, status: int = 200) -> Response:
    return Response(item.model_dump_json(), status, media_type="application/json")


def _problem(_request: Request, refused: Exception) -> Response:
    assert isinstance(refused, CloudRefused)  # for no other is it asked
    document = {"type": f"urn:problem:{refused.code}", "title": refused.code, "status": refused.status, "detail": refused.reason}
    return Response(json.dumps(document), refused.status, media_type="application/problem+json")
