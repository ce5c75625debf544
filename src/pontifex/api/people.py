"""People over HTTP: profiles and their devices followed, lists of people, signed versions and roll-outs."""

from __future__ import annotations

from typing import Annotated, Any, Final
from uuid import UUID

from fastapi import APIRouter, Path, Query, Request
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field
from starlette.concurrency import run_in_threadpool

from pontifex.api.answers import CONFLICT, REFUSALS, DesignId, Designs, Person, answered, json_answer, json_octets_answer
from pontifex.api.asking import Ask
from pontifex.api.rehearsing import Asked
from pontifex.api.space import ObjectPath
from pontifex.core.kinds import PlatformFamily
from pontifex.core.kinds.fields import ONE_LINE
from pontifex.core.people import DeviceTrace, FlowTable
from pontifex.core.people.rollout import DeviceState, Rollout, RolloutAct
from pontifex.core.people.versions import VersionDifference
from pontifex.services.profiles import ProfileMatch, ProfileService
from pontifex.services.rehearsals import RehearsalService, RehearsalShown
from pontifex.services.rollouts import USUAL_FIRST, AddedDevices, RolloutService, RolloutShown, VersionShown

router = APIRouter(prefix="/api/designs/{design_id}", tags=["people"], responses={**REFUSALS, **CONFLICT})

_LIST: Final = "person,group,device,platform\nRuna Falk,Deck crew,tablet-1,tablet\n"
Number = Annotated[int, Path(title="Version", ge=1, le=1_000_000)]
Line = Annotated[str, Query(max_length=260, pattern=ONE_LINE)]


class ListOfPeople(BaseModel):
    """A list of people and their devices, as it was pasted."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"text": _LIST}]})
    text: str = Field(title="List", max_length=15_000_000)


class RemovedDevices(BaseModel):
    """Devices that are to be removed."""

    model_config = ConfigDict(extra="forbid")
    ids: tuple[UUID, ...] = Field(title="Ids", min_length=1, max_length=10_000)


class NewVersion(BaseModel):
    """A version that is to be signed."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"remark": "the cloud, too"}]})
    remark: str = Field(default="", title="Remark", max_length=200, pattern=ONE_LINE)


class RolloutChange(BaseModel):
    """What is to be done to a roll-out."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"act": "first", "version": 2, "first": 2}]})
    act: RolloutAct
    version: int | None = Field(default=None, title="Version", description="Without it, the newest, or the offered one.", ge=1)
    first: int = Field(default=USUAL_FIRST, title="How many are the first", ge=1, le=100_000)


class ProvisioningInfo(BaseModel):
    """Where devices fetch their profiles, and what they are to compare."""

    address: str
    fingerprint: str = Field(title="SHA-256 of the certificate")
    certificate: str = Field(title="Certificate, PEM")
    key: dict[str, Any] = Field(title="Public key of who signs profiles", description="A JWK (RFC 7517).")


def _rollouts(request: Request) -> RolloutService:
    service: RolloutService = request.app.state.rollouts
    return service


@router.get("/profiles/{profile_id}/match", responses=answered(ProfileMatch), summary="Both ends of a dialled-in tunnel")
async def read_profile_match(ask: Ask, design_id: DesignId, profile_id: ObjectPath) -> Response:
    """Compare the end of a device at home with the gateway's, as those of a tunnel."""
    return await ask(ProfileService.match, design_id, profile_id)


@router.get("/profiles/{profile_id}/rehearsal", responses=answered(RehearsalShown), summary="Rehearse the call of a device")
async def rehearse_profile(ask: Ask, design_id: DesignId, profile_id: ObjectPath, asked: Asked, at: Line = "home") -> Response:
    """Let a device dial in from a place in virtual time: the address that it is given, what both log, and how far it gets."""
    return json_octets_answer(await ask.answer(RehearsalService.dial_in, design_id, profile_id, at, asked))


@router.get("/profiles/{profile_id}/flows", responses=answered(FlowTable), summary="All flows of a profile")
async def read_flows(ask: Ask, design_id: DesignId, profile_id: ObjectPath) -> Response:
    """Return where devices send what is for each network, at every place and of every family."""
    return await ask(ProfileService.flows, design_id, profile_id)


@router.get("/profiles/{profile_id}/trace", responses=answered(DeviceTrace), summary="A person's device, followed")
async def read_journey(
    ask: Ask,
    design_id: DesignId,
    profile_id: ObjectPath,
    to: Line,
    at: Line = "home",
    family: PlatformFamily = PlatformFamily.DESKTOP,
    platform: Line = "",
    service: Line = "any",
    application: Line = "",
    leased_at: Annotated[int | None, Query(ge=0, title="Revision of its lease", description="The last one where empty.")] = None,
) -> Response:
    """Say what is dialled, who resolves the name, where it goes, and what once the tunnel drops or the lease is renewed."""
    asked = (design_id, profile_id, at, family, platform, to, service, application, leased_at)
    return await ask(ProfileService.device_trace, *asked)


