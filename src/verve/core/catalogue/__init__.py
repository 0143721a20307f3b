"""The catalogue: generic gear and sources with typical figures, and whole chains."""

from verve.core.catalogue._chains import add_chain
from verve.core.catalogue._entries import (
    Catalogue,
    Chain,
    ChainLine,
    Ensemble,
    EnsemblePart,
    catalogue,
)
from verve.core.catalogue._parts import (
    TAKES,
    ensemble_parts,
    part_of,
    source_of,
    take_of,
    taken_as,
    takes_for,
)
from verve.core.catalogue._search import Searched, search
from verve.core.catalogue._stand_ins import StandIn, between, kit_choices, stand_ins

__all__ = [
    "TAKES",
    "Catalogue",
    "Chain",
    "ChainLine",
    "Ensemble",
    "EnsemblePart",
    "Searched",
    "StandIn",
    "add_chain",
    "between",
    "catalogue",
    "ensemble_parts",
    "kit_choices",
    "part_of",
    "search",
    "source_of",
    "stand_ins",
    "take_of",
    "taken_as",
    "takes_for",
]
