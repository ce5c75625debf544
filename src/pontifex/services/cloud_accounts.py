"""Use cases about accounts of clouds that are reached from here: read, and brought step by step to what is intended."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated
from uuid import uuid4

import structlog
from pydantic import Field

from pontifex.connectors.cloud import CloudAccess, carry_out, certificate_shown, read_account
from pontifex.core.clouds.resources import AccountState
from pontifex.core.clouds.steps import CloudStep, StepState, cloud_steps
from pontifex.core.errors import Conflict, NotFound
from pontifex.core.kinds import SIDES
from pontifex.core.model import Design
from pontifex.core.model.cloud_networks import cloud_networks_at
from pontifex.store import Vault
from pontifex.store.clouds import CloudRecords, KeptCloudAccess, NewCloudAccess


class AccountNotReached(NotFound):
    """Nobody has said how this account is reached, or the design has none of that name."""

    title = "No way to this account"


class StepNotDue(Conflict):
    """A step that can't be taken as the account was read last."""

    title = "This step is not due"


@dataclass(frozen=True, slots=True, kw_only=True)
class CloudAccountShown:
    """An account of the design's clouds, without what opens it."""

    account: str
    network_ids: tuple[str, ...]
    address: Annotated[str, Field(title="Host and port", description="Empty where nobody has said how it is reached.")]
    fingerprint: str
    made_by: str
    read_at: datetime | None
    read_by: str


class CloudAccountService:
    """All use cases about accounts of clouds that are reached from here."""

    def __init__(self, records: CloudRecords, vault: Vault) -> None:
        self._records, self._vault = records, vault
        self._log = structlog.get_logger("clouds")

    def accounts(self, design: Design) -> list[CloudAccountShown]:
        """Return the accounts of a design's cloud networks, in the order of their names."""
        accesses, readings = self._records.accesses(design.id), self._records.readings(design.id)
        found = []
        for account in _accounts(design):
            access, reading = accesses.get(account), readings.get(account)
            found.append(
                CloudAccountShown(
                    account=account,
                    network_ids=tuple(network.id for network in design.cloud_networks if network.owner == account),
                    address=access.address if access else "",
                    fingerprint=access.fingerprint if access else "",
                    made_by=access.made_by if access else "",
                    read_at=reading.taken_at if reading else None,
                    read_by=reading.taken_by if reading else "",
                )
            )
        return found

    def readings(self, design_id: str) -> dict[str, AccountState]:
        """Return what was read last of each account."""
        kept = self._records.readings(design_id)
        return {account: AccountState.model_validate(reading.document) for account, reading in kept.items()}

    def fingerprint(self, address: str) -> str:
        """Return what a cloud shows, to be compared. Raise CloudSilent."""
        return certificate_shown(address)

    def keep_access(self, design: Design, access: CloudAccess, person: str) -> None:
        """Keep how an account is reached, and its token in the vault. Raise AccountNotReached."""
        if access.account not in _accounts(design):
            raise AccountNotReached(f"no cloud network of this design is of the account '{access.account}'")
        reference = uuid4()
        self._vault.keep(design.id, reference, access.token)
        new = NewCloudAccess(
            account=access.account,
            address=access.address,
            fingerprint=access.fingerprint,
            secret_reference=reference,
            made_by=person,
        )
        self._records.keep_access(design.id, new)
        self._log.info("way to an account kept", design=design.id, account=access.account, person=person)

    def forget_access(self, design_id: str, account: str) -> None:
        """Forget how an account is reached."""
        self._records.forget_access(design_id, account)

    def read(self, design: Design, accounts: Sequence[str], person: str) -> None:
        """Read accounts, and keep what they hold; without any named, all that are reached from here."""
        accesses = self._records.accesses(design.id)
        for account in accounts or [text for text in _accounts(design) if text in accesses]:
            state = read_account(self._access(design, accesses, account))
            self._records.keep_reading(design.id, account, state.model_dump(mode="json"), person)

    def take(self, design: Design, key: str, person: str) -> None:
        """Take a step that is due, and read the accounts that it concerns again. Raise StepNotDue, AccountNotReached."""
        accesses = self._records.accesses(design.id)
        step = self._due(design, key)
        access = self._access(design, accesses, step.account)
        assert step.change is not None  # as each step that is due has
        self._log.info("step taken at a cloud", design=design.id, account=step.account, step=key, person=person)
        try:
            carry_out(access, step.change)
        finally:
            self.read(design, [text for text in _concerned(design, step) if text in accesses], person)

    def _due(self, design: Design, key: str) -> CloudStep:
        step = next((cloud_step for cloud_step in cloud_steps(design, self.readings(design.id)) if cloud_step.key == key), None)
        if step is None or step.state is StepState.DONE:
            raise StepNotDue("it is done already, or not asked for any more")
        if step.state is not StepState.DUE:
            raise StepNotDue(step.why or "another step comes first")
        return step

    def _access(self, design: Design, accesses: dict[str, KeptCloudAccess], account: str) -> CloudAccess:
        kept = accesses.get(account)
        if kept is None:
            raise AccountNotReached(f"nobody has said how the account '{account}' is reached; do so under Accounts")
        token = self._vault.used(design.id, kept.secret_reference)
        return CloudAccess(account=account, address=kept.address, fingerprint=kept.fingerprint, token=token)


def _accounts(design: Design) -> list[str]:
    return sorted({network.owner for network in design.cloud_networks})


def _concerned(design: Design, step: CloudStep) -> list[str]:
    """Return the accounts that see what comes of a step: both, where it is about a peering."""
    tunnel = design.tunnel_by_id.get(step.tunnel_id or "")
    beyond = [network for side in SIDES for network in cloud_networks_at(design, tunnel.end(side).gateway_id)] if tunnel else []
    return sorted({step.account, *(network.owner for network in beyond)})
