"""ESP: protected packets, and what a receiver refuses (RFC 4303)."""

from pontifex.core.esp.replay import ReplayWindow
from pontifex.core.esp.sa import EspError, InboundSa, OutboundSa

__all__ = ["EspError", "InboundSa", "OutboundSa", "ReplayWindow"]
