"""Spectra of 50 ms, one every 25 ms: A-weighted and flat powers, and what stands under 80 Hz."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.fft import rfft

from verve.core.measure._loudness import hop_starts
from verve.core.units import FloatArray, IntArray, a_weighting_power

WINDOWS_PER_S = 40
_LOW_HZ, _NOTE_HZ = 80.0, (90.0, 400.0)
SLOW_HZ = 3_000
"""About how many samples a second are kept of pauses, for hum (20 × 60 Hz and some)."""
_SLOW_TAPS = 10


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Windows:
    """Powers of each window as mean squares; a full-scale sine has 0.5.

    shape: all (n_windows,)
    """

    a_weighted: FloatArray
    flat: FloatArray
    low: FloatArray
    """Under 80 Hz."""
    note: FloatArray
    """From 90 to 400 Hz, where the harmonics of a low note stand."""


def window_frames(rate_hz: int) -> int:
    """How long a window is."""
    return 2 * (rate_hz // WINDOWS_PER_S)


def shape_of(rate_hz: int) -> tuple[Any, Any]:
    """The window, and the weights of its bins for each of the four powers.

    shape: (n_frames,), (n_bins, 4)
    """
    size = window_frames(rate_hz)
    hann = (0.5 - 0.5 * np.cos(2.0 * np.pi * np.arange(size) / size)).astype(np.float32)
    hz = np.fft.rfftfreq(size, 1.0 / rate_hz)
    one_sided = 2.0 / (size * float(np.sum(hann.astype(np.float64) ** 2)))
    band = (hz >= 20.0 - 1e-6) & (hz <= 20_000.0)
    weights = np.stack(
        [
            np.where(band, a_weighting_power(np.maximum(hz, 1.0)), 0.0),
            band.astype(np.float64),
            ((hz > 0.0) & (hz <= _LOW_HZ)).astype(np.float64),
            ((hz >= _NOTE_HZ[0]) & (hz <= _NOTE_HZ[1])).astype(np.float64),
        ],
        axis=1,
    )
    return hann, (weights * one_sided).astype(np.float32)


def window_starts(rate_hz: int, frames: int) -> IntArray:
    """Where in a cell of so many frames its windows begin; the last may reach beyond it."""
    count = -(-frames * WINDOWS_PER_S // rate_hz)
    starts = hop_starts(rate_hz, count, WINDOWS_PER_S)[:-1].astype(np.int64)
    return np.asarray(starts[starts < frames])


def read_windows(
    samples: FloatArray, low: int, frames: int, left: int, rate_hz: int, shape: tuple[Any, Any]
) -> Windows:
    """The windows of a cell that begins at samples[low]; only those with all their frames among the `left` ones.

    `left` is how many frames the recording still has from the cell's first on.
    """
    size = window_frames(rate_hz)
    starts = window_starts(rate_hz, frames)
    starts = starts[starts + size <= left]
    if not len(starts):
        none = np.zeros(0)
        return Windows(a_weighted=none, flat=none, low=none, note=none)
    hann, weights = shape
    blocks = np.lib.stride_tricks.sliding_window_view(samples, size)[low + starts]
    middle = blocks @ (hann / hann.sum())
    spectra = rfft((blocks - middle[:, None]) * hann, axis=1)
    powers = (spectra.real**2 + spectra.imag**2) @ weights
    # What single precision makes of digital silence is none.
    powers[np.abs(blocks).max(axis=1) == 0.0] = 0.0
    a_weighted, flat, bass, note = powers.T.astype(np.float64)
    return Windows(a_weighted=a_weighted, flat=flat, low=bass, note=note)


def slow_factor(rate_hz: int) -> int:
    """One of how many frames the slow samples are."""
    return max(1, rate_hz // SLOW_HZ)


def slow_reach(rate_hz: int) -> int:
    """How many frames on either side a slow sample looks at."""
    return _SLOW_TAPS * slow_factor(rate_hz)


def slow_filter(rate_hz: int) -> FloatArray:
    """A low-pass at 1.25 kHz, flat below 1.2 kHz to a hundredth of a decibel or so."""
    factor, reach = slow_factor(rate_hz), slow_reach(rate_hz)
    at = np.arange(-reach, reach + 1) / factor
    taps = np.sinc(at) * np.kaiser(2 * reach + 1, 8.0)
    return np.asarray((taps / taps.sum()).astype(np.float32))


def slow_samples(samples: FloatArray, at: IntArray, taps: FloatArray) -> FloatArray:
    """Of some frames the wave below 1.5 kHz, as double precision.

    shape: (n_at,)
    """
    reach = len(taps) // 2
    blocks = np.lib.stride_tricks.sliding_window_view(samples, 2 * reach + 1)[at - reach]
    return np.asarray((blocks @ taps).astype(np.float64))
