"""Loading the demo into the database, once."""

from __future__ import annotations

from pontifex.demo.scenario import DEMO_ID, demo_design
from pontifex.demo.tunnels import DEMO_KEYS, key_reference
from pontifex.services import DesignService, KeyService


def load_demo(designs: DesignService, keys: KeyService) -> bool:
    """Load the demo and its keys unless a design of its id is there, or was deleted; return whether it was loaded."""
    if any(summary.id == DEMO_ID for deleted in (False, True) for summary in designs.list(deleted=deleted)):
        return False
    design = designs.add(demo_design())
    for name, secret in DEMO_KEYS.items():
        keys.restore(design, secret, key_reference(name))
    return True
