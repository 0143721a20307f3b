"""Measuring recordings to the standards: reducers over blocks, the same for live sound and files."""

from verve.core.measure._blasts import Blast
from verve.core.measure._cells import Stretch
from verve.core.measure._clipping import ClippedRun
from verve.core.measure._dropouts import Dropout
from verve.core.measure._figures import Course, Measurement, Programme, Recording
from verve.core.measure._hum import NO_HUM, Harmonic, Hum
from verve.core.measure._meter import Cell, Meter
from verve.core.measure._pair import Pair

__all__ = [
    "NO_HUM",
    "Blast",
    "Cell",
    "ClippedRun",
    "Course",
    "Dropout",
    "Harmonic",
    "Hum",
    "Measurement",
    "Meter",
    "Pair",
    "Programme",
    "Recording",
    "Stretch",
]
