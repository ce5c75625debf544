"""What is handed over: the commands that make a machine do what the design says, with the way back."""

from pontifex.core.handover.linux import LinuxPlan, linux_plan
from pontifex.core.handover.linux_files import CantBeKept, files_text, linux_files

__all__ = ["CantBeKept", "LinuxPlan", "files_text", "linux_files", "linux_plan"]
