"""Use cases: load a design, apply changes, run and keep analyses, set and show keys."""

from pontifex.services.analyses import AnalysisService
from pontifex.services.clouds import CloudService
from pontifex.services.connecting import ConnectingService
from pontifex.services.designs import ChangeResult, DesignService, History
from pontifex.services.forms import FormService
from pontifex.services.handover import HandoverService
from pontifex.services.kept import KeptDesigns
from pontifex.services.keys import KeyService
from pontifex.services.paths import PathsService
from pontifex.services.profiles import ProfileService
from pontifex.services.records import RecordServices
from pontifex.services.rehearsals import RehearsalService
from pontifex.services.space import SpaceService

__all__ = [
    "AnalysisService",
    "ChangeResult",
    "CloudService",
    "ConnectingService",
    "DesignService",
    "FormService",
    "HandoverService",
    "History",
    "KeptDesigns",
    "KeyService",
    "PathsService",
    "ProfileService",
    "RecordServices",
    "RehearsalService",
    "SpaceService",
]
