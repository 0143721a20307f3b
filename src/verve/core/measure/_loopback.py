"""What came back of a signal that was sent: when, how loud, by how many ways, and whether the clocks agree.

The returned file is deconvolved with the sent one: what is left is what the way between them answers to a click. Its
first arrival is the answer. The clocks are compared by where parts of the signal, one after the other, arrive.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from scipy.fft import irfft, next_fast_len, rfft
from scipy.signal import fftconvolve, resample

from verve.core.units import FloatArray

_REGULAR = (3e-3, 1.0)
"""Of the sent signal's mean power density: what is far below it tells nothing."""
_LEAST_HEIGHT = 9.0
"""An arrival stands so many times above what is usual, or is none."""
_FIRST_ABOVE = 6.5
_FIRST_WITHIN_DB, _OTHERS_WITHIN_DB = 10.0, 20.0
_OTHERS_S = 0.001
_MOST_OTHERS = 20
_LOW_HZ, _HIGH_SHARE = 20.0, 0.46
_DIFFERS_PPM = 20.0
_PARTS = 24
_ACTIVE_DB = 60.0
_PERIODIC = 0.9
_UP = 32
_MOST_PPM = 700.0
_LEAST_CLOCK_S = 0.5
_PART_REACH, _PART_UP = 64, 8
_NEAR = 20
"""Eighths of a frame."""
_NO_GAIN = 2e-3
"""Clocks agree where their difference would make the whole go together better by less."""
_AGREEING = 0.6


@dataclass(frozen=True, slots=True, kw_only=True)
class Arrival:
    """A later arrival: when, and how loud, both as those of the first."""

    delay_frames: float
    level_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Loopback:
    """What stands at frame s of the sent signal stands at `delay_frames` + s·(1 + ε) of the returned one.

    `clock_difference_ppm` is ε·10⁶. Delay, polarity and level are None where nothing was found; `reason` says why.
    """

    found: bool
    delay_frames: float | None
    delay_ms: float | None
    polarity_inverted: bool | None
    level_db: float | None
    clock_difference_ppm: float | None
    clock_differs: bool
    is_complete: bool
    channel: int | None
    channel_map: tuple[int | None, ...]
    channels_inverted: tuple[bool, ...]
    snr_db: float | None
    confidence: float
    other_arrivals: tuple[Arrival, ...]
    reason: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class _Answer:
    """What one returned channel holds of one sent channel."""

    height: float
    delay: float
    sign: int
    share: float
    """How far the clock of the returned one is ahead, ε."""
    response: FloatArray
    zero: int


def loopback_of(sent: FloatArray, returned: FloatArray, rate_hz: int) -> Loopback:
    """What of the sent signal is in the returned one.

    shape: sent (n_sent_channels, n_frames), returned (n_returned_channels, m_frames)
    """
    none = _nothing(returned.shape[0])
    sent = np.asarray(sent, dtype=np.float64)
    returned = np.asarray(returned, dtype=np.float64)
    if not np.any(sent):
        return replace(none, reason="the sent file is silent")
    if not np.any(returned):
        return replace(none, reason="the returned file is silent")
    if any(is_periodic(channel) for channel in sent if np.any(channel)):
        return replace(none, reason="ambiguous")
    answers = [
        [_answer(one, back, rate_hz) if np.any(one) and np.any(back) else None for one in sent]
        for back in returned
    ]
    best = [_best_of(row) for row in answers]
    mapped = tuple(number for number in best)
    inverted = tuple(
        n is not None and (a := row[n]) is not None and a.sign < 0
        for n, row in zip(best, answers, strict=True)
    )
    held = [
        (a.height, channel, number)
        for channel, number in enumerate(best)
        if number is not None and (a := answers[channel][number]) is not None
    ]
    if not held:
        return replace(none, reason="not found: the returned file does not contain what was sent")
    # Of the channels that hold something the first sent one is told.
    first_sent = min(number for _, _, number in held)
    _, channel, number = max(one for one in held if one[2] == first_sent)
    answer = answers[channel][number]
    assert answer is not None
    return _told(sent[number], returned[channel], rate_hz, answer, channel, mapped, inverted)


