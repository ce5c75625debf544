"""PostgreSQL through SQLAlchemy: tables, the one repository for writes with its change log, and the vault for keys.

All SQL is here. `core.model` is all of the core that this package knows.
"""

from pontifex.store.change_log import ChangeKind, LoggedChange
from pontifex.store.designs import (
    MOST_FIELDS,
    AppliedChange,
    Archived,
    ChangeConflict,
    DesignRepository,
    DesignState,
    NothingToUndo,
    OnceOnly,
)
from pontifex.store.errors import DesignExists, DesignNotFound
from pontifex.store.listing import DesignListing, DesignSummary
from pontifex.store.master_key import MasterKeyError, MasterKeyFile
from pontifex.store.vault import KeyAlreadyShown, KeyNotHere, Vault

__all__ = [
    "MOST_FIELDS",
    "AppliedChange",
    "Archived",
    "ChangeConflict",
    "ChangeKind",
    "DesignExists",
    "DesignListing",
    "DesignNotFound",
    "DesignRepository",
    "DesignState",
    "DesignSummary",
    "KeyAlreadyShown",
    "KeyNotHere",
    "LoggedChange",
    "MasterKeyError",
    "MasterKeyFile",
    "NothingToUndo",
    "OnceOnly",
    "Vault",
]
