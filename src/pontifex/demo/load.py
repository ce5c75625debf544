"""Loading the demo into the database, once."""

from __future__ import annotations

from pontifex.demo.scenario import DEMO_ID, demo_design
from pontifex.demo.tunnels import DEMO_KEYS, key_reference
from pontifex.services import DesignService, KeyService
from pontifex.store import DesignExists


def load_demo(designs: DesignService, keys: KeyService) -> bool:
    """Load the demo and its keys unless a design of its id is there, or was deleted; return whether it was loaded."""
    if designs.is_taken(DEMO_ID):
        return False  # the facts of its keys take seconds to work out
    try:
        design = designs.add_as(DEMO_ID, demo_design())
    except DesignExists:
        return False
    for name, secret in DEMO_KEYS.items():
        keys.restore(design, secret, key_reference(name))
    return True
