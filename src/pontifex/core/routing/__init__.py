"""What goes where: one flow hop by hop, all networks at once, every single failure, and split tunnels."""

from pontifex.core.routing.all_flows.matrix import Cell, Matrix, Reach, matrix
from pontifex.core.routing.all_flows.sweep import Failure, sweep
from pontifex.core.routing.links.quality import Quality
from pontifex.core.routing.split.split import RouteList, Split, route_list
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.flow import ANY_SERVICE, Conditions, Flow, failing_tunnels
from pontifex.core.routing.trace.flow_path import End, FlowPath, Hop, Trace
from pontifex.core.routing.trace.trace import trace

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
