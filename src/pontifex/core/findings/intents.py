"""Findings about what intents name, and the design doesn't hold."""

from __future__ import annotations

from collections.abc import Iterator

from pontifex.core.addressing import Prefix
from pontifex.core.catalogue import Code
from pontifex.core.findings.finding import Place, Remark, remark
from pontifex.core.kinds import Intent, ObjectType
from pontifex.core.model import Design
from pontifex.core.reasons import named, paths
from pontifex.core.routing import Tables
from pontifex.core.routing.wanted.blocks import parts_within
from pontifex.core.routing.wanted.exits import is_outside


def intent_findings(tables: Tables) -> Iterator[Remark]:
    """Yield prefixes and names of intents for which there is neither a network nor a host; prefixes outside aside."""
    design = tables.design
    for intent in design.intents:
        places = {
            "source_prefixes": (prefix for prefix in intent.source_prefixes if not any(parts_within(design, prefix))),
            "destination_prefixes": (prefix for prefix in intent.destination_prefixes if not _is_known(design, prefix)),
            "source_names": (name for name in intent.source_names if not design.hosts_named(name)),
            "destination_names": (name for name in intent.destination_names if not design.hosts_named(name)),
        }
        for field, lacking in places.items():
            what = tuple(map(str, lacking))
            if what:
                yield remark(Code.ROUTE_NAMES_NOTHING, (_place(intent, field),), paths.NamesNothing(named(intent), what))


def _is_known(design: Design, prefix: Prefix) -> bool:
    return any(parts_within(design, prefix)) or is_outside(design, prefix)


def _place(intent: Intent, field: str) -> Place:
    return Place(type=ObjectType.INTENT, id=intent.id, name=intent.name, field=field)
