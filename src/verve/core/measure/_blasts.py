"""Bursts of air: energy under 80 Hz that comes and goes without the harmonics of a note."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from verve.core.measure._windows import WINDOWS_PER_S
from verve.core.units import FloatArray

_ABOVE_MEDIAN = 10.0**1.2
_BELOW_OWN_PEAK = 0.01
_SHORTEST_S, _LONGEST_S = 0.04, 0.5
_ABOVE_NOTE, _TO_NOTE = 4.0, 0.5
_LEAST_POWER = 1e-9
"""About −87 dBFS: below that nothing booms."""
_BEFORE_WINDOWS = 8
_MOST = 1_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Blast:
    """Where a burst of air is."""

    start_frame: int
    frames: int


def find_blasts(low: FloatArray, note: FloatArray, rate_hz: int) -> tuple[Blast, ...]:
    """Bursts among the powers of windows: under 80 Hz, and from 90 to 400 Hz."""
    if not len(low):
        return ()
    threshold = max(float(np.median(low)) * _ABOVE_MEDIAN, _LEAST_POWER)
    found: list[Blast] = []
    edges = np.flatnonzero(np.diff(np.concatenate([[0], (low > threshold).astype(np.int8), [0]])))
    for first, stop in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
        peak = first + int(np.argmax(low[first:stop]))
        # Its skirts are the window's, not its own.
        inside = np.flatnonzero(low[first:stop] > low[peak] * _BELOW_OWN_PEAK)
        begin, end = first + int(inside[0]), first + int(inside[-1]) + 1
        # A click is in two or three windows, though it takes no time.
        length_s = (end - begin - 1) / WINDOWS_PER_S
        if not _SHORTEST_S <= length_s <= _LONGEST_S:
            continue
        before = note[max(0, begin - _BEFORE_WINDOWS) : begin]
        usual = float(before.mean()) if len(before) else 0.0
        during = float(note[begin:end].mean())
        bass = float(low[begin:end].mean())
        # A note that begins or ends is heard under 80 Hz too, as a splash well below itself.
        if bass < max(_ABOVE_NOTE * abs(during - usual), _TO_NOTE * during) or len(found) == _MOST:
            continue
        # A window is twice as long as they are apart: it begins half of that before its middle.
        start = begin * rate_hz // WINDOWS_PER_S + rate_hz // (2 * WINDOWS_PER_S)
        found.append(Blast(start_frame=start, frames=(end - begin) * rate_hz // WINDOWS_PER_S))
    return tuple(found)
