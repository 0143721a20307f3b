"""Where parts of a signal stand in what came back: how far the clocks differ, and whether it is the signal at all."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.fft import irfft, next_fast_len, rfft
from scipy.signal import fftconvolve, resample

from verve.core.units import ComplexArray, FloatArray

_PARTS = 24
_UP = 32
MOST_PPM = 700.0
_LEAST_CLOCK_S = 0.5
_PART_REACH, _PART_UP = 64, 8
_NEAR = 20
"""Eighths of a frame."""
_NO_GAIN = 2e-3
"""Clocks agree where their difference would make the whole go together better by less."""
_AGREEING = 0.6
_LEAST_INSIDE = 0.25


def height_of(response: FloatArray) -> tuple[float, int]:
    """How far the highest stands above what is usual, and where it is."""
    magnitude = np.abs(response)
    at = int(np.argmax(magnitude))
    usual = float(np.sqrt(np.mean(response**2)))
    # In a room most of the response is reverberation: what is usual is half of all, not its mean.
    median = float(np.median(magnitude)) / 0.6745
    floor = max(min(usual, 3.0 * median), 1e-30)
    return float(magnitude[at]) / floor, at


def peak_of(response: FloatArray, at: int) -> tuple[float, float]:
    """Where between frames the response is highest, and how high, by the wave between the samples."""
    reach = 24
    offsets = np.arange(-reach, reach + 1)
    part = np.array([response[(at + o) % len(response)] for o in offsets])
    fine = np.arange(-1.5, 1.5 + 1e-9, 1.0 / _UP)
    window = np.cos(np.pi * offsets / (2.0 * reach + 2.0)) ** 2
    wave = np.array([float(np.sum(part * np.sinc(f - offsets) * window)) for f in fine])
    best = int(np.argmax(np.abs(wave)))
    shift = float(fine[best])
    if 0 < best < len(fine) - 1:
        low, middle, high = np.abs(wave[best - 1 : best + 2])
        bend = low - 2.0 * middle + high
        if bend < 0.0:
            shift += 0.5 * float((low - high) / bend) / _UP
    return at + shift, float(wave[best])


def warped(sent: FloatArray, share: float) -> FloatArray:
    """The sent signal as a clock that is ahead by so much would write it: frame s at s·(1 + ε)."""
    length = math.ceil(len(sent) * (1.0 + share)) + 1
    return delayed(
        sent, np.linspace(0.0, float((length - 1) / (1.0 + share)), length, dtype=np.float64)
    )


def delayed(signal: FloatArray, at: FloatArray) -> FloatArray:
    """A signal's wave at places between its frames; 0 outside of it."""
    reach = 16
    whole = np.floor(at).astype(np.int64)
    part = at - whole
    padded = np.pad(signal, (reach, reach + 1))
    found = np.zeros(len(at))
    offsets = np.arange(-reach + 1, reach + 1)
    inside = (whole >= -reach + 1) & (whole < len(signal) + reach - 1)
    for offset in offsets:
        distance = part - offset
        taps = np.sinc(distance) * np.cos(np.pi * distance / (2.0 * (reach + 1))) ** 2
        index = np.clip(whole + offset + reach, 0, len(padded) - 1)
        found += padded[index] * taps
    return np.where(inside, found, 0.0)


def active(sent: FloatArray) -> tuple[int, int]:
    """Where the sent signal begins and stops to sound."""
    loud = np.flatnonzero(np.abs(sent) > np.abs(sent).max() * 1e-2)
    return int(loud[0]), int(loud[-1]) + 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Parts:
    """The responses to some parts of a signal, near where it is looked for.

    shape: responses (n_parts, n_places), middles (n_parts,); `low` is the place of the first column
    """

    responses: FloatArray
    middles: FloatArray
    low: int


