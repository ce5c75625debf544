"""A site: a place with networks and gateways."""

from __future__ import annotations

from typing import Final

from pydantic import Field

from pontifex.core.choice import Choice
from pontifex.core.kinds.fields import Remark
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType


class SiteKind(Choice):
    """What a site is."""

    OFFICE = "office"
    DATA_CENTRE = "data-centre"
    CLOUD = "cloud"
    VEHICLE = "vehicle"
    HOME = "home"
    PARTNER = "partner"


class Site(DesignMember):
    """A place with networks and gateways."""

    kind: SiteKind = Field(default=SiteKind.OFFICE, title="Kind")
    organisation: Remark = Field(default="", title="Organisation", description="Who runs it.")
    place: Remark = Field(default="", title="Place")
    region: Remark = Field(default="", title="Region", description="A tag that rules may ask for.")


SITE: Final = Kind(ObjectType.SITE, Site, "sites", "Sites", Group.PLACES, searched=("kind",))
