"""A stand-in for a person's device: it fetches its profile by its own token, applies it as its platform does, and reports."""

from __future__ import annotations

import ssl
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Final

import httpx
from joserfc.jwk import ECKey

from pontifex.core.choice import Choice
from pontifex.core.kinds import Ability, AuthMethod, Platform
from pontifex.core.people.abilities import lacking
from pontifex.core.people.profile_file import ForgedFile, ProfileFile, verified

PATIENCE_S: Final = 30.0
Dial = Callable[[ProfileFile], bool]  # whether a call with the end of a file comes through


class DeviceHabit(Choice):
    """What a device does beside what it should."""

    NONE = "none"
    KEEPS_OLD = "keeps-old"  # goes on with the first version that it applied for good
    OLD_SYSTEM = "old-system"  # its system is too old to prove itself by a certificate


@dataclass(frozen=True, slots=True)
class ProfileSource:
    """Where devices fetch their profiles: the address, the certificate that is found there, and who signs."""

    address: str
    certificate: str
    key: ECKey

    def client(self) -> httpx.Client:
        """Return a client that trusts this certificate alone."""
        context = ssl.create_default_context(cadata=self.certificate)
        return httpx.Client(base_url=self.address, verify=context, timeout=PATIENCE_S, trust_env=False)


_SYSTEMS: Final = {DeviceHabit.OLD_SYSTEM: "9.2"}
_USUAL_SYSTEM: Final = "14.1"


@dataclass
class PersonDevice:
    """One device, with the version of each profile that it has applied."""

    name: str
    platform: Platform
    habit: DeviceHabit
    token: str = field(repr=False)
    applied: dict[str, ProfileFile] = field(default_factory=dict)  # by the profile
    _seen: dict[str, int] = field(default_factory=dict)  # the version of each that it has dealt with

    def visit(self, source: ProfileSource, client: httpx.Client, dial: Dial) -> list[str]:
        """Ask what is offered, fetch what is new, apply it, dial with it and report; return what happened, a line each."""
        headers = {"Authorization": f"Bearer {self.token}"}
        answer = client.get("/profiles", headers=headers)
        answer.raise_for_status()
        done = []
        for offer in answer.json()["profiles"]:
            if self._seen.get(offer["profile"]) != offer["version"]:
                done.append(self._take(source, client, headers, str(offer["profile"]), dial))
                self._seen[offer["profile"]] = offer["version"]
        return done

    def _take(self, source: ProfileSource, client: httpx.Client, headers: dict[str, str], profile: str, dial: Dial) -> str:
        answer = client.get(f"/profiles/{profile}", headers=headers)
        answer.raise_for_status()
        try:
            file = verified(answer.text, source.key)
        except ForgedFile as forged:
            return f"{self.name}: left alone: {forged}"
        why = self._refuses(file)
        if why:
            report: dict[str, object] = {"version": file.version, "active": False, "reason": why}
        else:
            if self.habit is DeviceHabit.KEEPS_OLD:
                file = self.applied.get(profile, file)
            self.applied[profile] = file
            report = {"version": file.version, "active": True, "dialled": dial(file)}
        report["platform_version"] = _SYSTEMS.get(self.habit, _USUAL_SYSTEM)
        client.post(f"/profiles/{profile}/report", headers=headers, json=report).raise_for_status()
        return f"{self.name}: version {file.version} {f'refused: {why}' if why else 'active'}"

    def _refuses(self, file: ProfileFile) -> str:
        """Why the device can't do what a file asks; empty where it can."""
        if self.habit is DeviceHabit.OLD_SYSTEM and file.device_end.local_auth is AuthMethod.CERTIFICATE:
            return f"{Ability.CERTIFICATE.label} needs a newer system"
        return ", ".join(lack.asked.ability.label for lack in lacking(file, self.platform))
