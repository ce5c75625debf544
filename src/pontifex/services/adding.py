"""Adding many things as one change: sites by their lines, and the tunnels that connect them."""

from __future__ import annotations

from uuid import UUID

from pontifex.core.connecting import Connect, plan_connections
from pontifex.core.errors import NotAccepted
from pontifex.core.starting import StartText, plan_sites
from pontifex.services.designs import ChangeResult, DesignService
from pontifex.services.keys import KeyService
from pontifex.store import Standing


class NothingToAdd(NotAccepted):
    """What was asked for comes down to nothing."""

    title = "Nothing to add"


def add_sites(
    designs: DesignService, base: Standing, start: StartText, author: str, change_id: UUID | None = None
) -> ChangeResult:
    """Add the sites of all lines that can be taken. Raise NothingToAdd where none can."""
    plan, operations = plan_sites(designs.get(base.design_id), start)
    if not operations:
        raise NothingToAdd("no line of it adds anything")
    what = f"{_counted(plan.sites, 'site')} and {_counted(plan.networks, 'network')}"
    return designs.change(base, operations, f"Add {what}", author, change_id)


def connect_sites(
    designs: DesignService, keys: KeyService, base: Standing, request: Connect, author: str, change_id: UUID | None = None
) -> ChangeResult:
    """Connect sites, with keys of their own. Raise NotConnectable, and NothingToAdd where no pair can be joined."""
    design = designs.get(base.design_id)
    plan, _ = plan_connections(design, request)
    if not plan.made:
        raise NothingToAdd("none of these sites can be joined")
    _, operations = plan_connections(design, request, keys.generate_several(design, plan.keys) if plan.keys else ())
    return designs.change(base, operations, f"Connect sites by {_counted(plan.made, 'tunnel')}", author, change_id)


def _counted(count: int, what: str) -> str:
    return f"{count:,} {what}" if count == 1 else f"{count:,} {what}s"
