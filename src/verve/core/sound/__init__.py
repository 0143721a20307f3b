"""Sound: players, rendering of all lines together, writing and measuring recordings."""

from verve.core.sound._convolve import ConvolverBank
from verve.core.sound._measure import StoppedError, measure_file, read_sound
from verve.core.sound._players import LONGEST_CYCLE_S, perform
from verve.core.sound._render import PlayerKey, Renderer, seed_of
from verve.core.sound._wav import (
    PART_SUFFIX,
    WavWriter,
    file_stem,
    mend_wav,
    part_of_wav,
)

__all__ = [
    "LONGEST_CYCLE_S",
    "PART_SUFFIX",
    "ConvolverBank",
    "PlayerKey",
    "Renderer",
    "StoppedError",
    "WavWriter",
    "file_stem",
    "measure_file",
    "mend_wav",
    "part_of_wav",
    "perform",
    "read_sound",
    "seed_of",
]
