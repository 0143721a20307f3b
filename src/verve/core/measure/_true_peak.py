"""The largest magnitude of the wave between the samples: ITU-R BS.1770-5, Annex 2."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from verve.core.units import FloatArray

REACH = 16
"""How many frames on either side are looked at."""
_ROW = 32
_KAISER = 7.0


def oversampling(rate_hz: int) -> int:
    """How many times a rate is multiplied to be at least 192 kHz; rates near a multiple count as that."""
    return max(1, math.ceil(176_000 / rate_hz))


def between(times: int) -> tuple[Any, float]:
    """A matrix that gives `times` − 1 values after each of 32 frames, and how far it can raise a level at most.

    A windowed sinc: flat to 0.1 dB up to nine tenths of the band.

    shape: (32 + 2 · reach − 1, 32 · (times − 1))
    """
    at = np.arange(-REACH + 1, REACH + 1)
    matrix = np.zeros((_ROW + 2 * REACH - 1, _ROW * (times - 1)), dtype=np.float32)
    most = 1.0
    for phase in range(1, times):
        distance = at - phase / times
        window = np.i0(_KAISER * np.sqrt(np.maximum(0.0, 1.0 - (distance / REACH) ** 2)))
        taps = np.sinc(distance) * window / np.i0(_KAISER)
        taps /= taps.sum()
        most = max(most, float(np.abs(taps).sum()))
        for row in range(_ROW):
            matrix[row : row + 2 * REACH, row * (times - 1) + phase - 1] = taps
    return np.asarray(matrix, dtype=np.float32), most


def true_peak(
    samples: FloatArray, low: int, high: int, peak: float, table: tuple[Any, float]
) -> float:
    """Of a cell, samples[low:high], whose largest sample is `peak`: that, or what is higher between its samples.

    Only rows that could hold it are worked out: nothing between samples can be higher than a row's own largest sample
    times the sum of the taps.
    """
    matrix, most = table
    if not matrix.size or peak == 0.0:
        return peak
    rows = -(-(high - low) // _ROW)
    needed = low + rows * _ROW + REACH
    padded = samples[low - REACH + 1 : needed]
    if len(padded) < rows * _ROW + 2 * REACH - 1:
        padded = np.pad(padded, (0, rows * _ROW + 2 * REACH - 1 - len(padded)))
    windows = np.lib.stride_tricks.sliding_window_view(padded, _ROW + 2 * REACH - 1)[::_ROW]
    reach = np.abs(windows).max(axis=1) if rows < 64 else _row_peaks(padded, rows)
    wanted = np.flatnonzero(reach * most > peak)
    found = peak
    for first in range(0, len(wanted), 2048):
        block = np.ascontiguousarray(windows[wanted[first : first + 2048]], dtype=np.float32)
        found = max(found, float(np.abs(block @ matrix).max()))
    return found


def _row_peaks(padded: FloatArray, rows: int) -> FloatArray:
    """Largest magnitude that each row looks at, from those of its neighbours."""
    whole = np.abs(padded[: (rows + 1) * _ROW])
    if len(whole) < (rows + 1) * _ROW:
        whole = np.pad(whole, (0, (rows + 1) * _ROW - len(whole)))
    # Down long columns a maximum is three times as quick as along short rows.
    parts = np.ascontiguousarray(whole.reshape(rows + 1, _ROW).T).max(axis=0)
    return np.asarray(np.maximum(parts[:-1], parts[1:]))
