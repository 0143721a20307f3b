"""Sound: players, rendering of all lines together, analysers, writing and measuring recordings."""

from verve.core.sound._analyse import Analyser, LevelAnalyser, LevelState, Measurement
from verve.core.sound._convolve import ConvolverBank
from verve.core.sound._measure import measure_wav
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
    "Analyser",
    "ConvolverBank",
    "LevelAnalyser",
    "LevelState",
    "Measurement",
    "PlayerKey",
    "Renderer",
    "WavWriter",
    "file_stem",
    "measure_wav",
    "mend_wav",
    "part_of_wav",
    "perform",
    "seed_of",
]
