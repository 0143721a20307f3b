"""Sound: players, rendering a line, writing and measuring recordings."""

from verve.core.audio._measure import Measurement, measure_wav
from verve.core.audio._players import LONGEST_CYCLE_S, perform
from verve.core.audio._render import LineRenderer
from verve.core.audio._wav import WavWriter, file_stem

__all__ = [
    "LONGEST_CYCLE_S",
    "LineRenderer",
    "Measurement",
    "WavWriter",
    "file_stem",
    "measure_wav",
    "perform",
]
