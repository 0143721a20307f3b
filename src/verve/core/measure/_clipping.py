"""Flat tops: where a wave was cut off, by the converter or by a stage before it.

A cell tells every flat top it has, with its frames; which of them are clipped is decided when all are known: at full
scale, or where several stand at one level that nothing goes above.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from verve.core.units import FloatArray, IntArray

Kind = Literal["full_scale", "below_full_scale"]
SHORTEST = 3
LONGEST_LIST = 10_000
REACH_S = 0.06
"""How far around a cell is looked at, so that a top on its edge is whole."""
_NEAR = 10.0 ** (-0.15 / 20.0)
_WIDE = 10.0 ** (-0.6 / 20.0)
"""How far below its highest a top that carries noise may reach."""
_SCATTER = 1.5
_CROWD = 8
"""So many runs at one level, with hardly any above, are needed where higher ones exist."""
_ROUNDER = 10.0 ** (0.05 / 20.0)
_HAIR = 1.0 - 10.0 ** (-0.02 / 20.0)
"""How far apart the frames of one top are without noise: what is on its way up or down is none of it."""
_LEAST_LEVEL = 10.0 ** (-50.0 / 20.0)
_MOST_NOISY = 3_000
"""Of a cell; they are looked at one by one."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ClippedRun:
    """Consecutive frames of one clipped top."""

    start_frame: int
    frames: int
    level_dbfs: float
    kind: Kind


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Tops:
    """Tops of a cell that are flat as if cut off, whatever their level.

    `scatter` is the deviation of what lies on top of a level, 0 where that is clean.

    shape: start, frames, sign, level, scatter (n_tops,)
    """

    start: IntArray
    frames: IntArray
    sign: IntArray
    level: FloatArray
    scatter: FloatArray
    highest: tuple[float, float]
    """Largest value upwards and downwards in the cell."""


def _no_tops(highest: tuple[float, float]) -> Tops:
    none = np.zeros(0, dtype=np.int64)
    return Tops(
        start=none, frames=none, sign=none, level=np.zeros(0), scatter=np.zeros(0), highest=highest
    )


def read_tops(samples: FloatArray, low: int, high: int, start_frame: int, lsb: float) -> Tops:
    """Flat tops that begin in samples[low:high], which begins at that frame of the recording."""
    inside = samples[low:high]
    highest = (max(0.0, float(inside.max())), max(0.0, -float(inside.min())))
    if max(highest) < _LEAST_LEVEL:
        return _no_tops(highest)
    magnitude = np.abs(samples)
    # A lobe is what lies between two changes of sign; its top is what is nearly as high as its highest.
    is_negative = np.signbit(samples)
    edges = np.flatnonzero(is_negative[1:] != is_negative[:-1]) + 1
    starts = np.concatenate([[0], edges])
    lengths = np.diff(np.concatenate([starts, [len(samples)]]))
    peaks = np.maximum.reduceat(magnitude, starts)
    hair = np.maximum(1.5 * lsb, peaks * _HAIR)
    peaks[(peaks < _LEAST_LEVEL) | (lengths < SHORTEST)] = np.inf
    clean = _spans(magnitude, peaks - hair, lengths, edges, low, high)
    begins, ends = _cut_off(magnitude, *clean)
    # A round top has many frames well below its highest; one that was cut has none but at its two ends.
    if len(begins):
        middle = (peaks - hair / 2.0)[np.searchsorted(edges, begins, side="right")]
        frames = ends - begins
        below = magnitude[_joined(begins, frames)] < np.repeat(middle, frames)
        counts = np.add.reduceat(below, np.cumsum(frames) - frames, dtype=np.int64)
        straight = counts <= 2 + frames // 12
        begins, ends = begins[straight], ends[straight]
    # What carries noise and is clipped is the highest there is of its sign.
    is_up = samples[starts] >= 0.0
    peaks[peaks < np.where(is_up, highest[0], highest[1]) * _WIDE] = np.inf
    noisy = _noisy(magnitude, peaks, lengths, edges, low, high, begins)
    found = sorted(
        [*((b, e, 0.0) for b, e in zip(begins.tolist(), ends.tolist(), strict=True)), *noisy]
    )
    if not found:
        return _no_tops(highest)
    begins = np.array([begin for begin, _, _ in found], dtype=np.int64)
    ends = np.array([end for _, end, _ in found], dtype=np.int64)
    return Tops(
        start=begins - low + start_frame,
        frames=ends - begins,
        sign=np.where(samples[begins] >= 0.0, 1, -1),
        level=_sums(magnitude, begins, ends) / (ends - begins),
        scatter=np.array([scatter for _, _, scatter in found]),
        highest=highest,
    )


