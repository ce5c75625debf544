"""PostgreSQL through SQLAlchemy: tables, the one write door with its change log, and the vault for keys.

All SQL is here. `core.model` is all of the core that this package knows.
"""

from pontifex.store.door import MOST_FIELDS, ChangeConflict, ChangeKind, LoggedChange, NothingToUndo, WriteDoor, Written
from pontifex.store.errors import DesignExists, DesignNotFound
from pontifex.store.vault import KeyAlreadyShown, KeyNotHere, MasterKeyError, Vault, load_master_key

__all__ = [
    "MOST_FIELDS",
    "ChangeConflict",
    "ChangeKind",
    "DesignExists",
    "DesignNotFound",
    "KeyAlreadyShown",
    "KeyNotHere",
    "LoggedChange",
    "MasterKeyError",
    "NothingToUndo",
    "Vault",
    "WriteDoor",
    "Written",
    "load_master_key",
]
