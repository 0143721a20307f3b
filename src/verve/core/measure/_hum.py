"""Hum of the mains in what is left when nobody plays: lines at multiples of one frequency near 50 or 60 Hz."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from verve.core.units import ComplexArray, FloatArray

HARMONICS = 20
_NEAR = 0.002
"""How far from 50 or 60 Hz mains stay."""
_WIDE = 0.008
"""How far is looked: what is loudest outside of the mains' own range is no mains."""
_STEPS = 161
_BLOCK_S = 0.1
"""A Hann window of 0.1 s is blind for everything a multiple of 10 Hz away, from 20 Hz on."""
_NOISE_BAND_HZ = 15.0
"""The noise bandwidth of that window, 1.5 ÷ 0.1 s."""
_ABOVE_NOISE = 10.0
_AROUND_HZ = 3.0
_FOR_HZ_S = 1.0
MOST_S = 30.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Harmonic:
    """One line of the hum."""

    number: int
    hz: float
    level_dbfs: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Hum:
    """The mains' frequency that was found, None for none; `hz` is None where too little is there to tell it."""

    mains_hz: int | None
    hz: float | None
    level_dbfs: float | None
    harmonics: tuple[Harmonic, ...] = ()


NO_HUM = Hum(mains_hz=None, hz=None, level_dbfs=None)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Piece:
    """Consecutive slow samples of a pause, and when the first of them was.

    shape: samples (n,)
    """

    start_s: float
    samples: FloatArray


def find_hum(pieces: Sequence[Piece], rate_hz: float) -> Hum:
    """The hum in pieces of pauses that have so many samples a second; the likelier of 50 and 60 Hz."""
    size = round(_BLOCK_S * rate_hz)
    long_enough = [piece for piece in pieces if len(piece.samples) >= 2 * size]
    if not long_enough:
        return NO_HUM
    found = [_at_mains(long_enough, rate_hz, size, mains) for mains in (50, 60)]
    return max(found, key=lambda hum: -math.inf if hum.level_dbfs is None else hum.level_dbfs)


def _at_mains(pieces: Sequence[Piece], rate_hz: float, size: int, mains: int) -> Hum:
    numbers = np.arange(1.0, HARMONICS + 1.0)
    blocks = [_demodulated(piece, rate_hz, size, mains, numbers) for piece in pieces]
    offsets = np.linspace(-_WIDE, _WIDE, _STEPS) * mains
    score, noise = _scores(blocks, offsets, numbers)
    usable = score > 3.0 * np.median(score, axis=1, keepdims=True)
    weights = np.where(usable.any(axis=1), 1.0 / noise, 0.0)
    total = weights @ score
    if not total.any():
        return NO_HUM
    best = float(offsets[int(np.argmax(total))])
    best = _refined(blocks, numbers, weights, best, offsets[1] - offsets[0])
    if abs(best) > _NEAR * mains * 1.05:
        return NO_HUM
    power, residual = _lines(blocks, numbers, best)
    stands = power >= _ABOVE_NOISE * _AROUND_HZ * residual / _NOISE_BAND_HZ
    count = int(stands.sum())
    if not (stands[0] or count >= 2):
        return NO_HUM
    hz = mains + best
    lines = tuple(
        Harmonic(
            number=int(n),
            hz=float(n * hz),
            level_dbfs=10.0 * math.log10(4.0 * float(power[int(n) - 1])),
        )
        for n in numbers[stands]
    )
    length_s = sum(len(piece.samples) for piece in pieces) / rate_hz
    return Hum(
        mains_hz=mains,
        hz=hz if length_s >= _FOR_HZ_S else None,
        level_dbfs=10.0 * math.log10(4.0 * float(power[stands].sum())),
        harmonics=lines,
    )


_Blocks = tuple[FloatArray, ComplexArray]
"""Times of blocks, and what each harmonic has there."""


def _demodulated(
    piece: Piece, rate_hz: float, size: int, mains: int, numbers: FloatArray
) -> _Blocks:
    """Each harmonic brought down to 0 Hz, once every half block.

    shape: (n_blocks,), (n_harmonics, n_blocks)
    """
    hann = 0.5 - 0.5 * np.cos(2.0 * np.pi * np.arange(size) / size)
    hann /= hann.sum()
    starts = np.arange(0, len(piece.samples) - size + 1, size // 2)
    windows = np.lib.stride_tricks.sliding_window_view(piece.samples, size)[starts] * hann
    inside = np.arange(size) / rate_hz
    wave = np.exp(-2j * np.pi * mains * np.outer(inside, numbers))
    at_start = piece.start_s + starts / rate_hz
    turned = np.exp(-2j * np.pi * mains * np.outer(numbers, at_start))
    return at_start + _BLOCK_S / 2.0, (windows @ wave).T * turned


def _scores(
    blocks: Sequence[_Blocks], offsets: FloatArray, numbers: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """How much of each harmonic lies at each offset from the mains, and what is left of it at the best.

    shape: (n_harmonics, n_offsets), (n_harmonics,)
    """
    score = np.zeros((len(numbers), len(offsets)))
    whole = np.zeros(len(numbers))
    count = 0
    for times, values in blocks:
        for index, number in enumerate(numbers):
            turned = np.exp(-2j * np.pi * number * np.outer(offsets, times)) @ values[index]
            score[index] += np.abs(turned) ** 2 / len(times)
        whole += (np.abs(values) ** 2).sum(axis=1)
        count += len(times)
    left = (whole - score.max(axis=1)) / max(1, count - len(blocks))
    return score, np.maximum(left, 1e-30)


def _refined(
    blocks: Sequence[_Blocks], numbers: FloatArray, weights: FloatArray, best: float, step: float
) -> float:
    """The offset to a thousandth of a hertz or so, by looking closer twice."""
    for _ in range(3):
        offsets = best + np.linspace(-step, step, 21)
        score, _noise = _scores(blocks, offsets, numbers)
        total = weights @ score
        at = int(np.argmax(total))
        best = float(offsets[at])
        if 0 < at < 20:
            low, middle, high = (float(v) for v in total[at - 1 : at + 2])
            bend = low - 2.0 * middle + high
            if bend < 0.0:
                best += 0.5 * (low - high) / bend * float(offsets[1] - offsets[0])
        step /= 10.0
    return best


def _lines(
    blocks: Sequence[_Blocks], numbers: FloatArray, offset: float
) -> tuple[FloatArray, FloatArray]:
    """Squared amplitude ÷ 4 of each line, and the power of what is left in its window.

    shape: (n_harmonics,), (n_harmonics,)
    """
    power = np.zeros(len(numbers))
    left = np.zeros(len(numbers))
    free = total = 0
    for times, values in blocks:
        turned = values * np.exp(-2j * np.pi * offset * np.outer(numbers, times))
        mean = turned.mean(axis=1)
        rest = (np.abs(turned - mean[:, None]) ** 2).sum(axis=1)
        left += rest
        free += max(1, len(times) - 1)
        power += np.abs(mean) ** 2 * len(times)
        total += len(times)
    left = left / free
    # Of noise alone a mean would have so much.
    return np.maximum(power / total - left * len(blocks) / total, 0.0), left
