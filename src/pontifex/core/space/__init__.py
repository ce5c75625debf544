"""The address space of a design: which networks meet, where there is room, and what moving or translating one takes."""

from pontifex.core.space.cost import PARTNER, CostItem, MoveCost, move_costs
from pontifex.core.space.meeting import JoinedSites, Meeting, View, all_meetings, meet, meetings
from pontifex.core.space.room import Offer, Room, capacity, free_space, handed_out, host_range, taken
from pontifex.core.space.translate import TranslationPlan, behind_one, plan, translate_both
from pontifex.core.space.usage import Usage, spoken_for, usage

__all__ = [
    "PARTNER",
    "CostItem",
    "JoinedSites",
    "Meeting",
    "MoveCost",
    "Offer",
    "Room",
    "TranslationPlan",
    "Usage",
    "View",
    "all_meetings",
    "behind_one",
    "capacity",
    "free_space",
    "handed_out",
    "host_range",
    "meet",
    "meetings",
    "move_costs",
    "plan",
    "spoken_for",
    "taken",
    "translate_both",
    "usage",
]
