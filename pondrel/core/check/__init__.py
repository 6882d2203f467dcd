"""One judge for every number: a limit and a reading with its conditions and instrument come to a finding in one of four verdicts."""

from .finding import Finding, Overall, Verdict, overall, worst
from .judge import judge
from .limit import KINDS, Limit, around, spelled

__all__ = ["KINDS", "Finding", "Limit", "Overall", "Verdict", "around", "judge", "overall", "spelled", "worst"]
