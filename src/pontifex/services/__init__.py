"""Use cases: load a design, apply changes, run and keep analyses, set and show keys."""

from pontifex.services.designs import ChangeResult, DesignService, DesignSummary, History
from pontifex.services.keys import KeyService

__all__ = ["ChangeResult", "DesignService", "DesignSummary", "History", "KeyService"]
