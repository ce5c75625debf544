"""An acceptance: somebody lives with a finding until a day, and says why."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Final

from pydantic import Field, StringConstraints

from pontifex.core.kinds.fields import ONE_LINE, ObjectId
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType

FindingCode = Annotated[str, StringConstraints(pattern=r"^[a-z0-9-]+(\.[a-z0-9-]+)+$", max_length=64)]
Reason = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200, pattern=ONE_LINE)]


class Acceptance(DesignMember):
    """A finding that is known and lived with. When its day has passed, the finding is due again."""

    code: FindingCode = Field(title="Finding", description="The code of what is accepted.", examples=["algorithm.weak"])
    at_type: ObjectType = Field(title="At", description="The type of the object that it is about.")
    at_id: ObjectId = Field(title="Object")
    at_field: str = Field(default="", title="Field", max_length=120, pattern=ONE_LINE)
    reason: Reason = Field(title="Reason")
    until: date = Field(title="Until", description="The last day of it.")
    accepted_by: str = Field(default="", title="Accepted by", max_length=80, pattern=ONE_LINE)


ACCEPTANCE: Final = Kind(ObjectType.ACCEPTANCE, Acceptance, "acceptances", "Acceptances", Group.WORKLIST)
