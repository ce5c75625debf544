"""Two ends of a tunnel side by side: the rows of the comparison, and the forecast of what a call would meet.

`match` compares; `forecast` says, stage by stage, how far a call gets and why it stops there.
"""

from pontifex.core.matching.forecast import Forecast, StageForecast, StageState, forecast
from pontifex.core.matching.match import Match, match
from pontifex.core.matching.row import Relation, Remedy, Row, Stage, Verdict

__all__ = [
    "Forecast",
    "Match",
    "Relation",
    "Remedy",
    "Row",
    "Stage",
    "StageForecast",
    "StageState",
    "Verdict",
    "forecast",
    "match",
]
