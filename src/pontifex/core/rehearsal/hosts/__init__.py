"""What hosts behind the two gateways try, and how the gateways forward it: packet by packet, with their own tables and states."""

from pontifex.core.rehearsal.hosts.trials import HostTrials, host_trials

__all__ = ["HostTrials", "host_trials"]
