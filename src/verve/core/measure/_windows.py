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
_AT_ONCE = 40
_SPECTRA, _LATER_SPECTRA = 32, 8
"""Of how many of them a cell keeps what they sound like, in the first minute and later."""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Shape:
    """What depends on the rate alone: the window, and the weights of its bins for each power.

    The weights stand twice for each bin: for the square of its real part, and for that of its imaginary one.

    shape: hann (n_frames,), powers (2 · n_bins, 4), bands (2 · n_bins, n_bands)
    """

    hann: FloatArray
    of_mean: FloatArray
    """Of a mean of 1 what the window leaves in the first two bins, and in no others. shape: (2,)"""
    powers: FloatArray
    bands: FloatArray


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Windows:
    """Powers of each window as mean squares; a full-scale sine has 0.5.

    shape: all (n_windows,), single precision: an hour has very many
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
        of_mean=np.asarray(np.array([0.5, -0.25]) * size, dtype=np.float32),
        powers=np.repeat(weights * one_sided, 2, axis=0).astype(np.float32),
        bands=np.repeat(bands * one_sided, 2, axis=0).astype(np.float32),
    )


def window_starts(rate_hz: int, frames: int) -> IntArray:
    """Where in a cell of so many frames its windows begin; the last may reach beyond it."""
    count = -(-frames * WINDOWS_PER_S // rate_hz)
    starts = hop_starts(rate_hz, count, WINDOWS_PER_S)[:-1].astype(np.int64)
    return np.asarray(starts[starts < frames])


def read_windows(
    samples: FloatArray,
    low: int,
    frames: int,
    left: int,
    rate_hz: int,
    shape: Shape,
    *,
    is_early: bool,
) -> Windows:
    """The windows of a cell that begins at samples[low]; only those with all their frames among the `left` ones.

    `left` is how many frames the recording still has from the cell's first on; `is_early` keeps more of the quiet
    ones.
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
    views, mean = (
        np.lib.stride_tricks.sliding_window_view(samples, size),
        shape.hann / shape.hann.sum(),
    )
    squares = np.empty((len(starts), 2 * (size // 2 + 1)), dtype=np.float32)
    peak: FloatArray = np.empty(len(starts), dtype=np.float32)
    # As many at a time as stay in the processor's own memory.
    for first in range(0, len(starts), _AT_ONCE):
        part = slice(first, first + _AT_ONCE)
        blocks = views[low + starts[part]]
        spectra = rfft(blocks * shape.hann, axis=1)
        spectra[:, :2] -= (blocks @ mean)[:, None] * shape.of_mean
        np.square(spectra.view(np.float32), out=squares[part])
        np.maximum(blocks.max(axis=1), -blocks.min(axis=1), out=peak[part])
    powers = squares @ shape.powers
    # What single precision makes of digital silence is none.
    powers[peak == 0.0] = 0.0
    a_weighted, flat, bass, note = powers.T.copy()
    quiet = quiet_windows(a_weighted)
    most = _SPECTRA if is_early else _LATER_SPECTRA
    quiet = quiet[:: max(1, -(-len(quiet) // most))]
    return Windows(
        a_weighted=a_weighted,
        flat=flat,
        low=bass,
        note=note,
        peak=peak,
        quiet=quiet,
        quiet_bands=squares[quiet] @ shape.bands,
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


def slow_samples(
    samples: FloatArray, first: int, count: int, step: int, taps: FloatArray
) -> FloatArray:
    """The wave below 1.5 kHz at samples[first], samples[first + step] and so on.

    Each is the sum of the taps over `step` frames at a time: one product of matrices gives all of those sums, and
    each slow sample is what stands on a diagonal of it.

    shape: (count,), single precision
    """
    reach = len(taps) // 2
    parts = -(-len(taps) // step)
    folded = np.zeros(parts * step, dtype=np.float32)
    folded[: len(taps)] = taps
    begin, rows = first - reach, count + parts - 1
    inside = samples[begin : begin + rows * step]
    if len(inside) < rows * step:
        inside = np.pad(inside, (0, rows * step - len(inside)))
    sums = inside.reshape(rows, step) @ folded.reshape(parts, step).T
    found = np.zeros(count, dtype=np.float32)
    for number in range(parts):
        found += sums[number : number + count, number]
    return np.asarray(found)
