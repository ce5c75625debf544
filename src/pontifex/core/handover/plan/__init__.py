"""Plans of a change: from one state of a design to another by steps, each of which is proved.

A plan is a path between two designs. Every state between is a design like any other, so that forecast and trace judge it.
"""

from pontifex.core.handover.plan.plan import ChangePlan, OnProgress, Outage, change_plan
from pontifex.core.handover.plan.step import Step

__all__ = ["ChangePlan", "OnProgress", "Outage", "Step", "change_plan"]