def parts_of(
    sent: FloatArray, inverse: ComplexArray, response: FloatArray, rate_hz: int
) -> Parts | None:
    """The response to each of some parts of the signal; None for one too short to have any.

    Looked for is where the whole response has most, as far about that as clocks can differ.

    shape: inverse (size // 2 + 1,), response (size,) with delay 0 at len(sent)
    """
    first, last = active(sent)
    if (last - first) / rate_hz < _LEAST_CLOCK_S:
        return None
    size = len(response)
    length = 2 * (last - first) // (_PARTS + 1)
    hann = 0.5 - 0.5 * np.cos(2.0 * np.pi * (np.arange(length) + 0.5) / length)
    begins = first + np.arange(_PARTS) * (length // 2)
    begins = begins[begins < len(sent)]
    middles = np.asarray(begins + length / 2.0, dtype=np.float64)
    reach = math.ceil(MOST_PPM * 1e-6 * float(middles[-1])) + 32
    energy = np.concatenate([[0.0], np.cumsum(response**2)])
    # Later parts may arrive earlier or later than the first: all of them within the reach.
    span = 2 * reach + 1
    region = int(np.argmax(energy[span:] - energy[:-span])) + reach
    low, high = max(0, region - 2 * reach), min(size, region + 2 * reach + 1)
    # Each part by itself is short, and so is the stretch of what came back that it can be in.
    whitened = irfft(inverse, size)
    wide = length + high - low - 1
    places = begins[:, None] + (low - len(sent)) + np.arange(wide)[None, :]
    back = whitened[places % size]
    padded = np.pad(sent, (0, length))
    parts = padded[begins[:, None] + np.arange(length)[None, :]] * hann
    fast = next_fast_len(wide, real=True)
    crossed = irfft(rfft(back, fast, axis=1) * np.conj(rfft(parts, fast, axis=1)), fast, axis=1)
    return Parts(responses=crossed[:, : high - low], middles=middles, low=low)


def over_clocks(parts: Parts, floor: float) -> tuple[float, int, float, int]:
    """Of all differences of the clocks that where the response is highest: height, place, difference, and sign.

    The place is where frame 0 of the sent signal would arrive; `floor` is what is usual in the whole response.
    """
    responses, middles = parts.responses, parts.middles
    width = responses.shape[1]
    step = 0.25 / float(np.ptp(middles))
    count = math.ceil(MOST_PPM * 1e-6 / step)
    # Moved by whole frames: rows with room to either side, of which stretches are added.
    most = math.ceil(MOST_PPM * 1e-6 * float(middles[-1])) + 2
    roomy = np.pad(responses, ((0, 0), (most, most)), mode="edge")
    best = (0.0, parts.low + width // 2, 0.0, 1)
    for share in np.arange(-count, count + 1) * step:
        moved = np.zeros(width)
        for row, middle in zip(roomy, middles, strict=True):
            at = most + round(float(share * middle))
            moved += row[at : at + width]
        place = int(np.argmax(np.abs(moved)))
        sign = 1 if moved[place] >= 0.0 else -1
        best = max(best, (abs(float(moved[place])) / floor, parts.low + place, float(share), sign))
    return best


def fitted_clock(
    sent: FloatArray, returned: FloatArray, delay: float, share: float, sign: int
) -> float | None:
    """The difference of the clocks at which parts of the signal go together best; None where they do not.

    Chance, and other notes, have parts that by themselves would arrive at any time.
    """
    first, last = active(sent)
    length = max((last - first) // _PARTS, 256)
    reach = _PART_REACH
    middles, crossed, offsets = [], [], []
    inside = total = 0.0
    for begin in range(first, last - length + 1, max(1, length // 2)):
        middle = begin + length / 2.0
        part = sent[begin : begin + length] * np.hanning(length)
        place = begin + round(delay + middle * share)
        back = returned[max(0, place - reach) : place + length + reach]
        energy = float(np.sum(part**2))
        total += energy
        if place < reach or len(back) < length + 2 * reach or not np.any(part):
            continue
        found = resample(fftconvolve(sign * back, part[::-1], "valid"), _PART_UP * (2 * reach + 1))
        inside += energy
        crossed.append(found / math.sqrt(energy))
        middles.append(middle)
        # What rounding to a frame has left.
        offsets.append(delay + middle * share - round(delay + middle * share))
    # At the ends of a file chance has only one or two parts to agree with.
    if inside < _LEAST_INSIDE * total or not crossed:
        return None
    x, values = np.array(middles), np.array(crossed)
    x = x - x.mean()
    found_share, at = _best_line(values, x, np.array(offsets))
    lines = at + _PART_UP * (found_share * x + np.array(offsets))
    near = [
        float(np.abs(row[max(0, round(c) - _NEAR) : max(0, round(c) + _NEAR + 1)]).max(initial=0.0))
        for row, c in zip(values, lines, strict=True)
    ]
    magnitude = np.abs(values)
    highest = magnitude.max(axis=1)
    # A rumble goes with everything about as well at any time: such a part says nothing of when it came.
    tells = np.median(magnitude, axis=1) < 0.5 * highest
    agree = np.count_nonzero(tells & (np.array(near) >= 0.95 * highest))
    if agree < max(_AGREEING * np.count_nonzero(tells), min(3, (last - first) // length)):
        return None
    long_enough = len(values) >= 6 and last - first >= 1.2 * _PARTS * 256
    if not long_enough:
        return 0.0
    if not (share or found_share):
        return 0.0
    slope, uncertain = _straightened(values, x, lines, found_share)
    # Reverberation scatters the parts: what that alone could make is no difference of clocks.
    return share + slope if abs(share + slope) > 8.0 * uncertain else 0.0


def _best_line(values: FloatArray, x: FloatArray, offsets: FloatArray) -> tuple[float, float]:
    """Of all straight lines through the parts' correlations the one with the highest sum: its slope and middle.

    `values` are eight a frame, and `x` frames about their mean; the middle is in eighths of a frame.
    """
    width = values.shape[1]
    reach = float(np.abs(x).max(initial=0.0))
    if len(values) < 6 or reach == 0.0:
        total = values.sum(axis=0)
        return 0.0, float(np.argmax(total))
    step = 0.5 / (_PART_UP * reach)
    count = math.ceil(MOST_PPM * 1e-6 / step)
    margin = width // 4
    places = np.arange(margin, width - margin)
    sums = np.full(2 * count + 1, -np.inf)
    middles = np.zeros(2 * count + 1)
    for number in range(2 * count + 1):
        moved = np.round(_PART_UP * ((number - count) * step * x + offsets)).astype(np.int64)
        if np.abs(moved).max() >= margin:
            continue
        total = np.zeros(len(places))
        for row, shift in zip(values, moved.tolist(), strict=True):
            total += row[margin + shift : width - margin + shift]
        sums[number] = total.max()
        middles[number] = margin + int(np.argmax(total))
    best = int(np.argmax(sums))
    if sums[count] >= (1.0 - _NO_GAIN) * sums[best]:
        return 0.0, float(middles[count])
    slope = float(best - count)
    if 0 < best < 2 * count and np.isfinite(sums[best - 1 : best + 2]).all():
        # Rounding to eighths roughens the sums: a parabola through more of them than three.
        low, high = max(0, best - 6), min(2 * count, best + 6)
        around = np.arange(low, high + 1)
        fitted = np.polynomial.polynomial.polyfit(around - best, sums[low : high + 1], 2)
        if fitted[2] < 0.0:
            slope += float(np.clip(-fitted[1] / (2.0 * fitted[2]), -3.0, 3.0))
    return slope * step, float(middles[best])


def _straightened(
    values: FloatArray, x: FloatArray, lines: FloatArray, slope: float
) -> tuple[float, float]:
    """A slope again, and how sure it is, through each part's own peak next to the line: no eighths of a frame."""
    apart, weights, at_x = [], [], []
    for row, line, middle in zip(values, lines.tolist(), x.tolist(), strict=True):
        low = max(1, round(line) - _PART_UP)
        high = min(len(row) - 1, round(line) + _PART_UP + 1)
        part = row[low:high]
        peaks = low + np.flatnonzero(
            (part >= row[low - 1 : high - 1]) & (part > row[low + 1 : high + 1]) & (part > 0.0)
        )
        if not len(peaks):
            continue
        at = int(peaks[np.argmin(np.abs(peaks - line))])
        before, here, after = (float(v) for v in row[at - 1 : at + 2])
        bend = before - 2.0 * here + after
        if bend >= 0.0:
            continue
        apart.append((at + 0.5 * (before - after) / bend - line) / _PART_UP)
        weights.append(-bend / here)
        at_x.append(middle)
    if len(apart) < 6:
        return slope, 0.0
    more, uncertain = _slope(np.array(at_x), np.array(apart), np.array(weights))
    return slope + more, uncertain


def _slope(x: FloatArray, y: FloatArray, weights: FloatArray) -> tuple[float, float]:
    """The slope of a straight line through most of some points, and its own deviation."""
    near = np.ones(len(x), dtype=bool)
    slope = 0.0
    for _ in range(4):
        w = weights * near
        w = w / w.sum()
        mean_x, mean_y = float(w @ x), float(w @ y)
        spread = float(w @ (x - mean_x) ** 2)
        slope = float(w @ ((x - mean_x) * (y - mean_y))) / spread
        left = np.abs(y - mean_y - slope * (x - mean_x))
        near = left <= max(0.05, 4.0 * float(np.median(left[near])))
        if np.count_nonzero(near) < 5:
            break
    return slope, math.sqrt(float(np.sum((w * (x - mean_x) * left) ** 2))) / spread
