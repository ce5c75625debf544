"""A list of prefixes that somebody brings, such as those of a region: it was true on a day."""

from __future__ import annotations

from datetime import date
from typing import Final

from pydantic import Field

from pontifex.core.addressing import Prefix
from pontifex.core.kinds.fields import Remark
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType


class PrefixList(DesignMember):
    """Prefixes that rules may name together."""

    prefixes: tuple[Prefix, ...] = Field(default=(), title="Prefixes", max_length=20_000)
    as_of: date | None = Field(default=None, title="As of", description="The day on which it was true.")
    source: Remark = Field(default="", title="Source", description="Who says so.")


PREFIX_LIST: Final = Kind(ObjectType.PREFIX_LIST, PrefixList, "prefix_lists", "Prefix lists", Group.PATHS)
