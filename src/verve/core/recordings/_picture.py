"""A recording over time as so many columns as a picture has: from the lowest to the highest level in each."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from verve.core.measure import Recording
from verve.core.units import FloatArray


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """A stretch of time: its A-weighted level at its quietest and loudest 50 ms, and its highest peak, in dBFS.

    None for digital silence.
    """

    start_s: float
    end_s: float
    lowest_dbfs: float | None
    highest_dbfs: float | None
    peak_dbfs: float | None


def columns_of(
    recording: Recording, channel: int, begin_s: float, end_s: float, count: int
) -> tuple[Column, ...]:
    """The columns of a channel between two times; none where there is nothing to be seen."""
    course = recording.course
    if channel >= len(course.a_weighted) or not len(course.a_weighted[channel]) or count < 1:
        return ()
    weighted, peaks = course.a_weighted[channel], course.peaks[channel]
    edges = np.linspace(begin_s, end_s, count + 1)
    first = np.clip((edges[:-1] / course.window_s).astype(int), 0, len(weighted) - 1)
    stop = np.clip(np.ceil(edges[1:] / course.window_s).astype(int), first + 1, len(weighted))
    return tuple(
        Column(
            start_s=float(edges[number]),
            end_s=float(edges[number + 1]),
            lowest_dbfs=_power_dbfs(float(weighted[a:b].min())),
            highest_dbfs=_power_dbfs(float(weighted[a:b].max())),
            peak_dbfs=_peak_dbfs(float(peaks[a:b].max())),
        )
        for number, (a, b) in enumerate(zip(first.tolist(), stop.tolist(), strict=True))
    )


def loudness_columns(
    recording: Recording, begin_s: float, end_s: float, count: int
) -> tuple[tuple[float, float | None, float | None], ...]:
    """Of each column its middle, the highest momentary and the highest short-term loudness in it, in LUFS.

    Momentary loudness is told at the middle of its 400 ms, short-term loudness at the middle of its 3 s.
    """
    course = recording.course
    edges = np.linspace(begin_s, end_s, count + 1)
    momentary = _highest(course.momentary_lufs, edges - 0.2, course.hop_s)
    short_term = _highest(course.short_term_lufs, edges - 1.5, course.hop_s)
    middles = (edges[:-1] + edges[1:]) / 2.0
    return tuple(zip(middles.tolist(), momentary, short_term, strict=True))


def _highest(values: FloatArray, edges_s: FloatArray, hop_s: float) -> list[float | None]:
    found: list[float | None] = []
    for a, b in zip(edges_s[:-1] / hop_s, edges_s[1:] / hop_s, strict=True):
        part = values[max(0, math.floor(a)) : max(0, math.ceil(b))]
        highest = float(part.max()) if len(part) else -math.inf
        found.append(highest if math.isfinite(highest) else None)
    return found


def _power_dbfs(mean_square: float) -> float | None:
    return 10.0 * math.log10(2.0 * mean_square) if mean_square > 0.0 else None


def _peak_dbfs(peak: float) -> float | None:
    return 20.0 * math.log10(peak) if peak > 0.0 else None
