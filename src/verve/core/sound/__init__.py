"""Sound: players, and rendering of all lines together."""

from verve.core.sound._convolve import ConvolverBank
from verve.core.sound._players import LONGEST_CYCLE_S, perform
from verve.core.sound._render import PlayerKey, Renderer, seed_of

__all__ = [
    "LONGEST_CYCLE_S",
    "ConvolverBank",
    "PlayerKey",
    "Renderer",
    "perform",
    "seed_of",
]
