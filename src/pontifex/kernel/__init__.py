"""Rehearsals in the machine's own kernel: stand-in gateways at real sockets, in network namespaces, hosts behind them."""

from pontifex.kernel.machines import NotPermittedError
from pontifex.kernel.namespaces import why_not
from pontifex.kernel.rehearse import rehearse_in_kernel

__all__ = ["NotPermittedError", "rehearse_in_kernel", "why_not"]
