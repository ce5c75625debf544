"""Devices that are reached from here: how, what they run, and what is entered at them."""

from __future__ import annotations

from typing import Annotated, Any, Final

from fastapi import APIRouter, Path, Request
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field, SecretStr
from starlette.concurrency import run_in_threadpool

from pontifex.api.answers import CONFLICT, REFUSALS, DesignId, Designs, Person, answered, json_answer
from pontifex.api.handover import RunId
from pontifex.api.space import ObjectPath
from pontifex.connectors import DeviceAccess, DeviceProtocol
from pontifex.core.handover.readings import Reading
from pontifex.core.kinds.fields import ONE_LINE
from pontifex.services.devices import AccessShown, DeviceAct, DeviceService, Entered
from pontifex.services.runs import ProbePhase, RunShown

router = APIRouter(prefix="/api/designs/{design_id}", tags=["devices"], responses={**REFUSALS, **CONFLICT})

_ADDRESS: Final = r"^(\[[0-9a-fA-F:.]{2,45}\]|[A-Za-z0-9.-]{1,253}):[0-9]{1,5}$"
_REACHED: Final[dict[str, Any]] = {
    "protocol": "restconf",
    "address": "192.0.2.130:443",
    "user": "pontifex",
    "secret": "a password of its own",
    "fingerprint": "5C:E2:B1:D9",
}
_TRIED: Final[dict[str, Any]] = {"tries": "ping 10.64.8.10 from 10.65.0.10", "phase": "before"}
Fingerprint = Annotated[
    str,
    Field(
        title="Fingerprint", description="What it shows, once it was compared.", min_length=8, max_length=200, pattern=ONE_LINE
    ),
]
Address = Annotated[str, Field(title="Host and port", max_length=260, pattern=_ADDRESS, examples=["192.0.2.130:443"])]


class ShownFingerprint(BaseModel):
    """What a device shows to whoever connects."""

    fingerprint: str = Field(title="SHA-256 of its certificate or host key")


class DeviceAsked(BaseModel):
    """A device that is to show itself."""

    model_config = ConfigDict(
        extra="forbid", json_schema_extra={"examples": [{"protocol": "restconf", "address": "192.0.2.1:443"}]}
    )
    protocol: DeviceProtocol
    address: Address


class NewDevice(DeviceAsked):
    """How a device is to be reached."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [_REACHED]})
    user: str = Field(title="User", min_length=1, max_length=80, pattern=ONE_LINE)
    secret: SecretStr = Field(title="Password or private key", min_length=1, max_length=20_000)
    fingerprint: Fingerprint


class SettingPaths(BaseModel):
    """Settings of a device that are to be as the design intends."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"paths": ["gateway/ostvik-gateway/forwarding"]}]})
    paths: list[Annotated[str, Field(max_length=300, pattern=ONE_LINE)]] = Field(
        title="SettingPaths", min_length=1, max_length=1000
    )


