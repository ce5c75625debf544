"""The services that write beside the designs: runs and readings, ways to devices and clouds, links, and roll-outs of profiles."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import Engine

from pontifex.services.cloud_accounts import CloudAccountService
from pontifex.services.devices import DeviceService
from pontifex.services.key_links import KeyLinkService
from pontifex.services.keys import KeyService
from pontifex.services.partners import PartnerService
from pontifex.services.provisioning import ProvisioningService
from pontifex.services.rollouts import RolloutService
from pontifex.services.runs import RunService
from pontifex.store import Vault
from pontifex.store.clouds import CloudRecords
from pontifex.store.device_access import DeviceAccesses
from pontifex.store.hand_over import HandOverRecords
from pontifex.store.key_links import KeyLinks
from pontifex.store.partner_links import PartnerLinks
from pontifex.store.rollouts import RolloutRecords


@dataclass(frozen=True, slots=True)
class RecordServices:
    """What is written of hand-overs and roll-outs."""

    runs: RunService
    partners: PartnerService
    key_links: KeyLinkService
    devices: DeviceService
    rollouts: RolloutService
    provisioning: ProvisioningService
    cloud_accounts: CloudAccountService

    @classmethod
    def over(cls, engine: Engine, keys: KeyService, master_key: bytes) -> RecordServices:
        """Return the services over a database."""
        records = HandOverRecords(engine)
        runs, rollouts = RunService(records), RolloutRecords(engine)
        return cls(
            runs,
            PartnerService(PartnerLinks(engine), master_key),
            KeyLinkService(KeyLinks(engine), keys, master_key),
            DeviceService(DeviceAccesses(engine), Vault(engine, master_key), records, runs),
            RolloutService(rollouts, Vault(engine, master_key)),
            ProvisioningService(rollouts),
            CloudAccountService(CloudRecords(engine), Vault(engine, master_key)),
        )
