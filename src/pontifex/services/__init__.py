"""Use cases: load a design, apply changes, run and keep analyses, set and show keys.

Here are those that the first page of the product needs. The others load the computing core, and are in modules of their own.
"""

from pontifex.services.designs import ChangeResult, DesignService, History
from pontifex.services.kept import KeptDesigns
from pontifex.services.keys import KeyService

__all__ = ["ChangeResult", "DesignService", "History", "KeptDesigns", "KeyService"]
