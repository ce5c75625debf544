"""Clouds over HTTP: what is intended and held of them, how their accounts are reached, and steps taken there."""

from __future__ import annotations

from typing import Annotated, Any, Final

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field, SecretStr
from starlette.concurrency import run_in_threadpool

from pontifex.api.answers import CONFLICT, REFUSALS, DesignId, Designs, Person, answered, json_answer
from pontifex.api.asking import Ask
from pontifex.api.devices import Address, Fingerprint, ShownFingerprint
from pontifex.connectors.cloud import CloudAccess
from pontifex.core.kinds.fields import ONE_LINE
from pontifex.services.cloud_accounts import CloudAccountService, CloudAccountShown
from pontifex.services.clouds import CloudService, CloudsShown

router = APIRouter(prefix="/api/designs/{design_id}/clouds", tags=["clouds"], responses={**REFUSALS, **CONFLICT})

Account = Annotated[str, Field(title="Account", min_length=1, max_length=200, pattern=ONE_LINE, examples=["skerry-booking"])]
_REACHED: Final[dict[str, Any]] = {
    "account": "skerry-booking",
    "address": "192.0.2.140:443",
    "token": "a token of its own",
    "fingerprint": "5C:E2:B1:D9",
}


class CloudAsked(BaseModel):
    """A cloud that is to show itself."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"address": "192.0.2.140:443"}]})
    address: Address


class NewCloudAccount(CloudAsked):
    """How an account of a cloud is to be reached."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [_REACHED]})
    account: Account
    token: SecretStr = Field(title="Token", min_length=1, max_length=4000)
    fingerprint: Fingerprint


class AccountsToRead(BaseModel):
    """Accounts that are to be read."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"accounts": ["skerry-booking"]}]})
    accounts: tuple[Account, ...] = Field(default=(), title="Accounts", description="Empty for all.", max_length=1000)


class StepToTake(BaseModel):
    """A step that is to be taken."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"key": "accept/basalt-gneiss"}]})
    key: str = Field(title="Key", description="Of the step.", max_length=400, pattern=ONE_LINE)


def _accounts(request: Request) -> CloudAccountService:
    service: CloudAccountService = request.app.state.cloud_accounts
    return service


async def _shown(request: Request, designs: Designs, design_id: str) -> Response:
    design = await run_in_threadpool(designs.get, design_id)
    return json_answer(await run_in_threadpool(_accounts(request).accounts, design))


@router.get("", responses=answered(CloudsShown), summary="The clouds of a design")
async def read_clouds(ask: Ask, request: Request, design_id: DesignId) -> Response:
    """Return what is intended of each cloud network, what it was read to hold, and the steps between the two."""
    readings = await run_in_threadpool(_accounts(request).readings, design_id)
    return await ask(CloudService.shown, design_id, readings)


@router.get("/accounts", responses=answered(list[CloudAccountShown]), summary="The accounts of a design's clouds")
async def read_accounts(request: Request, designs: Designs, design_id: DesignId) -> Response:
    """Return how accounts are reached, and when they were read, without what opens them."""
    return await _shown(request, designs, design_id)


@router.post("/shown", responses=answered(ShownFingerprint), summary="What a cloud shows")
async def read_cloud_fingerprint(request: Request, designs: Designs, design_id: DesignId, asked: CloudAsked) -> Response:
    """Return the fingerprint that a cloud shows, to be compared with its own. Nothing is kept."""
    await run_in_threadpool(designs.standing, design_id)
    return json_answer(ShownFingerprint(fingerprint=await run_in_threadpool(_accounts(request).fingerprint, asked.address)))


@router.put("/access", responses=answered(list[CloudAccountShown]), summary="Say how an account is reached")
async def keep_account(request: Request, designs: Designs, design_id: DesignId, person: Person, way: NewCloudAccount) -> Response:
    """Keep how an account is reached; its token goes into the vault, and comes out of it only to that cloud."""
    access = CloudAccess(
        account=way.account, address=way.address, fingerprint=way.fingerprint, token=way.token.get_secret_value()
    )
    design = await run_in_threadpool(designs.get, design_id)
    await run_in_threadpool(_accounts(request).keep_access, design, access, person)
    return await _shown(request, designs, design_id)


@router.delete("/access", status_code=204, response_class=Response, summary="Forget how an account is reached")
async def forget_account(
    request: Request, designs: Designs, design_id: DesignId, account: Annotated[str, Query(max_length=200, pattern=ONE_LINE)]
) -> Response:
    """Forget how an account is reached, and what opens it."""
    await run_in_threadpool(designs.standing, design_id)
    await run_in_threadpool(_accounts(request).forget_access, design_id, account)
    return Response(status_code=204)


@router.post("/readings", responses=answered(list[CloudAccountShown]), summary="Read accounts")
async def read_what_is_held(
    request: Request, designs: Designs, design_id: DesignId, person: Person, asked: AccountsToRead
) -> Response:
    """Read what accounts hold now, and keep it."""
    design = await run_in_threadpool(designs.get, design_id)
    await run_in_threadpool(_accounts(request).read, design, asked.accounts, person)
    return await _shown(request, designs, design_id)


@router.post("/steps", responses=answered(list[CloudAccountShown]), summary="Take a step at a cloud")
async def take_step(request: Request, designs: Designs, design_id: DesignId, person: Person, wanted: StepToTake) -> Response:
    """Take a step that is due, and read the accounts that it concerns again."""
    design = await run_in_threadpool(designs.get, design_id)
    await run_in_threadpool(_accounts(request).take, design, wanted.key, person)
    return await _shown(request, designs, design_id)
