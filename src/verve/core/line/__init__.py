"""The physics of one line: stages in data-sheet terms, solved from source to recorder."""

from verve.core.line._grid import Grid, flat_noise_a_share, grid
from verve.core.line._levels import LineLevels, levels_of
from verve.core.line._network import Spectrum
from verve.core.line._quantities import (
    OCTAVE_BANDS_HZ,
    Reading,
    octave_weights,
    read_at,
    read_spectra,
    read_spectrum,
    response_db,
    sound_at_microphone_db,
    source_impedance_ohm,
)
from verve.core.line._solve import Junction, Solution, check_order, solve, solve_many
from verve.core.line._stages import (
    SOURCES,
    Amplifier,
    Cable,
    Converter,
    LineSource,
    Microphone,
    Pickup,
    Piezo,
    ResistivePad,
    Sound,
    Stage,
    Transformer,
)

__all__ = [
    "OCTAVE_BANDS_HZ",
    "SOURCES",
    "Amplifier",
    "Cable",
    "Converter",
    "Grid",
    "Junction",
    "LineLevels",
    "LineSource",
    "Microphone",
    "Pickup",
    "Piezo",
    "Reading",
    "ResistivePad",
    "Solution",
    "Sound",
    "Spectrum",
    "Stage",
    "Transformer",
    "check_order",
    "flat_noise_a_share",
    "grid",
    "levels_of",
    "octave_weights",
    "read_at",
    "read_spectra",
    "read_spectrum",
    "response_db",
    "solve",
    "solve_many",
    "sound_at_microphone_db",
    "source_impedance_ohm",
]
