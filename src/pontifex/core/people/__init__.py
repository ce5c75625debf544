"""People who dial in: a device at the places of its day, what it may be asked, and what of its traffic goes where."""

from pontifex.core.people.abilities import AskedAbility, asked, lacking
from pontifex.core.people.device_trace import DeviceTrace, device_trace
from pontifex.core.people.dialled import DialledIn, DialOutcome, dial_outcome, dialled_in
from pontifex.core.people.flows import FlowTable, all_flows
from pontifex.core.people.inside import InsideAnswer, inside_answers
from pontifex.core.people.place import DevicePlace, PlaceKind, place_named, places
from pontifex.core.people.sends import Sends

__all__ = [
    "AskedAbility",
    "DevicePlace",
    "DeviceTrace",
    "DialOutcome",
    "DialledIn",
    "FlowTable",
    "InsideAnswer",
    "PlaceKind",
    "Sends",
    "all_flows",
    "asked",
    "device_trace",
    "dial_outcome",
    "dialled_in",
    "inside_answers",
    "lacking",
    "place_named",
    "places",
]
