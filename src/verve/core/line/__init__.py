"""The physics of one line: stages in data-sheet terms, solved from source to recorder."""

from verve.core.line._acoustics import (
    OCTAVE_CENTRES_HZ,
    PRESSURE_SHARE,
    broadband_change_db,
    diffuse_response_db,
    effective_distance_m,
    pattern_response_db,
    sum_bands_db,
)
from verve.core.line._grid import Grid, flat_noise_a_share, grid
from verve.core.line._levels import LineLevels, levels_of
from verve.core.line._network import (
    FOUR_K_T,
    LadderStage,
    Spectrum,
    following_steps,
    looking_into,
    quantisation_share,
)
from verve.core.line._quantities import (
    OCTAVE_BANDS_HZ,
    Powers,
    Reading,
    Solved,
    octave_weights,
    read_at,
    read_spectra,
    read_spectrum,
    response_db,
    solve_on,
    sound_at_microphone_db,
    source_impedance_ohm,
)
from verve.core.line._side import Branch, Driver
from verve.core.line._solve import Batch, Junction, Solution, check_order, solve, solve_many

__all__ = [
    "FOUR_K_T",
    "OCTAVE_BANDS_HZ",
    "OCTAVE_CENTRES_HZ",
    "PRESSURE_SHARE",
    "Batch",
    "Branch",
    "Driver",
    "Grid",
    "Junction",
    "LadderStage",
    "LineLevels",
    "Powers",
    "Reading",
    "Solution",
    "Solved",
    "Spectrum",
    "broadband_change_db",
    "check_order",
    "diffuse_response_db",
    "effective_distance_m",
    "flat_noise_a_share",
    "following_steps",
    "grid",
    "levels_of",
    "looking_into",
    "octave_weights",
    "pattern_response_db",
    "quantisation_share",
    "read_at",
    "read_spectra",
    "read_spectrum",
    "response_db",
    "solve",
    "solve_many",
    "solve_on",
    "sound_at_microphone_db",
    "source_impedance_ohm",
    "sum_bands_db",
]
