"""A gentle limiter for the last decibels: it looks ahead, sees what lies between the samples, and lets go slowly."""

from __future__ import annotations

import numpy as np
from scipy.ndimage import minimum_filter1d, uniform_filter1d
from scipy.signal import resample_poly

from verve.core.units import FloatArray

REACH_S = 0.08
"""On either side of a stretch so much has to be known of its neighbours."""
_HOLD_S = 0.03
_TIMES = 4


def gains_for(samples: FloatArray, ceiling: float, rate_hz: int) -> FloatArray:
    """Gains, up to 1, under which nothing goes over a ceiling; the same for both sides, so that nothing wanders.

    The gain that a sample needs holds for 30 ms around it, and its edges are rounded over as much: at the sample
    itself it is no higher than needed. Within `REACH_S` of either end it may be.

    shape: samples (2, n_frames), result (n_frames,)
    """
    between = np.abs(resample_poly(samples, _TIMES, 1, axis=1)).max(axis=0)
    peaks = between.reshape(-1, _TIMES).max(axis=1)
    # What lies between two samples belongs to both.
    peaks = np.maximum(peaks, np.concatenate([[0.0], peaks[:-1]]))
    needed = np.minimum(1.0, ceiling / np.maximum(peaks, ceiling))
    size = max(3, round(_HOLD_S * rate_hz)) | 1
    held = minimum_filter1d(needed, 2 * size + 1, mode="nearest")
    return np.asarray(uniform_filter1d(held, 2 * size + 1, mode="nearest"))
