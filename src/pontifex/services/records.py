"""The services that write beside the designs: runs of plans and readings, ways to devices, links for partners and to keys."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import Engine

from pontifex.services.devices import DeviceService
from pontifex.services.key_links import KeyLinkService
from pontifex.services.keys import KeyService
from pontifex.services.partners import PartnerService
from pontifex.services.runs import RunService
from pontifex.store import Vault
from pontifex.store.device_access import DeviceAccesses
from pontifex.store.hand_over import HandOverRecords
from pontifex.store.key_links import KeyLinks
from pontifex.store.partner_links import PartnerLinks


@dataclass(frozen=True, slots=True)
class RecordServices:
    """What is written of hand-overs."""

    runs: RunService
    partners: PartnerService
    key_links: KeyLinkService
    devices: DeviceService

    @classmethod
    def over(cls, engine: Engine, keys: KeyService, master_key: bytes) -> RecordServices:
        """Return the services over a database."""
        records = HandOverRecords(engine)
        runs = RunService(records)
        return cls(
            runs,
            PartnerService(PartnerLinks(engine), master_key),
            KeyLinkService(KeyLinks(engine), keys, master_key),
            DeviceService(DeviceAccesses(engine), Vault(engine, master_key), records, runs),
        )
