"""The scenario that `make demo` loads: a made-up ferry company, with one fault planted in each unsound tunnel.

Every person, company, key and name in it is invented; public addresses come from the documentation ranges.
"""

from pontifex.demo.load import load_demo
from pontifex.demo.scenario import DEMO_ID, demo_design

__all__ = ["DEMO_ID", "demo_design", "load_demo"]
