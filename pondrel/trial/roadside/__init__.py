"""Vehicles that do not start, do not charge or go flat, and a person who walks the guided ways there: how often the ways name right.

The worlds are their own and know nothing of the ways' tables, of families, sheets or parts. Numbers: common practice, no source. The ways'
tables were tuned on other seeds of the same worlds, so a world of somebody else's would be the harder judge.

python -m pondrel.trial.roadside [vehicles] [seed]
"""

from .person import NOTHING
from .walk import WORLDS, Walked, told, walk, walks

__all__ = ["NOTHING", "WORLDS", "Walked", "told", "walk", "walks"]
