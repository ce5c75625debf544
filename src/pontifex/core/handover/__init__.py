"""What is handed over: the commands that make a machine do what the design says, with the way back."""

from pontifex.core.handover.linux import LinuxPlan, linux_plan
from pontifex.core.handover.linux_files import CantBeKept, linux_files

__all__ = ["CantBeKept", "LinuxPlan", "linux_files", "linux_plan"]
