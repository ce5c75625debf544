"""What goes where: one flow hop by hop, all networks at once, every single failure, and split tunnels."""

from pontifex.core.routing.flow import ANY_SERVICE, Conditions, Flow, failing_tunnels
from pontifex.core.routing.matrix import Cell, Matrix, Reach, matrix
from pontifex.core.routing.quality import Quality
from pontifex.core.routing.split import RouteList, Split, route_list
from pontifex.core.routing.sweep import Failure, sweep
from pontifex.core.routing.tables import Tables
from pontifex.core.routing.trace import trace
from pontifex.core.routing.way import End, FlowPath, Hop, Trace

__all__ = [
    "ANY_SERVICE",
    "Cell",
    "Conditions",
    "End",
    "Failure",
    "Flow",
    "FlowPath",
    "Hop",
    "Matrix",
    "Quality",
    "Reach",
    "RouteList",
    "Split",
    "Tables",
    "Trace",
    "failing_tunnels",
    "matrix",
    "route_list",
    "sweep",
    "trace",
]
