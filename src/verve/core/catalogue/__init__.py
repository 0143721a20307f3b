"""The catalogue: generic gear and sources with typical figures, and whole chains."""

from verve.core.catalogue._chains import add_chain
from verve.core.catalogue._entries import Catalogue, Chain, ChainLine, catalogue

__all__ = ["Catalogue", "Chain", "ChainLine", "add_chain", "catalogue"]
