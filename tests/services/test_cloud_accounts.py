"""Accounts of clouds in a real database: what opens them outlives the purge until the way there is forgotten."""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy import func, text, update

from pontifex.connectors.cloud import CloudAccess
from pontifex.demo import DEMO_ID, load_demo
from pontifex.demo.clouds import BOOKING
from pontifex.store import tables
from pontifex.store.clouds import CloudRecords

ACCESS = CloudAccess(account=BOOKING, address="127.0.0.1:1", fingerprint="00:11", token="a token of its own")


def test_a_token_is_purged_only_once_its_account_is_forgotten(designs, keys, records, engine):
    """However old it is: an account that is reached keeps its token; a newer token takes the place of the older one."""
    load_demo(designs, keys)
    design = designs.get(DEMO_ID)
    accounts = records.cloud_accounts
    accounts.keep_access(design, ACCESS, "ann")
    accounts.keep_access(design, ACCESS, "ben")
    with engine.begin() as connection:
        connection.execute(update(tables.vault_key).values(made_at=func.now() - timedelta(days=2)))
    assert keys.purge() == 1  # the older one
    shown = next(account for account in accounts.accounts(design) if account.account == BOOKING)
    assert (shown.address, shown.made_by) == (ACCESS.address, "ben")
    accounts.forget_access(DEMO_ID, BOOKING)
    assert keys.purge() == 1


def test_records_of_clouds_go_with_their_design(designs, keys, records, engine):
    """Nothing of how an account is reached, or of what was read there, is left without its design."""
    load_demo(designs, keys)
    records.cloud_accounts.keep_access(designs.get(DEMO_ID), ACCESS, "ann")
    CloudRecords(engine).keep_reading(DEMO_ID, BOOKING, {"account": BOOKING}, "ann")
    with engine.begin() as connection:
        connection.execute(text("delete from design"))
        for table in ("cloud_access", "cloud_reading"):
            assert connection.scalar(text(f"select count(*) from {table}")) == 0
