"""How sources sound to their sides, by octave: typical figures, as first-order patterns that narrow upwards."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Final

import numpy as np

from verve.core.air._positions import PlacedSource
from verve.core.line import OCTAVE_CENTRES_HZ
from verve.core.session import GIVES_BACK, HEADPHONES, ThingKind
from verve.core.units import FloatArray, a_weighting_power

_SHARES: Final[Mapping[str, tuple[float, ...]]] = {
    "voice": (1.0, 1.0, 1.0, 0.95, 0.88, 0.78, 0.70, 0.60, 0.58, 0.55),
    "plucked": (1.0, 1.0, 0.97, 0.93, 0.88, 0.83, 0.78, 0.72, 0.68, 0.65),
    "bowed": (1.0, 1.0, 0.98, 0.94, 0.88, 0.82, 0.76, 0.72, 0.68, 0.65),
    "struck": (1.0, 1.0, 1.0, 0.97, 0.95, 0.92, 0.88, 0.85, 0.80, 0.75),
    "keys": (1.0, 1.0, 0.97, 0.92, 0.88, 0.84, 0.80, 0.75, 0.70, 0.65),
    "loudspeaker": (1.0, 0.98, 0.95, 0.88, 0.80, 0.70, 0.62, 0.56, 0.52, 0.50),
    "noise": (1.0,) * 10,
}
"""Typical: A of A + (1 − A)·cos θ for each octave from 31.5 Hz; a voice is 5 dB down behind at 1 kHz, 14 at 4 kHz."""
_SLOPES_DB: Final[Mapping[str, float]] = {"loudspeaker": -2.0, "wedge": -2.0}
LEAKS_DB: Final[Mapping[ThingKind, float]] = {
    "open_headphones": -20.0, "closed_headphones": -40.0, "in_ears": -55.0,
}  # fmt: skip
"""Level ten centimetres from a cup against that at the ear; typical: one that does not sit well leaks far more."""
_LEAKS_AT_M = 0.1
_NOISE_SLOPE_DB = -4.0
"""What sounds beside whoever plays falls by so much an octave from 125 Hz on; typical of motors and air."""

LEVELS_DBA: Final[Mapping[ThingKind, float]] = {
    "loudspeaker": 80.0, "wedge": 88.0, "fan": 42.0, "heater": 44.0, "fridge": 38.0, "computer": 36.0,
    "projector": 40.0, "window": 45.0, "other": 40.0, "desk": 0.0, "music_stand": 0.0, "open_headphones": 85.0,
    "closed_headphones": 85.0, "in_ears": 85.0,
}  # fmt: skip
"""What each gives at a metre, headphones at the ear; typical, and to be measured where it matters."""


def shares_of(source: PlacedSource) -> FloatArray:
    """Pressure share of what a source sends to its sides, by octave; shape (10,)."""
    if source.thing is not None:
        is_loudspeaker = source.thing.kind in GIVES_BACK - HEADPHONES
        return np.array(_SHARES["loudspeaker" if is_loudspeaker else "noise"])
    assert source.figures is not None
    return np.array(_SHARES[source.figures.player])


def band_powers(source: PlacedSource) -> FloatArray:
    """Mean squares in each octave at a metre on its axis, as if it were a point: 1 is 0 dB SPL; shape (10,).

    Of whoever plays, at typical playing: the peak there less the crest factor.
    """
    if source.thing is not None:
        slope = _SLOPES_DB.get(source.thing.kind, _NOISE_SLOPE_DB)
        bands_db = np.minimum(0.0, slope * (np.arange(10) - 2.0))
        powers = 10.0 ** (bands_db / 10.0)
        heard = float(powers @ a_weighting_power(np.array(OCTAVE_CENTRES_HZ)))
        level_dba = source.thing.level_dba
        if source.thing.kind in LEAKS_DB:
            level_dba += LEAKS_DB[source.thing.kind] + 20.0 * math.log10(_LEAKS_AT_M)
        level = 10.0 ** (level_dba / 10.0) / heard if source.thing.is_on else 0.0
        return np.asarray(powers * level)
    figures = source.figures
    assert figures is not None
    powers = 10.0 ** (np.array(figures.octave_bands_db) / 10.0)
    reference_m = figures.heard_from_m(figures.reference_distance_m)
    level_db = figures.peak_spl.typical_db - figures.crest_db + 20.0 * math.log10(reference_m)
    return np.asarray(powers / powers.sum() * 10.0 ** (level_db / 10.0))
