"""Loudness to ITU-R BS.1770-5, EBU R 128, Tech 3341 and 3342, from K-weighted energies of 10 ms."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial

import numpy as np
from scipy.signal import lfilter, sosfilt

from verve.core.units import FloatArray, IntArray

HOPS_PER_S = 100
"""Energies are kept for every 10 ms: fine enough for the momentary maximum of Tech 3341."""
WARM_S = 0.25
"""After this the filter has forgotten where it began (its slowest pole falls by 240 dB)."""
_FINE_HZ = 200_000
_ABOVE, _BELOW = slice(0, 3), slice(3, 6)
_MOMENTARY, _SHORT_TERM = 40, 300
_OFFSET = -0.691
_ABSOLUTE_GATE, _RELATIVE_GATE, _RANGE_GATE = -70.0, -10.0, -20.0


def k_weighting(rate_hz: int) -> FloatArray:
    """The shelf and the high-pass as second-order sections; at 48 kHz those of the standard.

    source: BS.1770-5, Annex 1, tables 1 and 2; other rates by the bilinear transform of the same analogue filters
    shape: (2, 6)
    """
    shelf = _shelf(rate_hz)
    tan = math.tan(math.pi * 38.13547 / rate_hz)
    quality = 0.50033
    a0 = 1.0 + tan / quality + tan * tan
    a1, a2 = 2.0 * (tan * tan - 1.0) / a0, (1.0 - tan / quality + tan * tan) / a0
    # Far above its corner it lets pass 0.043 dB more than all at 48 kHz (the standard's numerator is 1, −2, 1).
    gain = _HIGH_GAIN * (1.0 - a1 + a2) / 4.0
    high_pass = [gain, -2.0 * gain, gain, 1.0, a1, a2]
    return np.array([shelf, high_pass])


def k_filter(rate_hz: int) -> Callable[[FloatArray], FloatArray]:
    """What weights a wave of that rate, from rest.

    Both sections as one are quicker; with rates from 200 kHz on their poles are too near to one another for that.
    """
    sections = k_weighting(rate_hz)
    if rate_hz > _FINE_HZ:
        return partial(sosfilt, sections)
    first, second = sections
    numerator, denominator = (np.convolve(first[part], second[part]) for part in (_ABOVE, _BELOW))
    return partial(lfilter, numerator, denominator)


_HIGH_GAIN = 10.0 ** (0.04322 / 20.0)


def _shelf(rate_hz: int) -> list[float]:
    gain_db, quality = 3.99984385397, 0.7071752369554193
    tan = math.tan(math.pi * 1681.9744509555319 / rate_hz)
    high = 10.0 ** (gain_db / 20.0)
    band = high**0.499666774155
    a0 = 1.0 + tan / quality + tan * tan
    return [
        (high + band * tan / quality + tan * tan) / a0,
        2.0 * (tan * tan - high) / a0,
        (high - band * tan / quality + tan * tan) / a0,
        1.0,
        2.0 * (tan * tan - 1.0) / a0,
        (1.0 - tan / quality + tan * tan) / a0,
    ]


def hop_starts(rate_hz: int, count: int, per_s: int = HOPS_PER_S) -> IntArray:
    """Where each of `count` hops of a cell begins, and the last one ends; whole frames at every rate.

    shape: (count + 1,)
    """
    return np.asarray(np.arange(count + 1, dtype=np.int64) * rate_hz // per_s)


def hop_energies(
    samples: FloatArray,
    low: int,
    rate_hz: int,
    frames: int,
    weighting: Callable[[FloatArray], FloatArray],
) -> FloatArray:
    """Sums of the K-weighted squares of every 10 ms of a cell that begin in it.

    `samples` begin `low` frames before the cell, which has `frames`; `weighting` is `k_filter`'s.

    shape: (n_hops,)
    """
    # In double precision from the beginning: that is quicker than from single.
    weighted = weighting(samples[: low + frames].astype(np.float64))[low:]
    if rate_hz % HOPS_PER_S == 0 and frames:
        hop = rate_hz // HOPS_PER_S
        whole = frames // hop
        rows = weighted[: whole * hop].reshape(whole, hop)
        rest = weighted[whole * hop :]
        left = [float(rest @ rest)] if len(rest) else []
        return np.concatenate([np.vecdot(rows, rows), left])
    count = -(-frames * HOPS_PER_S // rate_hz)
    starts = hop_starts(rate_hz, count)[:-1]
    starts = starts[starts < frames]
    squares = weighted * weighted
    return np.asarray(np.add.reduceat(squares, starts)) if len(starts) else np.zeros(0)


def loudness_lufs(mean_square: FloatArray | float) -> FloatArray:
    """Loudness of mean squares that are summed over the channels; −inf for none."""
    with np.errstate(divide="ignore"):
        return np.asarray(_OFFSET + 10.0 * np.log10(mean_square))


def momentary_lufs(energies: FloatArray, frames: int, rate_hz: int) -> FloatArray:
    """Loudness of every 400 ms that fit, one every 10 ms."""
    return _sliding(energies, frames, rate_hz, _MOMENTARY)


def short_term_lufs(energies: FloatArray, frames: int, rate_hz: int) -> FloatArray:
    """Loudness of every 3 s that fit, one every 10 ms."""
    return _sliding(energies, frames, rate_hz, _SHORT_TERM)


def _sliding(energies: FloatArray, frames: int, rate_hz: int, hops: int) -> FloatArray:
    whole = frames * HOPS_PER_S // rate_hz
    if whole < hops:
        return np.zeros(0)
    sums = np.concatenate([[0.0], np.cumsum(energies[:whole])])
    powers = np.maximum(sums[hops:] - sums[:-hops], 0.0) * HOPS_PER_S / (hops * rate_hz)
    # What a running sum loses of silence behind something loud is none.
    powers[powers < 1e-16] = 0.0
    return loudness_lufs(powers)


def integrated_lufs(momentary: FloatArray) -> float | None:
    """Integrated loudness: blocks of 400 ms, 75 % overlap, gated at −70 LUFS and 10 LU below what is left."""
    blocks = momentary[::10]
    loud = blocks[blocks > _ABSOLUTE_GATE]
    if not len(loud):
        return None
    gate = _mean(loud) + _RELATIVE_GATE
    kept = loud[loud > gate]
    return _mean(kept) if len(kept) else None


def _mean(blocks: FloatArray) -> float:
    return 10.0 * math.log10(float(np.mean(10.0 ** (blocks / 10.0))))


def range_lu(short_term: FloatArray) -> float | None:
    """Loudness range of 3 s blocks, one every 100 ms: 95th less 10th percentile above both gates (Tech 3342)."""
    blocks = short_term[::10]
    loud = blocks[blocks > _ABSOLUTE_GATE]
    if not len(loud):
        return None
    kept = loud[loud > _mean(loud) + _RANGE_GATE]
    low, high = np.percentile(kept, [10.0, 95.0])
    return float(high - low)


def highest(levels: FloatArray) -> float | None:
    """The highest of them; None without any that is finite."""
    finite = levels[np.isfinite(levels)]
    return float(finite.max()) if len(finite) else None
