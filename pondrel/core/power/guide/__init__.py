"""The guided way from a complaint to its cause: which step tells most for its minutes, what every answer rules out, and when to stop.

Each complaint is a module in `ways`: its causes, its steps, and how likely each outcome of a step is under each cause. These tables are
judgement of the trade, common practice without a source; `trial/roadside` measures what they are worth on vehicles that do not know them.
"""

from .registry import WAYS, way_called
from .sequence import Answer, Position, position_of

__all__ = ["WAYS", "Answer", "Position", "position_of", "way_called"]
