"""Spectra of 50 ms, one every 25 ms: A-weighted and flat powers, what is under 80 Hz, how quiet ones sound."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.fft import rfft

from verve.core.measure._bands import WINDOW_BANDS_HZ, band_weights
from verve.core.measure._loudness import hop_starts
from verve.core.units import FloatArray, IntArray, a_weighting_power

WINDOWS_PER_S = 40
_LOW_HZ, _NOTE_HZ = 80.0, (90.0, 400.0)
SLOW_HZ = 3_000
"""About how many samples a second are kept of pauses, for hum (20 × 60 Hz and some)."""
_SLOW_TAPS = 10
_QUIET = 10.0
"""Windows up to so many times the quietest one's power of a cell may be a pause."""
_SPECTRA = 32
"""Of how many of them a cell keeps what they sound like."""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Shape:
    """What depends on the rate alone: the window, and the weights of its bins for each power.

    shape: hann (n_frames,), powers (n_bins, 4), bands (n_bins, n_bands)
    """

    hann: FloatArray
    powers: FloatArray
    bands: FloatArray


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
    peak: FloatArray
    """Largest magnitude, no power."""
    quiet: IntArray
    """Some of those that may be pauses, evenly spread; shape (n_quiet,)."""
    quiet_bands: FloatArray
    """What these sound like, in the bands of `WINDOW_BANDS_HZ`; shape (n_quiet, n_bands)."""


def window_frames(rate_hz: int) -> int:
    """How long a window is."""
    return 2 * (rate_hz // WINDOWS_PER_S)


def shape_of(rate_hz: int) -> Shape:
    """The window, and how its bins are weighted."""
    size = window_frames(rate_hz)
    hann = (0.5 - 0.5 * np.cos(2.0 * np.pi * np.arange(size) / size)).astype(np.float32)
    hz = np.asarray(np.fft.rfftfreq(size, 1.0 / rate_hz), dtype=np.float64)
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
    bands = np.stack([band_weights(hz, middle_hz) for middle_hz in WINDOW_BANDS_HZ], axis=1)
    return Shape(
        hann=np.asarray(hann),
        powers=(weights * one_sided).astype(np.float32),
        bands=(bands * one_sided).astype(np.float32),
    )


def window_starts(rate_hz: int, frames: int) -> IntArray:
    """Where in a cell of so many frames its windows begin; the last may reach beyond it."""
    count = -(-frames * WINDOWS_PER_S // rate_hz)
    starts = hop_starts(rate_hz, count, WINDOWS_PER_S)[:-1].astype(np.int64)
    return np.asarray(starts[starts < frames])


def read_windows(
    samples: FloatArray, low: int, frames: int, left: int, rate_hz: int, shape: Shape
) -> Windows:
    """The windows of a cell that begins at samples[low]; only those with all their frames among the `left` ones.

    `left` is how many frames the recording still has from the cell's first on.
    """
    size = window_frames(rate_hz)
    starts = window_starts(rate_hz, frames)
    starts = starts[starts + size <= left]
    if not len(starts):
        none = np.zeros(0)
        return Windows(
            a_weighted=none, flat=none, low=none, note=none, peak=none,
            quiet=np.zeros(0, dtype=np.int64), quiet_bands=np.zeros((0, len(WINDOW_BANDS_HZ))),
        )  # fmt: skip
    hann = shape.hann
    blocks = np.lib.stride_tricks.sliding_window_view(samples, size)[low + starts]
    middle = blocks @ (hann / hann.sum())
    spectra = rfft((blocks - middle[:, None]) * hann, axis=1)
    squares = spectra.real**2 + spectra.imag**2
    powers = squares @ shape.powers
    # What single precision makes of digital silence is none.
    peak = np.maximum(blocks.max(axis=1), -blocks.min(axis=1))
    powers[peak == 0.0] = 0.0
    a_weighted, flat, bass, note = powers.T.astype(np.float64)
    quiet = quiet_windows(a_weighted)
    quiet = quiet[:: max(1, -(-len(quiet) // _SPECTRA))]
    return Windows(
        a_weighted=a_weighted,
        flat=flat,
        low=bass,
        note=note,
        peak=peak.astype(np.float64),
        quiet=quiet,
        quiet_bands=(squares[quiet] @ shape.bands).astype(np.float64),
    )


def quiet_windows(a_weighted: FloatArray) -> IntArray:
    """Which windows of a cell may be pauses; none is digital silence."""
    sounding = a_weighted[a_weighted > 0.0]
    if not len(sounding):
        return np.zeros(0, dtype=np.int64)
    is_quiet = (a_weighted > 0.0) & (a_weighted <= _QUIET * sounding.min())
    return np.flatnonzero(is_quiet)


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