def _sums(values: Any, begins: IntArray, ends: IntArray) -> FloatArray:
    """Sum of each of these stretches, none of them empty."""
    if not len(begins):
        return np.zeros(0)
    lengths = ends - begins
    inside = values[_joined(begins, lengths)]
    return np.add.reduceat(inside, np.cumsum(lengths) - lengths, dtype=np.float64)


def _joined(begins: IntArray, lengths: IntArray) -> IntArray:
    """The frames of some stretches, one after the other."""
    before = np.cumsum(lengths) - lengths
    return np.repeat(begins - before, lengths) + np.arange(lengths.sum())


def _spans(
    magnitude: FloatArray,
    limits: FloatArray,
    lengths: IntArray,
    edges: IntArray,
    low: int,
    high: int,
) -> tuple[IntArray, IntArray]:
    """Stretches of at least three frames over the limit of their lobe, which begin in [low, high)."""
    chosen = np.flatnonzero(np.isfinite(limits))
    frames = lengths[chosen]
    if 3 * int(frames.sum()) < len(magnitude):
        inside = _joined(np.concatenate([[0], edges])[chosen], frames)
        at = inside[magnitude[inside] >= np.repeat(limits[chosen], frames)]
    else:
        at = np.flatnonzero(magnitude >= np.repeat(limits, lengths))
    if not len(at):
        return at, at
    # Where a sign changes a top ends, though the next one may begin at once.
    lobes = np.searchsorted(edges, at, side="right")
    is_first = np.concatenate([[True], (np.diff(at) != 1) | (np.diff(lobes) != 0)])
    first = np.flatnonzero(is_first)
    begins, ends = at[first], at[np.concatenate([first[1:] - 1, [len(at) - 1]])] + 1
    fits = (begins >= max(low, 2)) & (begins < high) & (ends + 2 <= len(magnitude))
    fits &= ends - begins >= SHORTEST
    return begins[fits], ends[fits]


