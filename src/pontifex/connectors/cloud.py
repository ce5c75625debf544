"""A cloud over its HTTP API: what an account holds, and changes to it, one at a time. The format is the product's own."""

from __future__ import annotations

import hmac
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final
from urllib.parse import quote

import httpx
from pydantic import ValidationError

from pontifex.connectors.pinned import WITHIN_S, certificate_at, fingerprint, trusting
from pontifex.core.clouds.changes import (
    AnswerPeering,
    CloudChange,
    NetworkChange,
    PutRoute,
    PutRule,
    PutSubnet,
    RemovePeering,
    RemoveRoute,
    RemoveRule,
    RemoveSubnet,
    RequestPeering,
)
from pontifex.core.clouds.resources import AccountState, CloudRoute
from pontifex.core.errors import NotAccepted, Unavailable
from pontifex.core.frozen_model import FrozenModel

_MOST_OCTETS: Final = 8_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class CloudAccess:
    """What it takes to reach an account of a cloud. The token shows in no representation."""

    account: str
    address: str  # host and port
    fingerprint: str
    token: str = field(repr=False)


class CloudSilent(Unavailable):
    """The cloud doesn't answer, or shows another certificate than the one that was compared."""

    title = "The cloud doesn't answer"


class CloudSaysNo(NotAccepted):
    """The cloud answers, and doesn't do it."""

    title = "The cloud refuses it"


@dataclass(frozen=True, slots=True)
class _Request:
    """What is sent to the cloud."""

    method: str
    path: str
    body: FrozenModel | Mapping[str, object] | None = None


def _request_of(change: CloudChange) -> _Request:
    """Return what is sent for a change."""
    match change:
        case RequestPeering(requester, accepter, account):
            body = {"requester": requester, "accepter": accepter, "accepter_account": account}
            return _Request("POST", "/v1/peerings", body)
        case AnswerPeering(peering, accepted):
            return _Request("POST", f"/v1/peerings/{peering}/answer", {"accepted": accepted})
        case RemovePeering(peering):
            return _Request("DELETE", f"/v1/peerings/{peering}")
        case _:
            return _of_network(change)


def _of_network(change: NetworkChange) -> _Request:
    match change:
        case PutSubnet(network, subnet):
            return _Request("PUT", f"/v1/networks/{network}/subnets/{subnet.id}", subnet)
        case RemoveSubnet(network, subnet_id):
            return _Request("DELETE", f"/v1/networks/{network}/subnets/{subnet_id}")
        case PutRoute(prefix=prefix, peering=by):
            return _Request("PUT", _route_path(change), CloudRoute(prefix=prefix, peering=by))
        case RemoveRoute():
            return _Request("DELETE", _route_path(change))
        case PutRule(network, rule):
            return _Request("PUT", f"/v1/networks/{network}/rules/{rule.id}", rule)
        case RemoveRule(network, rule_id):
            return _Request("DELETE", f"/v1/networks/{network}/rules/{rule_id}")


def _route_path(it: PutRoute | RemoveRoute) -> str:
    return f"/v1/networks/{it.network}/tables/{it.table}/routes/{quote(str(it.prefix), safe='')}"


def certificate_shown(address: str) -> str:
    """Return the SHA-256 of the certificate that a cloud shows. Raise CloudSilent."""
    return fingerprint(_certificate(address))


def _certificate(address: str) -> str:
    try:
        return certificate_at(address)
    except (OSError, OverflowError):
        raise CloudSilent(f"nothing that speaks TLS answers at {address}") from None


def read_account(access: CloudAccess) -> AccountState:
    """Return what an account holds. Raise CloudSilent, CloudSaysNo."""
    answer = _asked(access, _Request("GET", "/v1/account"))
    if len(answer.content) > _MOST_OCTETS:
        raise CloudSaysNo("it answers with more than an account can hold")
    try:
        state = AccountState.model_validate_json(answer.content)
    except ValidationError:
        raise CloudSaysNo("its answer is cut off, or not in the form of this API") from None
    if state.account != access.account:
        raise CloudSaysNo(f"the token opens the account {state.account}, not {access.account}")
    return state


def carry_out(access: CloudAccess, change: CloudChange) -> None:
    """Do one thing at an account. Raise CloudSilent, CloudSaysNo."""
    _asked(access, _request_of(change))


def _asked(access: CloudAccess, request: _Request) -> httpx.Response:
    certificate = _certificate(access.address)
    if not hmac.compare_digest(fingerprint(certificate), access.fingerprint):
        raise CloudSilent("it shows another certificate than the one that was compared; nothing was sent to it")
    body = request.body.model_dump(mode="json") if isinstance(request.body, FrozenModel) else request.body
    try:
        with httpx.Client(
            base_url=f"https://{access.address}", verify=trusting(certificate), timeout=WITHIN_S, trust_env=False
        ) as client:
            answer = client.request(request.method, request.path, json=body, headers={"Authorization": f"Bearer {access.token}"})
    except httpx.TransportError:
        raise CloudSilent("the connection can't be made, or broke off") from None
    if answer.is_success:
        return answer
    raise CloudSaysNo(_told(answer))


def _told(answer: httpx.Response) -> str:
    """Return why the cloud doesn't do it (RFC 9457)."""
    if answer.status_code == 401:
        return "it doesn't know this token"
    try:
        detail = answer.json()["detail"]
    except (ValueError, KeyError, TypeError):
        return f"it answers with status {answer.status_code}"
    return str(detail)[:300]
