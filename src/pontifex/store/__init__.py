"""PostgreSQL through SQLAlchemy: tables, the one repository for writes with its change log, and the vault for keys.

All SQL is here. `core.model` is all of the core that this package knows.
"""

from pontifex.store.designs import (
    MOST_FIELDS,
    AppliedChange,
    ChangeConflict,
    ChangeKind,
    DesignRepository,
    LoggedChange,
    NothingToUndo,
)
from pontifex.store.errors import DesignExists, DesignNotFound
from pontifex.store.vault import KeyAlreadyShown, KeyNotHere, MasterKeyError, Vault, load_master_key

__all__ = [
    "MOST_FIELDS",
    "AppliedChange",
    "ChangeConflict",
    "ChangeKind",
    "DesignExists",
    "DesignNotFound",
    "DesignRepository",
    "KeyAlreadyShown",
    "KeyNotHere",
    "LoggedChange",
    "MasterKeyError",
    "NothingToUndo",
    "Vault",
    "load_master_key",
]
