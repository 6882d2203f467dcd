"""The bench: one component judged by itself, from a limit, readings with their conditions, and the meter that took them.

A family is one module in `families`; everything else here knows them by the registry alone.
"""

from .judged import Chart, Judged, Outcome, School, Service
from .registry import FAMILIES, family_of
from .verdict import outcome
from .written import case_from

__all__ = ["FAMILIES", "Chart", "Judged", "Outcome", "School", "Service", "case_from", "family_of", "outcome"]
