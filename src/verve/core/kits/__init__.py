"""Kits that could be bought: the cheapest complete one, the best under a budget, the next worthwhile step."""

from verve.core.kits._kits import Kits, Offer, kits_of, wishes_of
from verve.core.kits._possible import purchases_worth
from verve.core.kits._solve import Bought, Kit, Pass, models_of
from verve.core.kits._things import ALSO, Thing
from verve.core.kits._ways import Way, ways_of

__all__ = [
    "ALSO",
    "Bought",
    "Kit",
    "Kits",
    "Offer",
    "Pass",
    "Thing",
    "Way",
    "kits_of",
    "models_of",
    "purchases_worth",
    "ways_of",
    "wishes_of",
]
