"""Connecting many sites at once: which are joined, how each end is set by a standard, and what a changed standard does."""

from pontifex.core.connecting.plan import ConnectPlan, plan_connections
from pontifex.core.connecting.request import Connect, NotConnectable, Pattern
from pontifex.core.connecting.usual import usual_standard

__all__ = ["Connect", "ConnectPlan", "NotConnectable", "Pattern", "plan_connections", "usual_standard"]
