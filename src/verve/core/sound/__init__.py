"""Sound: players, and rendering of all lines together."""

from verve.core.sound._air import (
    as_played,
    direct_response,
    heard_through,
    levelled,
    noise_like,
    room_response,
)
from verve.core.sound._convolve import ConvolverBank
from verve.core.sound._manners import manner_of
from verve.core.sound._microphone import Cycle, Played, Room
from verve.core.sound._noise import noise_thirds
from verve.core.sound._players import LONGEST_CYCLE_S, perform
from verve.core.sound._render import PlayerKey, Renderer, seed_of

__all__ = [
    "LONGEST_CYCLE_S",
    "ConvolverBank",
    "Cycle",
    "Played",
    "PlayerKey",
    "Renderer",
    "Room",
    "as_played",
    "direct_response",
    "heard_through",
    "levelled",
    "manner_of",
    "noise_like",
    "noise_thirds",
    "perform",
    "room_response",
    "seed_of",
]