def _cut_off(magnitude: FloatArray, begins: IntArray, ends: IntArray) -> tuple[IntArray, IntArray]:
    """Those where the wave would have gone higher: the parabola through two samples on either side rises above."""
    if not len(begins):
        return begins, ends
    half = (ends - begins + 1) / 2.0
    before2, before1 = magnitude[begins - 2], magnitude[begins - 1]
    after1, after2 = magnitude[ends], magnitude[ends + 1]
    near, far = half * half, (half + 1.0) ** 2
    middle1, middle2 = (before1 + after1) / 2.0, (before2 + after2) / 2.0
    curve = (middle2 - middle1) / (far - near)
    slope = (half * (after1 - before1) + (half + 1.0) * (after2 - before2)) / (2.0 * (near + far))
    bends = curve < 0.0
    curve = np.where(bends, curve, -1.0)
    peak = middle1 - curve * near - slope * slope / (4.0 * curve)
    top = magnitude[(begins + ends) // 2]
    is_cut = bends & (peak > top * _ROUNDER)
    return begins[is_cut], ends[is_cut]


def _noisy(
    magnitude: FloatArray,
    peaks: FloatArray,
    lengths: IntArray,
    edges: IntArray,
    low: int,
    high: int,
    known: IntArray,
) -> list[tuple[int, int, float]]:
    """Cut tops that carry noise: straight but for what scatters about their level, and how far it does."""
    begins, ends = _cut_off(magnitude, *_spans(magnitude, peaks * _WIDE, lengths, edges, low, high))
    found: list[tuple[int, int, float]] = []
    fresh = np.searchsorted(known, begins) == np.searchsorted(known, ends)
    for begin, end in zip(
        begins[fresh][:_MOST_NOISY].tolist(), ends[fresh][:_MOST_NOISY].tolist(), strict=True
    ):
        top = magnitude[begin:end].astype(np.float64)
        level = float(np.median(top))
        scatter = 1.4826 * float(np.median(np.abs(top - level)))
        near = np.flatnonzero(np.abs(top - level) <= max(3.5 * scatter, level * _HAIR))
        first, stop = int(near[0]), int(near[-1]) + 1
        if stop - first >= 2 * SHORTEST and not _is_round(top[first:stop], scatter):
            found.append((begin + first, begin + stop, scatter))
    return found


def _is_round(top: FloatArray, scatter: float) -> bool:
    """Whether a top bends all the way, by more than its noise would."""
    at = np.linspace(-1.0, 1.0, len(top) - 2)
    fitted = np.polynomial.polynomial.polyfit(at, top[1:-1], 2)
    left = top[1:-1] - np.polynomial.polynomial.polyval(at, fitted)
    # So far noise alone bends the fit: the deviation of its square term is √(45 ÷ 4n) of the noise's own.
    bend = max(0.6, 3.5 * math.sqrt(11.25 / len(top))) * scatter
    if -float(fitted[2]) > bend or float(np.var(left)) < 0.35 * float(np.var(top)):
        return True
    # What scatters jumps from frame to frame; what ripples does not.
    return float(np.mean(np.diff(top) ** 2)) < 0.8 * float(np.var(top))


def find_clipped(
    tops: Sequence[Tops], *, lsb: float, noise_rms: float
) -> tuple[tuple[ClippedRun, ...], int, float | None]:
    """Of all flat tops those that are clipped: the runs, how many frames they have, and the level of most, dBFS.

    They stand at full scale, or at least three at a level of one sign that nothing goes above. `lsb` is the step of
    the file, 0 for floating point; `noise_rms` what stands in the pauses.
    """
    start, frames, sign, level, scatter = (
        np.concatenate([getattr(cell, name) for cell in tops])
        for name in ("start", "frames", "sign", "level", "scatter")
    )
    # Noise on a top is no more than what stands in the pauses.
    usable = scatter <= _SCATTER * noise_rms
    kind = np.zeros(len(start), dtype=np.int64)
    for own in (1, -1):
        highest = max(cell.highest[0 if own > 0 else 1] for cell in tops)
        mine = (sign == own) & usable
        kind[mine] = _kinds(level[mine], highest, lsb, noise_rms)
    is_clipped = kind > 0
    order = np.flatnonzero(is_clipped)[np.argsort(start[is_clipped], kind="stable")]
    runs = tuple(
        ClippedRun(
            start_frame=int(start[i]),
            frames=int(frames[i]),
            level_dbfs=20.0 * math.log10(float(level[i])),
            kind="full_scale" if kind[i] == 1 else "below_full_scale",
        )
        for i in order[:LONGEST_LIST]
    )
    return runs, int(frames[is_clipped].sum()), _usual_level(level[is_clipped])


def _kinds(level: FloatArray, highest: float, lsb: float, noise_rms: float) -> IntArray:
    """Of the tops of one sign: 1 at full scale, 2 clipped below it, 0 not clipped."""
    kind = np.zeros(len(level), dtype=np.int64)
    if not len(level):
        return kind
    kind[np.abs(level - 1.0) <= _tolerance(1.0, lsb, 0.0)] = 1
    if highest < 1.0 - 1.5 * lsb or highest > 1.0 + lsb:
        near = level >= highest - 2.0 * _tolerance(highest, lsb, noise_rms)
        _mark(kind, level, float(np.median(level[near])) if near.any() else highest, lsb, noise_rms)
    # Elsewhere only where a level is crowded: many tops within a hair, and hardly any just above.
    tenths = np.round(200.0 * np.log10(level)).astype(np.int64)
    values, counts = np.unique(tenths, return_counts=True)
    for value, count in zip(values.tolist(), counts.tolist(), strict=True):
        above = int(counts[(values >= value + 2) & (values <= value + 6)].sum())
        if count >= _CROWD and count > 4 * above:
            _mark(kind, level, 10.0 ** (value / 200.0), lsb, noise_rms)
    return kind


def _mark(kind: IntArray, level: FloatArray, at: float, lsb: float, noise_rms: float) -> None:
    """Take those at a level for clipped, if there are three."""
    there = (np.abs(level - at) <= _tolerance(at, lsb, noise_rms)) & (kind == 0)
    if np.count_nonzero(there) >= SHORTEST:
        kind[there] = 2


def _usual_level(level: FloatArray) -> float | None:
    """Where most of them stand."""
    if not len(level):
        return None
    levels = 20.0 * np.log10(level)
    rounded, counts = np.unique(np.round(levels, 1), return_counts=True)
    near = np.abs(levels - rounded[np.argmax(counts)]) <= 0.15
    return float(np.median(levels[near]))


def _tolerance(level: float, lsb: float, noise_rms: float) -> float:
    return max(lsb, level * (1.0 - _NEAR), 3.0 * noise_rms)
