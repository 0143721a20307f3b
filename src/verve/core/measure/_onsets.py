"""Where notes begin, and how fast and from when on the beat goes.

source: spectral flux of logarithmic band levels (a usual method); its peaks, and their times by the steepest rise
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from typing import Final

import numpy as np
from scipy.ndimage import maximum_filter1d, uniform_filter1d

from verve.core.errors import InputError
from verve.core.units import FloatArray

HOPS_PER_S: Final = 200
_WINDOW_S, _FINE_S = 0.023, 0.002
_BANDS: Final = 36
_LOWEST_HZ, _HIGHEST_HZ = 60.0, 12_000.0
_FLOOR_DB = 60.0
"""What lies so far under the loudest band is silence."""
_NEAR_S, _MEAN_S = 0.06, 0.5
_LEAST_RISE = 1.3
LOWEST_BPM, HIGHEST_BPM = 50.0, 210.0
_USUAL_BPM, _OCTAVES = 110.0, 0.9
"""Between a tempo and its double the one nearer to this is meant."""
_LEAST_CONFIDENCE = 0.12
_LEAST_TAPS = 4
_LONGEST_TAP_S = 2.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Tempo:
    """A steady beat: how fast, and when its first beat is. `confidence` is 0 to 1: how steady it is."""

    tempo_bpm: float
    first_beat_s: float
    confidence: float


def _bands(samples: FloatArray, rate_hz: int) -> FloatArray:
    """Logarithmic levels of bands for every 5 ms, in dB over the floor.

    shape: (n_hops, n_bands)
    """
    hop = rate_hz / HOPS_PER_S
    size = 1 << round(np.log2(_WINDOW_S * rate_hz))
    count = max(1, int(len(samples) / hop))
    padded = np.pad(samples, (size // 2, size))
    starts = np.round(np.arange(count) * hop).astype(int)
    window = np.hanning(size)
    edges = np.geomspace(_LOWEST_HZ, min(_HIGHEST_HZ, 0.45 * rate_hz), _BANDS + 1)
    bins = np.fft.rfftfreq(size, 1.0 / rate_hz)
    weights = np.array([(bins >= a) & (bins < b) for a, b in itertools.pairwise(edges)], float)
    nearest = np.abs(bins[None, :] - np.sqrt(edges[:-1] * edges[1:])[:, None]).argmin(axis=1)
    for row in np.flatnonzero(weights.sum(axis=1) == 0):
        weights[row, nearest[row]] = 1.0
    powers = np.empty((count, _BANDS))
    for begin in range(0, count, 2048):
        at = starts[begin : begin + 2048]
        frames = padded[at[:, None] + np.arange(size)] * window
        powers[begin : begin + 2048] = (np.abs(np.fft.rfft(frames, axis=1)) ** 2) @ weights.T
    top = powers.max(initial=0.0)
    if top <= 0.0:
        return np.zeros_like(powers)
    return np.asarray(np.maximum(0.0, 10.0 * np.log10(np.maximum(powers / top, 1e-12)) + _FLOOR_DB))


def onset_strength(samples: FloatArray, rate_hz: int) -> FloatArray:
    """How much the level of all bands rises, in dB, for every 5 ms.

    shape: samples (n_frames,), result (n_hops,)
    """
    levels = _bands(samples, rate_hz)
    # Against the loudest of the neighbouring bands before: a voice that bends its pitch is no new note.
    before = maximum_filter1d(levels, 3, axis=1)[:-2]
    rise = np.maximum(0.0, levels[2:] - before).mean(axis=1)
    return np.concatenate([[0.0, 0.0], rise])


def onsets_of(samples: FloatArray, rate_hz: int) -> FloatArray:
    """When notes begin, in seconds, each to a few milliseconds.

    shape: samples (n_frames,), result (n_onsets,)
    """
    strength = onset_strength(samples, rate_hz)
    if len(strength) < 3 or strength.max() <= 0.0:
        return np.zeros(0)
    near = 2 * round(_NEAR_S * HOPS_PER_S / 2) + 1
    is_peak = strength == maximum_filter1d(strength, near)
    mean = uniform_filter1d(strength, round(_MEAN_S * HOPS_PER_S))
    least = np.maximum(_LEAST_RISE * mean, 0.1 * np.percentile(strength, 99.0)) + 0.5
    found = np.flatnonzero(is_peak & (strength > least))
    return np.array([_fine(samples, rate_hz, at / HOPS_PER_S) for at in found])


def _fine(samples: FloatArray, rate_hz: int, about_s: float) -> float:
    """Where the level rises most, near a place."""
    hop = max(1, round(_FINE_S * rate_hz))
    low = max(0, round((about_s - 0.04) * rate_hz))
    high = min(len(samples), round((about_s + 0.03) * rate_hz))
    count = (high - low) // hop
    if count < 4:
        return about_s
    # Of differences: what is high begins with the note, what is low swings on from the one before.
    sharp = np.diff(samples[low : low + count * hop], prepend=samples[max(0, low - 1)])
    energies = np.mean(sharp.reshape(count, hop) ** 2, axis=1)
    smooth = uniform_filter1d(np.sqrt(energies), 3)
    rise = np.diff(smooth)
    return (low + (int(rise.argmax()) + 1) * hop) / rate_hz


def tempo_of(samples: FloatArray, rate_hz: int) -> Tempo | None:
    """The tempo of a sound with a steady beat; None where there is none to be found.

    shape: samples (n_frames,)
    """
    strength = onset_strength(samples, rate_hz)
    if len(strength) < 4 * HOPS_PER_S or strength.max() <= 0.0:
        return None
    centred = strength - strength.mean()
    size = 1 << int(np.ceil(np.log2(2 * len(centred))))
    spectrum = np.fft.rfft(centred, size)
    correlation = np.fft.irfft(np.abs(spectrum) ** 2)[: len(centred)]
    correlation /= correlation[0] or 1.0
    lags = np.arange(int(60.0 * HOPS_PER_S / HIGHEST_BPM), int(60.0 * HOPS_PER_S / LOWEST_BPM) + 1)
    lags = lags[lags * 2 < len(correlation)]
    bpm = 60.0 * HOPS_PER_S / lags
    prior = np.exp(-0.5 * (np.log2(bpm / _USUAL_BPM) / _OCTAVES) ** 2)
    # A beat comes back after two and four of itself as well.
    score = (
        sum(
            share * correlation[np.minimum(lags * times, len(correlation) - 1)]
            for times, share in ((1, 1.0), (2, 0.5), (4, 0.25))
        )
        / 1.75
    )
    best = int(lags[int(np.argmax(score * prior))])
    confidence = float(np.clip(correlation[best], 0.0, 1.0))
    if confidence < _LEAST_CONFIDENCE:
        return None
    period, phase = _refined(strength, best)
    first = phase % period
    return Tempo(
        tempo_bpm=60.0 * HOPS_PER_S / period,
        first_beat_s=first / HOPS_PER_S,
        confidence=confidence,
    )


def _refined(strength: FloatArray, lag: int) -> tuple[float, float]:
    """Period and phase, in hops, of the comb that collects most: near a lag, finely."""
    smooth = uniform_filter1d(strength, 3)
    best = (-1.0, float(lag), 0.0)
    for period in lag + np.arange(-1.0, 1.001, 0.02):
        count = int(len(smooth) / period) - 1
        if count < 2:
            continue
        phases = np.arange(0.0, period, 1.0)
        at = phases[:, None] + period * np.arange(count)
        values = (
            np.interp(at.ravel(), np.arange(len(smooth)), smooth).reshape(at.shape).mean(axis=1)
        )
        top = int(values.argmax())
        if values[top] > best[0]:
            best = (float(values[top]), float(period), float(phases[top]))
    return best[1], best[2]


def tapped_bpm(taps_s: tuple[float, ...]) -> float | None:
    """The tempo that somebody taps; None before the fourth tap, and after a pause it begins anew.

    raises: InputError for taps that are not in their order
    """
    own: list[float] = []
    for tap in taps_s:
        if own and tap < own[-1]:
            raise InputError("taps_s", "must rise", tap)
        if own and tap - own[-1] > _LONGEST_TAP_S:
            own = []
        own.append(tap)
    if len(own) < _LEAST_TAPS:
        return None
    # A line through all of them: one that comes late counts little.
    numbers = np.arange(len(own))
    period_s = float(np.polyfit(numbers, np.array(own), 1)[0])
    return 60.0 / period_s if period_s > 0.0 else None
