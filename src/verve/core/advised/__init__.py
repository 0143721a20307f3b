"""Somebody else's advice, and what it means on this meter, this knob, this voice."""

from verve.core.advised._meaning import Meaning, meanings_of
from verve.core.advised._phrases import BODY_M, LAMPS_DBFS, Phrase, understood
from verve.core.advised._words import EXAMPLES

__all__ = [
    "BODY_M",
    "EXAMPLES",
    "LAMPS_DBFS",
    "Meaning",
    "Phrase",
    "meanings_of",
    "understood",
]
