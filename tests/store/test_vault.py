"""The vault."""

from __future__ import annotations

from datetime import timedelta
from uuid import uuid4

import pytest
from sqlalchemy import func, select, update

from pontifex.core.kinds import Side
from pontifex.core.model import put
from pontifex.demo import DEMO_ID, demo_design
from pontifex.store import ChangeKind, DesignRepository, DesignState, KeyAlreadyShown, KeyNotHere, Vault, tables
from tests.support.sessions import MASTER_KEY

SECRET = "Kite-Anchor-7319 "


@pytest.fixture
def vault(engine):
    """A vault beside the demo."""
    DesignRepository(engine).create(demo_design())
    return Vault(engine, MASTER_KEY)


def test_a_key_is_kept_encrypted_and_shown_once(vault, engine):
    """The key's octets are nowhere in its row; it is shown once, blanks included; the second time says to whom it was."""
    reference = uuid4()
    vault.keep("skerry-line", reference, SECRET)
    with engine.connect() as connection:
        row = connection.execute(select(tables.vault_key)).one()
    assert SECRET.strip().encode() not in b"".join(str(value).encode() for value in row)
    assert vault.reveal_once("skerry-line", reference, "ann") == SECRET
    with pytest.raises(KeyAlreadyShown, match="to ann; set or generate a new one"):
        vault.reveal_once("skerry-line", reference, "ben")
    with pytest.raises(KeyNotHere, match="set it again"):
        vault.reveal_once("skerry-line", uuid4(), "ben")


def test_another_master_key_shows_nothing(vault, engine):
    """Under another master key, or in another row, a key can't be read; and the error doesn't hold it."""
    one, other = uuid4(), uuid4()
    vault.keep("skerry-line", one, SECRET)
    with pytest.raises(KeyNotHere) as caught:
        Vault(engine, bytes(32)).reveal_once("skerry-line", one, "ann")
    assert SECRET.strip() not in str(caught.value)
    with engine.begin() as connection:
        connection.execute(update(tables.vault_key).values(reference=other))
    with pytest.raises(KeyNotHere):
        vault.reveal_once("skerry-line", other, "ann")


def test_keys_that_nothing_refers_to_are_forgotten(vault, engine):
    """A key of an end, one that an undo may bring back, and one made just now are kept; the others go."""
    repository = DesignRepository(engine)
    design = repository.load(DEMO_ID)
    tunnel = design.tunnel_by_id["harbour-brenna"]
    own, others = tunnel.left.key, design.tunnel_by_id["harbour-ostvik"].left.key
    assert own
    assert others
    of_an_end = others.reference
    undone, new, idle = uuid4(), uuid4(), uuid4()
    for reference in (of_an_end, undone, idle):
        vault.keep(DEMO_ID, reference, SECRET)
    changed = tunnel.with_end(Side.LEFT, key=own.changed(reference=undone))
    repository.change(DesignState(DEMO_ID, 0), [put(changed)], "another key", "ann")
    repository.step(DesignState(DEMO_ID, 1), ChangeKind.UNDO, "ann")
    with engine.begin() as connection:
        connection.execute(update(tables.vault_key).values(made_at=func.now() - timedelta(days=2)))
    vault.keep(DEMO_ID, new, SECRET)
    assert vault.purge() == 1
    assert vault.references(DEMO_ID) == {of_an_end, undone, new}
