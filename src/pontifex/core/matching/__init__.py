"""Two ends of a tunnel side by side: the rows of the comparison, and the forecast of what a call would meet.

`compare` gives the rows, `match` shows them; `forecast` says, stage by stage, how far a call gets and why it stops there.
"""

from pontifex.core.matching.forecast import Forecast, StageForecast, StageState, forecast
from pontifex.core.matching.match import Match, compare, match
from pontifex.core.matching.pair import Pair
from pontifex.core.matching.row import Ladder, Relation, Remedy, Row, Rung, ShownRow, Stage, Verdict
from pontifex.core.matching.together import Together

__all__ = [
    "Forecast",
    "Ladder",
    "Match",
    "Pair",
    "Relation",
    "Remedy",
    "Row",
    "Rung",
    "ShownRow",
    "Stage",
    "StageForecast",
    "StageState",
    "Together",
    "Verdict",
    "compare",
    "forecast",
    "match",
]
