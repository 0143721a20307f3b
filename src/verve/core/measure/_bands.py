"""What the pauses sound like, in thirds of octaves: low ones from long stretches, others from windows of 50 ms."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.signal import welch

from verve.core.units import FloatArray

_LOWEST, _HIGHEST, _FIRST_OF_WINDOWS = -17, 13, -6
"""Numbers of thirds from 1 kHz, base ten (IEC 61260-1): 20 Hz, 20 kHz, and 250 Hz, whose third is 58 Hz wide."""
BANDS_HZ: tuple[float, ...] = tuple(
    1000.0 * 10.0 ** (number / 10.0) for number in range(_LOWEST, _HIGHEST + 1)
)
"""Middles of the thirds of octaves."""
_LOW_BANDS = _FIRST_OF_WINDOWS - _LOWEST
WINDOW_BANDS_HZ = BANDS_HZ[_LOW_BANDS:]
"""Those that a window of 50 ms tells apart."""
_LONG_S = 0.5
_SHORTEST_S = 0.2
"""For thirds under 250 Hz; with less nothing is said of them."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Spectrum:
    """Levels of thirds of octaves in dBFS; None where there is none, or too little to tell it."""

    bands_hz: tuple[float, ...] = BANDS_HZ
    levels_dbfs: tuple[float | None, ...] = ()


def band_weights(hz: FloatArray, middle_hz: float) -> FloatArray:
    """How much of each bin lies in the third around `middle_hz`: neighbouring thirds share a bin between them.

    shape: hz (n_bins,), evenly spaced; found (n_bins,)
    """
    half = float(hz[1] - hz[0]) / 2.0
    low_hz, high_hz = middle_hz * 10.0**-0.05, middle_hz * 10.0**0.05
    inside = np.minimum(hz + half, high_hz) - np.maximum(hz - half, low_hz)
    return np.asarray(np.clip(inside / (2.0 * half), 0.0, 1.0))


def spectrum_of(
    window_bands: FloatArray, stretches: Sequence[FloatArray], slow_rate_hz: float, rate_hz: int
) -> Spectrum:
    """From mean squares of windows in pauses, and from their slow samples, joined where they are neighbours.

    shape: window_bands (n_windows, n_bands); stretches each (n_samples,)
    """
    if not len(window_bands):
        return Spectrum()
    low = _low_bands(stretches, slow_rate_hz)
    high = [
        _level_dbfs(float(power)) if middle_hz * 10.0**-0.05 < rate_hz / 2.0 else None
        for middle_hz, power in zip(WINDOW_BANDS_HZ, window_bands.mean(axis=0), strict=True)
    ]
    return Spectrum(levels_dbfs=(*low, *high))


def _low_bands(stretches: Sequence[FloatArray], rate_hz: float) -> list[float | None]:
    """Welch's mean of windows of up to half a second (IEEE AU-15, 1967)."""
    total, weight = np.zeros(_LOW_BANDS), 0.0
    weights: dict[int, FloatArray] = {}
    for samples in stretches:
        size = min(len(samples), round(_LONG_S * rate_hz))
        if size < _SHORTEST_S * rate_hz:
            continue
        hz, density = welch(samples, rate_hz, nperseg=size, detrend="linear", scaling="density")
        if size not in weights:
            bands = [band_weights(hz, middle_hz) for middle_hz in BANDS_HZ[:_LOW_BANDS]]
            weights[size] = np.stack(bands, axis=1) * float(hz[1])
        powers = density @ weights[size]
        total += powers * len(samples)
        weight += len(samples)
    if not weight:
        return [None] * _LOW_BANDS
    return [_level_dbfs(float(power)) for power in total / weight]


def _level_dbfs(mean_square: float) -> float | None:
    """A full-scale sine is 0 dBFS."""
    return 10.0 * math.log10(2.0 * mean_square) if mean_square > 0.0 else None