class StepMade(BaseModel):
    """A step that is to be made at its device."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"seen": 0, "back": False}]})
    seen: int = Field(title="Seen", description="How many lines of the log the person has seen.", ge=0, le=100_000)
    back: bool = Field(default=False, title="Back", description="It is taken back.")


def _devices(request: Request) -> DeviceService:
    service: DeviceService = request.app.state.devices
    return service


@router.get("/devices", responses=answered(list[AccessShown]), summary="How devices are reached")
async def read_accesses(request: Request, designs: Designs, design_id: DesignId) -> Response:
    """Return how the gateways of a design are reached, without what opens them."""
    await run_in_threadpool(designs.standing, design_id)
    return json_answer(await run_in_threadpool(_devices(request).accesses, design_id))


@router.post("/devices/shown", responses=answered(ShownFingerprint), summary="What a device shows")
async def read_fingerprint(request: Request, designs: Designs, design_id: DesignId, asked: DeviceAsked) -> Response:
    """Return the fingerprint that a device shows, to be compared with its own. Nothing is kept."""
    await run_in_threadpool(designs.standing, design_id)
    found = await run_in_threadpool(_devices(request).fingerprint, asked.protocol, asked.address)
    return json_answer(ShownFingerprint(fingerprint=found))


@router.put("/gateways/{gateway_id}/device", responses=answered(AccessShown), summary="Say how a device is reached")
async def keep_access(
    request: Request, designs: Designs, design_id: DesignId, gateway_id: ObjectPath, person: Person, way: NewDevice
) -> Response:
    """Keep how a gateway is reached; its secret goes into the vault, and comes out of it only to that device."""
    access = DeviceAccess(
        protocol=way.protocol,
        address=way.address,
        user=way.user,
        secret=way.secret.get_secret_value(),
        fingerprint=way.fingerprint,
    )

    def kept() -> AccessShown:
        return _devices(request).keep_access(designs.get(design_id), gateway_id, access, person)

    return json_answer(await run_in_threadpool(kept))


@router.delete("/gateways/{gateway_id}/device", status_code=204, summary="Forget how a device is reached")
async def forget_access(request: Request, designs: Designs, design_id: DesignId, gateway_id: ObjectPath) -> Response:
    """Forget how a gateway is reached, and what opens it."""
    await run_in_threadpool(designs.standing, design_id)
    await run_in_threadpool(_devices(request).forget_access, design_id, gateway_id)
    return Response(status_code=204)


@router.post("/gateways/{gateway_id}/device/settings", responses=answered(Entered), summary="Enter settings at a device")
async def enter_settings(
    request: Request, designs: Designs, design_id: DesignId, gateway_id: ObjectPath, person: Person, wanted: SettingPaths
) -> Response:
    """Enter what the design intends, read it back, and say what the device didn't take."""

    def entered() -> Entered:
        return _devices(request).enter(designs.get(design_id), gateway_id, wanted.paths, person)

    return json_answer(await run_in_threadpool(entered))


@router.post("/gateways/{gateway_id}/device/{act}", responses=answered(Reading), summary="Read a device, let it save or restart")
async def act_at_device(
    request: Request, designs: Designs, design_id: DesignId, gateway_id: ObjectPath, act: DeviceAct, person: Person
) -> Response:
    """Read what a device runs and keeps, let it keep what it runs, or restart it; the reading after that is kept."""
    design = await run_in_threadpool(designs.get, design_id)
    return json_answer(await run_in_threadpool(_devices(request).act, design, gateway_id, act, person))


@router.post("/runs/{run_id}/steps/{step}/made", responses=answered(RunShown), summary="Make a step at its device")
async def make_step(
    request: Request,
    designs: Designs,
    design_id: DesignId,
    run_id: RunId,
    step: Annotated[int, Path(ge=1, le=100_000)],
    person: Person,
    made: StepMade,
) -> Response:
    """Enter a step of a run at its device, or take it back; what is read back decides how it is ticked."""

    def applied() -> RunShown:
        return _devices(request).apply(designs.get(design_id), run_id, step, made.seen, made.back, person)

    return json_answer(await run_in_threadpool(applied))


class StepTried(BaseModel):
    """A step that is to be tried out at its device."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"seen": 0}]})
    seen: int = Field(title="Seen", description="How many lines of the log the person has seen.", ge=0, le=100_000)


class WouldEnter(BaseModel):
    """What a step would enter."""

    lines: tuple[str, ...] = Field(title="In the device's own words")


@router.post("/runs/{run_id}/steps/{step}/tried", responses=answered(WouldEnter), summary="Try a step out at its device")
async def try_step(
    request: Request,
    designs: Designs,
    design_id: DesignId,
    run_id: RunId,
    step: Annotated[int, Path(ge=1, le=100_000)],
    tried: StepTried,
) -> Response:
    """Return what a step would enter, where its device would take it; nothing is entered, and nothing is ticked."""
    design = await run_in_threadpool(designs.get, design_id)
    lines = await run_in_threadpool(_devices(request).try_step, design, run_id, step, tried.seen)
    return json_answer(WouldEnter(lines=lines))


class PairTried(BaseModel):
    """A pair that is to be tried from the gateway at its beginning."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [_TRIED]})
    tries: str = Field(title="What is tried", max_length=200)
    phase: ProbePhase


@router.post("/runs/{run_id}/probes/made", responses=answered(RunShown), summary="Try a pair from its gateway")
async def try_pair(
    request: Request, designs: Designs, design_id: DesignId, run_id: RunId, person: Person, pair: PairTried
) -> Response:
    """Try a pair from the gateway at its beginning, and keep what was seen, held against what the trace says."""

    def tried() -> RunShown:
        return _devices(request).try_pair(designs.get(design_id), run_id, pair.tries, pair.phase, person)

    return json_answer(await run_in_threadpool(tried))