def _nothing(channels: int) -> Loopback:
    return Loopback(
        found=False,
        delay_frames=None,
        delay_ms=None,
        polarity_inverted=None,
        level_db=None,
        clock_difference_ppm=None,
        clock_differs=False,
        is_complete=False,
        channel=None,
        channel_map=(None,) * channels,
        channels_inverted=(False,) * channels,
        snr_db=None,
        confidence=0.0,
        other_arrivals=(),
        reason=None,
    )


def _best_of(row: list[_Answer | None]) -> int | None:
    """The sent channel that a returned one holds."""
    heights = [0.0 if a is None else a.height for a in row]
    best = int(np.argmax(heights))
    return best if heights[best] >= _LEAST_HEIGHT else None


def is_periodic(signal: FloatArray) -> bool:
    """Whether a signal is nearly the same again some time later, so that a delay could be one period off."""
    size = next_fast_len(2 * len(signal), real=True)
    power = np.abs(rfft(signal, size)) ** 2
    alike = irfft(power, size)[: len(signal) // 2 + 1]
    if alike[0] <= 0.0:
        return False
    squares = np.concatenate([[0.0], np.cumsum(signal**2)])
    lags = np.arange(len(alike))
    head, tail = squares[len(signal) - lags], squares[len(signal)] - squares[lags]
    scale = np.sqrt(np.maximum(head * tail, 1e-30))
    enough = np.minimum(head, tail) > 0.2 * alike[0]
    clear = np.where(enough, alike / scale, 0.0)
    below = np.flatnonzero(clear < 0.3)
    return bool(len(below)) and float(clear[int(below[0]) :].max()) > _PERIODIC


def _answer(sent: FloatArray, returned: FloatArray, rate_hz: int) -> _Answer | None:
    """What a returned channel has of a sent one; None where it has none of it."""
    longest = math.ceil(len(sent) * (1.0 + _MOST_PPM * 1e-6)) + len(returned) + 2
    size = next_fast_len(longest, real=True)
    hz = np.arange(size // 2 + 1) * rate_hz / size
    band = (hz >= _LOW_HZ) & (hz <= _HIGH_SHARE * rate_hz)
    spectrum, back = rfft(sent, size), rfft(returned, size)
    power = np.abs(spectrum) ** 2
    zero = len(sent)
    # Where there is much noise, a filter that only matches is surer than one that inverts.
    found = []
    for regular in _REGULAR:
        inverse = back * band / (power + regular * float(power[band].mean()))
        response = np.roll(irfft(inverse * np.conj(spectrum), size), zero)
        height, at = _height(response)
        found.append((height, at, 0.0, inverse))
        parts = _parts(sent, inverse, size, rate_hz)
        if parts is not None:
            found.append((*_over_clocks(*parts), inverse))
    height, at, share, inverse = max(found, key=lambda one: one[0])
    if height < _LEAST_HEIGHT:
        return None
    sign = (
        _peak(np.roll(irfft(inverse * np.conj(spectrum), size), zero), at)[1]
        if share == 0.0
        else 1.0
    )
    fitted = _fitted(sent, returned, at - zero, share, 1 if sign >= 0.0 else -1)
    if fitted is None:
        return None
    share = fitted
    warped = sent if share == 0.0 else _warped(sent, share)
    spectrum = rfft(warped, size)
    power = np.abs(spectrum) ** 2
    responses = [
        np.roll(
            irfft(
                back * np.conj(spectrum) * band / (power + regular * float(power[band].mean())),
                size,
            ),
            zero,
        )
        for regular in _REGULAR
    ]
    response = max(responses, key=lambda one: _height(one)[0])
    height, at = _height(response)
    first = _first_arrival(response, at, abs(float(response[at])) / height)
    place, value = _peak(response, first)
    return _Answer(
        height=height,
        delay=place - zero,
        sign=1 if value >= 0.0 else -1,
        share=share,
        response=response,
        zero=zero,
    )


def _active(sent: FloatArray) -> tuple[int, int]:
    """Where the sent signal begins and stops to sound."""
    loud = np.flatnonzero(np.abs(sent) > np.abs(sent).max() * 1e-2)
    return int(loud[0]), int(loud[-1]) + 1


def _parts(
    sent: FloatArray, inverse: FloatArray, size: int, rate_hz: int
) -> tuple[FloatArray, FloatArray] | None:
    """The response to each of some parts of the signal, and their middles; None for one too short to have any.

    shape: (n_parts, n_frames), (n_parts,)
    """
    first, last = _active(sent)
    if (last - first) / rate_hz < _LEAST_CLOCK_S:
        return None
    length = 2 * (last - first) // (_PARTS + 1)
    hann = 0.5 - 0.5 * np.cos(2.0 * np.pi * (np.arange(length) + 0.5) / length)
    responses, middles = [], []
    for number in range(_PARTS):
        begin = first + number * length // 2
        part = np.zeros(len(sent))
        part[begin : begin + length] = sent[begin : begin + length] * hann[: len(sent) - begin]
        responses.append(np.roll(irfft(inverse * np.conj(rfft(part, size)), size), len(sent)))
        middles.append(begin + length / 2.0)
    return np.array(responses), np.array(middles)


def _over_clocks(responses: FloatArray, middles: FloatArray) -> tuple[float, int, float]:
    """Of all differences of the clocks that where the response is highest: its height, place, and the difference.

    The place is where frame 0 of the sent signal would arrive. It is looked for where all parts together have most.
    """
    reach = math.ceil(_MOST_PPM * 1e-6 * float(middles[-1])) + 32
    energy = np.concatenate([[0.0], np.cumsum(np.sum(responses**2, axis=0))])
    # Later parts may arrive earlier or later than the first: all of them within the reach.
    span = 2 * reach + 1
    region = int(np.argmax(energy[span:] - energy[:-span])) + reach
    low, high = max(0, region - 2 * reach), min(responses.shape[1], region + 2 * reach + 1)
    whole = np.sum(responses, axis=0)
    floor = abs(float(whole[int(np.argmax(np.abs(whole)))])) / _height(whole)[0]
    step = 0.25 / float(np.ptp(middles))
    count = math.ceil(_MOST_PPM * 1e-6 / step)
    best = (0.0, region, 0.0)
    places = np.arange(low, high)
    for share in np.arange(-count, count + 1) * step:
        moved = np.zeros(len(places))
        for response, middle in zip(responses, middles, strict=True):
            at = places + round(float(share * middle))
            moved += response[np.clip(at, 0, len(response) - 1)]
        place = int(np.argmax(np.abs(moved)))
        best = max(best, (abs(float(moved[place])) / floor, low + place, float(share)))
    return best


def _fitted(
    sent: FloatArray, returned: FloatArray, delay: float, share: float, sign: int
) -> float | None:
    """The difference of the clocks at which parts of the signal go together best; None where they do not.

    Chance, and other notes, have parts that by themselves would arrive at any time.
    """
    first, last = _active(sent)
    length = max((last - first) // _PARTS, 256)
    reach = _PART_REACH
    middles, crossed, offsets = [], [], []
    for begin in range(first, last - length + 1, max(1, length // 2)):
        middle = begin + length / 2.0
        part = sent[begin : begin + length] * np.hanning(length)
        place = begin + round(delay + middle * share)
        back = returned[max(0, place - reach) : place + length + reach]
        if place < reach or len(back) < length + 2 * reach or not np.any(part):
            continue
        found = resample(fftconvolve(sign * back, part[::-1], "valid"), _PART_UP * (2 * reach + 1))
        crossed.append(found / math.sqrt(float(np.sum(part**2))))
        middles.append(middle)
        # What rounding to a frame has left.
        offsets.append(delay + middle * share - round(delay + middle * share))
    if not crossed:
        return None
    x, values = np.array(middles), np.array(crossed)
    x = x - x.mean()
    found_share, at = _best_line(values, x, np.array(offsets))
    lines = at + _PART_UP * (found_share * x + np.array(offsets))
    near = [
        float(np.abs(row[max(0, round(c) - _NEAR) : max(0, round(c) + _NEAR + 1)]).max(initial=0.0))
        for row, c in zip(values, lines, strict=True)
    ]
    agree = np.count_nonzero(np.array(near) >= 0.95 * np.abs(values).max(axis=1))
    if agree < _AGREEING * len(values):
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
    count = math.ceil(_MOST_PPM * 1e-6 / step)
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


def _height(response: FloatArray) -> tuple[float, int]:
    """How far the highest stands above what is usual, and where it is."""
    magnitude = np.abs(response)
    at = int(np.argmax(magnitude))
    usual = float(np.sqrt(np.mean(response**2)))
    # In a room most of the response is reverberation: what is usual is half of all, not its mean.
    median = float(np.median(magnitude)) / 0.6745
    floor = max(min(usual, 3.0 * median), 1e-30)
    return float(magnitude[at]) / floor, at


def _first_arrival(response: FloatArray, at: int, floor: float) -> int:
    """The first peak that is within 10 dB of the highest, and above what is usual as well."""
    limit = max(abs(response[at]) * 10.0 ** (-_FIRST_WITHIN_DB / 20.0), _FIRST_ABOVE * floor)
    magnitude = np.abs(response[: at + 1])
    is_peak = magnitude >= limit
    candidates = np.flatnonzero(is_peak)
    if not len(candidates):
        return at
    first = int(candidates[0])
    # It rises to its own top, and what is next to the highest is part of it.
    while first + 1 < len(response) and abs(response[first + 1]) > abs(response[first]):
        first += 1
    return at if at - first <= 3 else first


def _peak(response: FloatArray, at: int) -> tuple[float, float]:
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


def _warped(sent: FloatArray, share: float) -> FloatArray:
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


def _told(
    sent: FloatArray,
    returned: FloatArray,
    rate_hz: int,
    answer: _Answer,
    channel: int,
    mapped: tuple[int | None, ...],
    inverted: tuple[bool, ...],
) -> Loopback:
    frames = np.arange(len(returned), dtype=np.float64)
    model = delayed(sent, np.asarray((frames - answer.delay) / float(1.0 + answer.share)))
    energy = float(model @ model)
    gain = float(returned @ model) / energy if energy > 0.0 else 0.0
    fitted = gain * model
    residual = float(np.mean((returned - fitted) ** 2))
    loud = np.abs(model) > np.abs(sent).max() * 10.0 ** (-_ACTIVE_DB / 20.0)
    signal = float(np.mean(fitted[loud] ** 2)) if loud.any() else 0.0
    active = np.flatnonzero(np.abs(sent) > np.abs(sent).max() * 1e-3)
    begin = answer.delay + float(active[0]) * (1.0 + answer.share)
    end = answer.delay + float(active[-1]) * (1.0 + answer.share)
    ppm = answer.share * 1e6
    return Loopback(
        found=True,
        delay_frames=answer.delay,
        delay_ms=1000.0 * answer.delay / rate_hz,
        polarity_inverted=answer.sign < 0,
        level_db=None if gain == 0.0 else 20.0 * math.log10(abs(gain)),
        clock_difference_ppm=ppm,
        clock_differs=abs(ppm) > _DIFFERS_PPM,
        is_complete=begin >= -1.0 and end <= len(returned),
        channel=channel,
        channel_map=mapped,
        channels_inverted=inverted,
        snr_db=10.0 * math.log10(signal / residual) if signal > 0.0 and residual > 0.0 else None,
        confidence=1.0 - math.exp(-((answer.height / (2.0 * _LEAST_HEIGHT)) ** 2)),
        other_arrivals=_others(answer, rate_hz),
        reason=None,
    )


def _others(answer: _Answer, rate_hz: int) -> tuple[Arrival, ...]:
    """Arrivals more than 1 ms behind the first and within 20 dB of it."""
    first = round(answer.delay + answer.zero)
    apart = math.ceil(_OTHERS_S * rate_hz)
    level = abs(answer.response[first])
    magnitude = np.abs(answer.response[first + apart + 1 :])
    limit = level * 10.0 ** (-_OTHERS_WITHIN_DB / 20.0)
    found: list[Arrival] = []
    for at in np.argsort(magnitude)[::-1][: 400 * _MOST_OTHERS].tolist():
        if magnitude[at] < limit or len(found) == _MOST_OTHERS:
            break
        place = first + apart + 1 + at
        near = any(abs(place - answer.zero - one.delay_frames) < apart for one in found)
        if near:
            continue
        exact, value = _peak(answer.response, place)
        found.append(
            Arrival(
                delay_frames=exact - answer.zero, level_db=20.0 * math.log10(abs(value) / level)
            )
        )
    return tuple(sorted(found, key=lambda one: one.delay_frames))
