"""A template of one's own: text for the devices that stand at the sites, filled in from the design."""

from __future__ import annotations

from typing import Annotated, Final

from pydantic import Field, StringConstraints

from pontifex.core.kinds.fields import Remark
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType

MOST_TEMPLATE: Final = 100_000  # characters
TemplateText = Annotated[str, StringConstraints(max_length=MOST_TEMPLATE, pattern=r"^[^\x00-\x08\x0b\x0c\x0e-\x1f\x7f]*$")]


class Template(DesignMember):
    """A text with gaps that a gateway's part of the design fills in."""

    text: TemplateText = Field(title="Text", description="With {{ values }} and {% for … %}, in a sandbox.")
    remark: Remark = Field(default="", title="Remark", description="For which devices it is.")


TEMPLATE: Final = Kind(ObjectType.TEMPLATE, Template, "templates", "Templates", Group.HANDOVER)
