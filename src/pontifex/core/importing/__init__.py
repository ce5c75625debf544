"""Bringing in what others wrote about their addresses: tables, free text, and what Linux prints about itself.

A reader turns text into records, each with the line it came from; the plan turns records into a change, line by line.
"""

from pontifex.core.importing.grid_rows import plan_rows
from pontifex.core.importing.plan import ImportLine, ImportPlan, LineOutcome, plan_import
from pontifex.core.importing.read import read_text

__all__ = ["ImportLine", "ImportPlan", "LineOutcome", "plan_import", "plan_rows", "read_text"]
