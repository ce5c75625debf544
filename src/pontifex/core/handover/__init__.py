"""What is handed over: the commands that make a machine do what the design says, with the way back."""

from pontifex.core.handover.linux import LinuxPlan, linux_plan

__all__ = ["LinuxPlan", "linux_plan"]
