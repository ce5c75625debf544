"""From nothing: sites with their networks and their way to the outside, a line each."""

from pontifex.core.starting.another import another_like
from pontifex.core.starting.next_steps import NextStep, next_steps
from pontifex.core.starting.plan import SitesPlan, StartText, plan_sites

__all__ = ["NextStep", "SitesPlan", "StartText", "another_like", "next_steps", "plan_sites"]
