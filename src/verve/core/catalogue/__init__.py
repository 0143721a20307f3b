"""The catalogue: generic gear and sources with typical figures, and whole chains."""

from verve.core.catalogue._chains import add_chain
from verve.core.catalogue._entries import Catalogue, Chain, ChainLine, catalogue
from verve.core.catalogue._stand_ins import StandIn, stand_ins

__all__ = ["Catalogue", "Chain", "ChainLine", "StandIn", "add_chain", "catalogue", "stand_ins"]