@router.post("/people", responses=answered(AddedDevices), summary="Add people and their devices")
async def add_people(request: Request, designs: Designs, design_id: DesignId, person: Person, listed: ListOfPeople) -> Response:
    """Add the devices of a list, each with a token that is told once; lines with a fault are left out and told."""
    design = await run_in_threadpool(designs.get, design_id)
    return json_answer(await run_in_threadpool(_rollouts(request).add, design, listed.text, person))


@router.post("/people/removed", status_code=204, response_class=Response, summary="Remove devices")
async def remove_people(
    request: Request, designs: Designs, design_id: DesignId, person: Person, removed: RemovedDevices
) -> Response:
    """Remove devices: their tokens open nothing any more."""
    design = await run_in_threadpool(designs.get, design_id)
    await run_in_threadpool(_rollouts(request).remove, design, removed.ids, person)
    return Response(status_code=204)


@router.get("/people/provisioning", responses=answered(ProvisioningInfo | None), summary="Where devices fetch their profiles")
async def read_provisioning(request: Request, designs: Designs, design_id: DesignId) -> Response:
    """Return the address for devices, its certificate and who signs; null where devices aren't served."""
    server = request.app.state.device_server
    if server is None:
        return json_answer(None)
    design = await run_in_threadpool(designs.get, design_id)
    key = await run_in_threadpool(_rollouts(request).public_key, design)
    certificate = server.certificate
    return json_answer(
        ProvisioningInfo(
            address=server.address,
            fingerprint=certificate.fingerprint,
            certificate=certificate.pem,
            key=dict(key.as_dict(private=False)),
        )
    )


@router.get("/profiles/{profile_id}/rollout", responses=answered(RolloutShown), summary="A roll-out")
async def read_rollout(
    request: Request,
    designs: Designs,
    design_id: DesignId,
    profile_id: ObjectPath,
    state: DeviceState | None = None,
    begin: Annotated[int, Query(ge=0, le=1_000_000, title="First device", description="From 0.")] = 0,
) -> Response:
    """Return the versions of a profile, what is offered, and what has become of it at each device."""
    design = await run_in_threadpool(designs.get, design_id)
    return json_answer(await run_in_threadpool(_rollouts(request).shown, design, profile_id, state, begin))


@router.post("/profiles/{profile_id}/rollout", responses=answered(Rollout), summary="Begin, widen, stop or take back a roll-out")
async def change_rollout(
    request: Request, designs: Designs, design_id: DesignId, profile_id: ObjectPath, person: Person, change: RolloutChange
) -> Response:
    """Offer a version to a few or to all, to nobody more, or what was offered before to all again."""
    design = await run_in_threadpool(designs.get, design_id)
    rollouts = _rollouts(request)
    changed = await run_in_threadpool(rollouts.act, design, profile_id, change.act, person, change.version, change.first)
    return json_answer(changed)


@router.post(
    "/profiles/{profile_id}/versions",
    responses=answered(VersionShown, 201),
    status_code=201,
    summary="Sign a version of a profile",
)
async def sign_version(
    request: Request, designs: Designs, design_id: DesignId, profile_id: ObjectPath, person: Person, new: NewVersion
) -> Response:
    """Make a version of a profile as it stands, and sign it."""
    design = await run_in_threadpool(designs.get, design_id)
    made = await run_in_threadpool(_rollouts(request).sign, design, profile_id, new.remark, person)
    return json_answer(made, 201)


@router.get("/profiles/{profile_id}/versions/{number}/file", response_class=Response, summary="A version as it was signed")
async def read_version_file(
    request: Request, designs: Designs, design_id: DesignId, profile_id: ObjectPath, number: Number
) -> Response:
    """Return a version as a JWS in compact form (RFC 7515)."""
    design = await run_in_threadpool(designs.get, design_id)
    text = await run_in_threadpool(_rollouts(request).file, design, profile_id, number)
    headers = {"Content-Disposition": f'attachment; filename="{profile_id}-{number}.jose"', "Cache-Control": "no-store"}
    return Response(text, media_type="application/jose", headers=headers)


@router.get("/profiles/{profile_id}/versions/{number}/page", response_class=Response, summary="A version as a page to sign")
async def read_version_page(
    request: Request, designs: Designs, design_id: DesignId, profile_id: ObjectPath, number: Number
) -> Response:
    """Return what all devices are set to by a version, as a page that prints well, with the fingerprint of the signed file."""
    design = await run_in_threadpool(designs.get, design_id)
    page = await run_in_threadpool(_rollouts(request).page, design, profile_id, number)
    return Response(page, media_type="text/html; charset=utf-8", headers={"Cache-Control": "no-store"})


@router.get(
    "/profiles/{profile_id}/versions/{number}/difference",
    responses=answered(VersionDifference),
    summary="What differs between two versions",
)
async def read_version_difference(
    request: Request,
    designs: Designs,
    design_id: DesignId,
    profile_id: ObjectPath,
    number: Number,
    since: Annotated[int, Query(ge=1, le=1_000_000)],
) -> Response:
    """Return which fields differ since an earlier version, and what that means for traffic."""
    design = await run_in_threadpool(designs.get, design_id)
    return json_answer(await run_in_threadpool(_rollouts(request).difference, design, profile_id, since, number))
