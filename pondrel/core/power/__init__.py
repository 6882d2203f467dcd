"""Starting and charging: battery, cranking, charging, draw at rest and belt, each judged from readings; and the way from a complaint to
the one cause.

What is judged is a family like those of the bench, one module in `families`; everything else here knows them by the registry alone.
"""

from .registry import JUDGES, POWER, power_family

__all__ = ["JUDGES", "POWER", "power_family"]
