"""Measuring recordings to the standards: reducers over blocks, the same for live sound and files."""

from verve.core.measure._align import Alignment, Shift, alignment_of
from verve.core.measure._bands import BANDS_HZ, Spectrum, band_weights
from verve.core.measure._blasts import Blast
from verve.core.measure._cells import Stretch
from verve.core.measure._clap import Clap, Decay, clap_of
from verve.core.measure._clipping import ClippedRun
from verve.core.measure._dropouts import Dropout
from verve.core.measure._figures import Course, Measurement, Programme, Recording
from verve.core.measure._hum import NO_HUM, Harmonic, Hum
from verve.core.measure._live import LiveReader, LiveSecond
from verve.core.measure._loop_signal import TEST_DBFS, LoopGuard, Stopped, loop_signal
from verve.core.measure._loopback import Arrival, Loopback, loopback_of
from verve.core.measure._meter import Meter
from verve.core.measure._onsets import Tempo, onsets_of, tapped_bpm, tempo_of
from verve.core.measure._pair import Pair
from verve.core.measure._pitch import (
    HIGHEST_HZ,
    LOWEST_HZ,
    Moment,
    Pitch,
    moments_of,
    note_of,
    pitch_of,
)
from verve.core.measure._programme import ProgrammeMeter
from verve.core.measure._shown import Coming
from verve.core.measure._tuner import Heard, Reading, Tuner

__all__ = [
    "BANDS_HZ",
    "HIGHEST_HZ",
    "LOWEST_HZ",
    "NO_HUM",
    "TEST_DBFS",
    "Alignment",
    "Arrival",
    "Blast",
    "Clap",
    "ClippedRun",
    "Coming",
    "Course",
    "Decay",
    "Dropout",
    "Harmonic",
    "Heard",
    "Hum",
    "LiveReader",
    "LiveSecond",
    "LoopGuard",
    "Loopback",
    "Measurement",
    "Meter",
    "Moment",
    "Pair",
    "Pitch",
    "Programme",
    "ProgrammeMeter",
    "Reading",
    "Recording",
    "Shift",
    "Spectrum",
    "Stopped",
    "Stretch",
    "Tempo",
    "Tuner",
    "alignment_of",
    "band_weights",
    "clap_of",
    "loop_signal",
    "loopback_of",
    "moments_of",
    "note_of",
    "onsets_of",
    "pitch_of",
    "tapped_bpm",
    "tempo_of",
]
