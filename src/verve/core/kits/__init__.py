"""Kits that could be bought: the cheapest complete one, the best under a budget, the next worthwhile step."""

from verve.core.kits._kits import Kits, Offer, kits_of, wishes_of
from verve.core.kits._solve import Bought, Kit, Pass, models_of
from verve.core.kits._things import Thing

__all__ = ["Bought", "Kit", "Kits", "Offer", "Pass", "Thing", "kits_of", "models_of", "wishes_of"]
