"""Two ends of a tunnel side by side: the rows of the comparison, and the forecast of what a call would meet.

`compare` gives the rows, `match` shows them. `forecast` says, stage by stage, how far a call gets and why it stops there;
`telling_rows` gives as many rows as it needs.
"""

from pontifex.core.matching.forecast import Forecast, StageForecast, StageState, forecast
from pontifex.core.matching.gateway_tunnels import NO_NEIGHBOURS, GatewayTunnels, Neighbours, meets
from pontifex.core.matching.match import Match, compare, match, row_remedies, telling_rows
from pontifex.core.matching.row import Alternative, ProposalAlignment, Relation, Remedy, Row, ShownRow, Stage, Verdict
from pontifex.core.matching.shared_rows import AlikeTunnels, alike
from pontifex.core.matching.tunnel_ends import TunnelEnds

__all__ = [
    "NO_NEIGHBOURS",
    "AlikeTunnels",
    "Alternative",
    "Forecast",
    "GatewayTunnels",
    "Match",
    "Neighbours",
    "ProposalAlignment",
    "Relation",
    "Remedy",
    "Row",
    "ShownRow",
    "Stage",
    "StageForecast",
    "StageState",
    "TunnelEnds",
    "Verdict",
    "alike",
    "compare",
    "forecast",
    "match",
    "meets",
    "row_remedies",
    "telling_rows",
]
