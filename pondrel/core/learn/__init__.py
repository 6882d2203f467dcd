"""Learning from the record: what proved jobs say of how often which part fails here and how, as factors on the shipped weights."""

from .modes import mode_shares
from .past import Here, Past
from .weights import LEAST_JOBS, NO_WEIGHTS, Learned, Told, Weights, learned_from, part_shares

__all__ = ["LEAST_JOBS", "NO_WEIGHTS", "Here", "Learned", "Past", "Told", "Weights", "learned_from", "mode_shares", "part_shares"]
