"""What came back of a signal that was sent: when, how loud, by how many ways, and whether the clocks agree.

The returned file is deconvolved with the sent one: what is left is what the way between them answers to a click. Its
first arrival is the answer. The clocks are compared by where parts of the signal, one after the other, arrive.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.fft import irfft, next_fast_len, rfft

from verve.core.measure._clocks import (
    MOST_PPM,
    delayed,
    fitted_clock,
    height_of,
    over_clocks,
    parts_of,
    peak_of,
    warped,
)
from verve.core.units import ComplexArray, FloatArray

_REGULAR = (3e-3, 1.0)
"""Of the sent signal's mean power density: what is far below it tells nothing."""
LEAST_HEIGHT = 9.0
"""An arrival stands so many times above what is usual, or is none."""
_FIRST_ABOVE = 6.5
_FIRST_WITHIN_DB, _OTHERS_WITHIN_DB = 10.0, 20.0
_OTHERS_S = 0.001
_MOST_OTHERS = 20
_LOW_HZ, _HIGH_SHARE = 20.0, 0.46
DIFFERS_PPM = 20.0
_ACTIVE_DB = 60.0
_PERIODIC = 0.9
LONG_S = 12.0
"""Longer ones are looked for at a sixteenth of their rate first."""


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
class Answer:
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
    none = nothing_of(returned.shape[0])
    sent = np.asarray(sent, dtype=np.float64)
    returned = np.asarray(returned, dtype=np.float64)
    if not np.any(sent):
        return replace(none, reason="the sent file is silent")
    if not np.any(returned):
        return replace(none, reason="the returned file is silent")
    if sent.shape[1] > LONG_S * rate_hz:
        from verve.core.measure._loop_long import long_loopback

        found = long_loopback(sent, returned, rate_hz)
        if found is not None:
            return found
    if any(is_periodic(channel) for channel in sent if np.any(channel)):
        return replace(none, reason="ambiguous")
    answers = [
        [answer_of(one, back, rate_hz) if np.any(one) and np.any(back) else None for one in sent]
        for back in returned
    ]
    best = [best_of(row) for row in answers]
    mapped = tuple(best)
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


def nothing_of(channels: int) -> Loopback:
    """The answer where nothing was found in so many channels."""
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


def best_of(row: list[Answer | None]) -> int | None:
    """The sent channel that a returned one holds."""
    heights = [0.0 if a is None else a.height for a in row]
    best = int(np.argmax(heights))
    return best if heights[best] >= LEAST_HEIGHT else None


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


@dataclass(frozen=True, slots=True, kw_only=True)
class Rough:
    """Where a signal stands in what came back, by the whole of it and by its parts: before anything is refined."""

    height: float
    delay: int
    share: float
    sign: int


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Setting:
    """What both spectra are laid out on."""

    size: int
    band: NDArray[np.bool_]
    back: ComplexArray


def rough_of(sent: FloatArray, returned: FloatArray, rate_hz: int) -> tuple[Rough, _Setting]:
    """The highest of all that speaks for an arrival, whether it is one or not."""
    longest = math.ceil(len(sent) * (1.0 + MOST_PPM * 1e-6)) + len(returned) + 2
    size = next_fast_len(longest, real=True)
    hz = np.arange(size // 2 + 1) * rate_hz / size
    band = (hz >= _LOW_HZ) & (hz <= _HIGH_SHARE * rate_hz)
    spectrum, back = rfft(sent, size), rfft(returned, size)
    power = np.abs(spectrum) ** 2
    zero = len(sent)
    # Where there is much noise, a filter that only matches is surer than one that inverts.
    found: list[tuple[float, int, float, int]] = []
    for regular in _REGULAR:
        inverse = back * band / (power + regular * float(power[band].mean()))
        response = np.roll(irfft(inverse * np.conj(spectrum), size), zero)
        height, at = height_of(response)
        sign = 1 if peak_of(response, at)[1] >= 0.0 else -1
        found.append((height, at, 0.0, sign))
        parts = parts_of(sent, inverse, response, rate_hz)
        if parts is not None:
            found.append(over_clocks(parts, abs(float(response[at])) / height))
    height, at, share, sign = max(found, key=lambda one: one[0])
    rough = Rough(height=height, delay=at - zero, share=share, sign=sign)
    return rough, _Setting(size=size, band=band, back=back)


def answer_of(sent: FloatArray, returned: FloatArray, rate_hz: int) -> Answer | None:
    """What a returned channel has of a sent one; None where it has none of it."""
    rough, setting = rough_of(sent, returned, rate_hz)
    if rough.height < LEAST_HEIGHT:
        return None
    size, band, back, zero = setting.size, setting.band, setting.back, len(sent)
    fitted = fitted_clock(sent, returned, rough.delay, rough.share, rough.sign)
    if fitted is None:
        return None
    share = fitted
    clocked = sent if share == 0.0 else warped(sent, share)
    spectrum = rfft(clocked, size)
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
    response = max(responses, key=lambda one: height_of(one)[0])
    height, at = height_of(response)
    first = _first_arrival(response, at, abs(float(response[at])) / height)
    place, value = peak_of(response, first)
    return Answer(
        height=height,
        delay=place - zero,
        sign=1 if value >= 0.0 else -1,
        share=share,
        response=response,
        zero=zero,
    )


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


def _told(
    sent: FloatArray,
    returned: FloatArray,
    rate_hz: int,
    answer: Answer,
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
        clock_differs=abs(ppm) > DIFFERS_PPM,
        is_complete=begin >= -1.0 and end <= len(returned),
        channel=channel,
        channel_map=mapped,
        channels_inverted=inverted,
        snr_db=10.0 * math.log10(signal / residual) if signal > 0.0 and residual > 0.0 else None,
        confidence=confidence_of(answer),
        other_arrivals=others_of(answer, rate_hz),
        reason=None,
    )


def confidence_of(answer: Answer) -> float:
    """How sure an answer is, 0 to 1, by how far it stands above what is usual."""
    return 1.0 - math.exp(-((answer.height / (2.0 * LEAST_HEIGHT)) ** 2))


def others_of(answer: Answer, rate_hz: int) -> tuple[Arrival, ...]:
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
        exact, value = peak_of(answer.response, place)
        found.append(
            Arrival(
                delay_frames=exact - answer.zero, level_db=20.0 * math.log10(abs(value) / level)
            )
        )
    return tuple(sorted(found, key=lambda one: one.delay_frames))
