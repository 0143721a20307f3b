"""The catalogue: generic gear and sources with typical figures, whole chains, and the demo session."""

from verve.core.catalogue._chains import add_chain
from verve.core.catalogue._entries import Catalogue, Chain, ChainLine, catalogue, demo_session

__all__ = ["Catalogue", "Chain", "ChainLine", "add_chain", "catalogue", "demo_session"]
