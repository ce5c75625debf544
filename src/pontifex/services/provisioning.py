"""Use cases of people's devices themselves: what is offered to them, a version as it was signed, and what they report."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

import structlog
from pydantic import Field, StringConstraints

from pontifex.core.errors import FieldRefused, NotDone, NotFound
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds.fields import ONE_LINE
from pontifex.core.people.rollout import RolloutStage, offered
from pontifex.services.rollouts import token_hash
from pontifex.store.rollouts import DeviceIdentity, DeviceStatement, Offering, RolloutRecords

OneLine = Annotated[str, StringConstraints(strip_whitespace=True, max_length=200, pattern=ONE_LINE)]


class UnknownToken(NotDone):
    """Nobody has this token."""

    status = 401
    title = "Nobody of this token"


class NotOffered(NotFound):
    """The device is offered nothing of this profile."""

    title = "Nothing is offered"


class DeviceSays(FrozenModel):
    """What a device reports of a profile."""

    version: int = Field(title="Version", ge=1)
    active: bool = Field(title="Active", description="False where the device refuses it.")
    reason: OneLine = Field(default="", title="Why it is refused")
    dialled: bool | None = Field(default=None, title="Its call came through")
    platform_version: OneLine = Field(default="", title="Version of its platform")


@dataclass(frozen=True, slots=True)
class OfferedProfile:
    """A profile that a device is offered."""

    profile: str
    version: int


class ProvisioningService:
    """What a device may ask, by its token alone."""

    def __init__(self, records: RolloutRecords) -> None:
        self._records = records
        self._log = structlog.get_logger("people")

    def device_of(self, token: str) -> DeviceIdentity:
        """Return whose token it is. Raise UnknownToken."""
        found = self._records.device_of_token(token_hash(token))
        if found is None:
            raise UnknownToken("nobody has this token, or its device was removed")
        return found

    def offers(self, caller: DeviceIdentity) -> list[OfferedProfile]:
        """Return what a device is offered: of each profile that is for its group, as it was signed."""
        found = []
        for offering in self._records.offerings(caller.design_id, caller.device.id):
            if caller.device.team in offering.groups:
                version = offered(offering.rollout, self._place(caller, offering), offering.report)
                found += [OfferedProfile(offering.profile_id, version)] if version else []
        return found

    def _place(self, caller: DeviceIdentity, offering: Offering) -> int:
        """Return the device's place among those that a profile is for; it decides only while few are the first."""
        if offering.rollout.stage is not RolloutStage.FIRST:
            return 0
        return self._records.place_of(caller.design_id, caller.device.id, offering.groups)

    def fetch(self, caller: DeviceIdentity, profile_id: str) -> str:
        """Return the version that a device is offered, as it was signed, and note that it was fetched. Raise NotOffered."""
        number = next((offer.version for offer in self.offers(caller) if offer.profile == profile_id), None)
        version = self._records.version(caller.design_id, profile_id, number) if number else None
        if version is None:
            raise NotOffered("this device is offered nothing of this profile")
        self._records.report(caller.design_id, caller.device.id, profile_id, {"fetched": version.number})
        return version.signed

    def report(self, caller: DeviceIdentity, profile_id: str, says: DeviceSays) -> None:
        """Note what a device says. Raise FieldRefused where it speaks of a version that nobody signed."""
        if says.version not in self._records.numbers(caller.design_id, profile_id):
            raise FieldRefused("version", f"there is no version {says.version} of this profile")
        said: DeviceStatement = {"platform_version": says.platform_version, "dialled": says.dialled}
        if says.active:
            said |= {"active": says.version, "refused": None, "reason": ""}
        else:
            said |= {"refused": says.version, "reason": says.reason}
        self._records.report(caller.design_id, caller.device.id, profile_id, said)
        self._log.debug("device reported", design=caller.design_id, device=str(caller.device.id), active=says.active)
