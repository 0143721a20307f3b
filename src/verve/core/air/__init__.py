"""Where everything stands in the room, and what each microphone hears of each sound through the air."""

from verve.core.air._directivity import LEVELS_DBA
from verve.core.air._directivity import band_powers as source_powers
from verve.core.air._hearing import Hearing, Path, hearing_of, response_of, share_of
from verve.core.air._map import EarMap, ear_map
from verve.core.air._positions import (
    PlacedMicrophone,
    PlacedSource,
    Positions,
    aim_at,
    positions_of,
)
from verve.core.air._reflections import SWALLOWED, Reflection, reflections
from verve.core.air._room import (
    FURNISHING_FACTOR,
    LENGTHS_M,
    MEAN_ABSORPTION,
    RoomFigures,
    Size,
    figures_of,
    of_furnishing,
    of_size,
    size_of,
)

__all__ = [
    "FURNISHING_FACTOR",
    "LENGTHS_M",
    "LEVELS_DBA",
    "MEAN_ABSORPTION",
    "SWALLOWED",
    "EarMap",
    "Hearing",
    "Path",
    "PlacedMicrophone",
    "PlacedSource",
    "Positions",
    "Reflection",
    "RoomFigures",
    "Size",
    "aim_at",
    "ear_map",
    "figures_of",
    "hearing_of",
    "of_furnishing",
    "of_size",
    "positions_of",
    "reflections",
    "response_of",
    "share_of",
    "size_of",
    "source_powers",
]
