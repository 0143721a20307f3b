"""The pitch of one note: its period from how the wave repeats itself, then its partials' own frequencies.

A frame's period is where its normalised difference is least (McLeod and Wyvill 2005); a lower octave is taken where
partials stand that the higher one has not. From there each partial is brought down to 0 Hz, and how its phase turns
tells its frequency to a fraction of a cent. Of a stiff string the partials lie at h·f·√(1 + B·h²) (Fletcher 1964);
what is told is the first of them.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.fft import irfft, next_fast_len, rfft

from verve.core.units import FloatArray

LOWEST_HZ, HIGHEST_HZ = 27.0, 4_200.0
_SOUGHT_LOW_HZ, _SOUGHT_HIGH_HZ = 13.0, 9_000.0
"""Pitches outside of the range are found, too, so that they are not taken for their octave."""
_FRAME_S, _HOP_S = 0.16, 0.025
_CLEAR = 0.8
_FIRST_OF_HIGHEST = 0.9
_ABOVE_FLOOR = 40.0
"""A partial has so many times the power of what is usual around it (16 dB)."""
_ONSET_S = 0.3
_SAME_CENTS = 80.0
_PARTIALS = 16
_TOP_HZ = 7_000.0
_STEP_S = 0.005
_NAMES = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")
_CHORDS = ((2, 3), (3, 4), (4, 5), (5, 6), (3, 5), (5, 8), (2, 5), (4, 7))


@dataclass(frozen=True, slots=True, kw_only=True)
class Pitch:
    """A pitch, the nearest note of the twelve from `a4_hz`, and how far above it; None where there is none."""

    pitch_hz: float | None
    note: str | None
    cents: float | None
    confidence: float
    a4_hz: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Moment:
    """The pitch of one frame as its period tells it; None where it has none."""

    middle_s: float
    pitch_hz: float | None
    clarity: float
    power: float


def note_of(pitch_hz: float, a4_hz: float = 440.0) -> tuple[str, float]:
    """The nearest note, written C to B with its octave, and by how many cents the pitch is above it."""
    above = 12.0 * math.log2(pitch_hz / a4_hz)
    nearest = math.floor(above + 0.5)
    octave, name = divmod(nearest + 57, 12)
    return f"{_NAMES[name]}{octave}", 100.0 * (above - nearest)


def pitch_of(samples: FloatArray, rate_hz: int, a4_hz: float = 440.0) -> Pitch:
    """The pitch of a stretch: the middle of a vibrato, the median of a note that dies away.

    shape: samples (n_frames,)
    """
    none = Pitch(pitch_hz=None, note=None, cents=None, confidence=0.0, a4_hz=a4_hz)
    samples = np.asarray(samples, dtype=np.float64)
    samples = samples - samples.mean()
    sounding = _of_one_note(_settled(moments_of(samples, rate_hz)))
    if len(sounding) < 3:
        return none
    rough_hz = float(np.median([m.pitch_hz for m in sounding if m.pitch_hz is not None]))
    begin = max(0, round((sounding[0].middle_s - _FRAME_S / 2.0) * rate_hz))
    end = round((sounding[-1].middle_s + _FRAME_S / 2.0) * rate_hz)
    found = refined_pitch(samples[begin:end], rate_hz, rough_hz)
    if found is None or not LOWEST_HZ <= found <= HIGHEST_HZ:
        return none
    note, cents = note_of(found, a4_hz)
    clarity = float(np.mean([m.clarity for m in sounding]))
    return Pitch(pitch_hz=found, note=note, cents=cents, confidence=min(1.0, clarity), a4_hz=a4_hz)


def moments_of(samples: FloatArray, rate_hz: int) -> list[Moment]:
    """The pitch of every frame, one every 25 ms."""
    size = min(round(_FRAME_S * rate_hz), len(samples))
    hop = round(_HOP_S * rate_hz)
    if size < rate_hz // 25:
        return []
    loudest = float(np.abs(samples).max(initial=0.0))
    found = []
    for first in range(0, len(samples) - size + 1, hop):
        frame = samples[first : first + size]
        power = float(np.mean(frame**2))
        middle_s = (first + size / 2.0) / rate_hz
        if power < max(1e-10, loudest * loudest * 1e-5):
            found.append(Moment(middle_s=middle_s, pitch_hz=None, clarity=0.0, power=power))
            continue
        pitch_hz, clarity = period_pitch(frame, rate_hz)
        found.append(Moment(middle_s=middle_s, pitch_hz=pitch_hz, clarity=clarity, power=power))
    return found


def period_pitch(frame: FloatArray, rate_hz: int) -> tuple[float | None, float]:
    """The pitch of a frame by its period, and how clear that is, 0 to 1."""
    size = len(frame)
    longest = min(size * 2 // 3, math.ceil(rate_hz / _SOUGHT_LOW_HZ))
    shortest = max(2, int(rate_hz / _SOUGHT_HIGH_HZ))
    padded = next_fast_len(size + longest + 1, real=True)
    spectrum = rfft(frame, padded)
    # What lies above every pitch only makes peaks so narrow that they fall between frames.
    spectrum[math.ceil(_SOUGHT_HIGH_HZ * padded / rate_hz) :] = 0.0
    frame = irfft(spectrum, padded)[:size]
    spectrum = rfft(frame, padded)
    alike = irfft(np.abs(spectrum) ** 2, padded)[: longest + 1]
    squares = np.concatenate([[0.0], np.cumsum(frame**2)])
    lags = np.arange(longest + 1)
    both = squares[size - lags] + squares[size] - squares[lags]
    clear = 2.0 * alike / np.maximum(both, 1e-30)
    # Only what comes after the first fall below zero is a period.
    below = np.flatnonzero(clear[: longest + 1] < 0.0)
    if not len(below):
        return None, 0.0
    start = max(shortest, int(below[0]))
    inner = clear[start:-1]
    peaks = start + 1 + np.flatnonzero((inner[1:-1] >= inner[:-2]) & (inner[1:-1] > inner[2:]))
    if not len(peaks):
        return None, 0.0
    # Short periods fall between frames: heights are those of the parabola through three.
    low, middle, high = clear[peaks - 1], clear[peaks], clear[peaks + 1]
    bend = np.minimum(low - 2.0 * middle + high, -1e-12)
    shifts = np.clip(0.5 * (low - high) / bend, -0.5, 0.5)
    heights = np.minimum(middle - 0.25 * (low - high) * shifts, 1.0)
    highest = float(heights.max())
    if highest < _CLEAR:
        return None, highest
    first = int(np.flatnonzero(heights >= _FIRST_OF_HIGHEST * highest)[0])
    lag = float(peaks[first] + shifts[first])
    return _lower_octave(frame, rate_hz, rate_hz / lag), highest


def _lower_octave(frame: FloatArray, rate_hz: int, pitch_hz: float) -> float | None:
    """The same pitch, or a half or third of it where partials stand between its own; None for a chord."""
    hz, power, floor = _spectrum(frame, rate_hz)
    for divisor in (2, 3):
        lower = pitch_hz / divisor
        if lower < _SOUGHT_LOW_HZ or 4.0 / lower > len(frame) / rate_hz:
            continue
        between = [h for h in range(1, 4 * divisor) if h % divisor]
        own = [h * divisor for h in range(1, 5)]
        stands = [_partial(hz, power, floor, h * lower) for h in between]
        total = sum(_partial(hz, power, floor, h * lower) for h in own)
        count = sum(1 for p in stands if p > 0.0)
        if count >= 2 and sum(stands) > 1e-3 * total:
            pitch_hz = lower
            break
    partials = np.array([_partial(hz, power, floor, h * pitch_hz) for h in range(1, 25)])
    return None if _is_chord(partials) else pitch_hz


@lru_cache(maxsize=64)
def _hann(size: int) -> FloatArray:
    """A window that is asked for again and again, while one note sounds."""
    made = 0.5 - 0.5 * np.cos(2.0 * np.pi * np.arange(size) / size)
    made.setflags(write=False)
    return np.asarray(made)


def _spectrum(frame: FloatArray, rate_hz: int) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Frequencies, powers, and what is usual around each."""
    size = len(frame)
    hann = _hann(size)
    power = np.abs(rfft(frame * hann, 2 * size)) ** 2
    blocks = len(power) // 64
    usual = np.median(power[: blocks * 64].reshape(blocks, 64), axis=1)
    usual = np.minimum(usual, np.roll(usual, 1)) if blocks > 2 else usual
    floor = np.repeat(usual, 64)
    floor = np.concatenate([floor, np.full(len(power) - len(floor), floor[-1])])
    return np.arange(len(power)) * rate_hz / (2.0 * size), power, floor


def _partial(hz: FloatArray, power: FloatArray, floor: FloatArray, at_hz: float) -> float:
    """Power of a partial near a frequency; 0 where none stands out, or it is only the skirt of another."""
    step = float(hz[1])
    middle = round(at_hz / step)
    reach = max(2, round(0.012 * at_hz / step))
    if middle + reach + 2 >= len(power) or middle - reach < 1:
        return 0.0
    part = power[middle - reach : middle + reach + 1]
    best = int(np.argmax(part))
    if best in {0, len(part) - 1}:
        return 0.0
    at = middle - reach + best
    return float(power[at]) if power[at] > _ABOVE_FLOOR * floor[at] else 0.0


def _is_chord(partials: FloatArray) -> bool:
    """Whether what looks like the partials of one note are those of two, in a simple ratio."""
    total = float(partials.sum())
    if total <= 0.0 or partials[0] > 0.01 * total:
        return False
    numbers = np.arange(1, len(partials) + 1)
    for p, q in _CHORDS:
        of_p, of_q = numbers % p == 0, numbers % q == 0
        inside = float(partials[of_p | of_q].sum())
        both_sound = min(partials[p - 1], partials[q - 1]) > 0.005 * total
        if inside >= 0.985 * total and both_sound:
            return True
    return False


def _settled(moments: Sequence[Moment]) -> list[Moment]:
    """Moments with a pitch that is no passing one; the first 0.3 s of a note that is struck read sharp by nature."""
    runs: list[list[Moment]] = []
    last: Moment | None = None
    for moment in moments:
        if moment.pitch_hz is None:
            last = None
            continue
        near = (
            last is not None
            and last.pitch_hz is not None
            and (abs(1200.0 * math.log2(moment.pitch_hz / last.pitch_hz)) < _SAME_CENTS)
        )
        if near:
            runs[-1].append(moment)
        else:
            runs.append([moment])
        last = moment
    found: list[Moment] = []
    for run in runs:
        if len(run) < 3:
            continue
        dies = (
            run[0].power > 2.0 * run[-1].power
            or run[min(4, len(run) - 1)].power > 2.0 * run[-1].power
        )
        late = [m for m in run if m.middle_s - run[0].middle_s >= _ONSET_S]
        found += late if dies and len(late) >= 3 else run
    return found


def _of_one_note(moments: Sequence[Moment]) -> list[Moment]:
    """Those of the note that sounds longest and loudest."""
    pitched = [(m, m.pitch_hz) for m in moments if m.pitch_hz is not None]
    if not pitched:
        return []
    cents = np.array([1200.0 * math.log2(hz) for _, hz in pitched])
    weights = np.sqrt([m.power for m, _ in pitched])
    near = np.abs(cents[:, None] - cents[None, :]) <= _SAME_CENTS
    best = int(np.argmax(near @ weights))
    return [m for (m, _), is_near in zip(pitched, near[best], strict=True) if is_near]


def refined_pitch(samples: FloatArray, rate_hz: int, rough_hz: float) -> float | None:
    """The first partial of a note that is near, from the phases of all of its partials; its middle over time."""
    numbers = np.array(
        [h for h in range(1, _PARTIALS + 1) if h * rough_hz < min(_TOP_HZ, 0.45 * rate_hz)] or [1]
    )
    size = min(len(samples), round(max(4.0 / rough_hz, 0.02) * rate_hz))
    step = max(1, round(_STEP_S * rate_hz))
    starts = np.arange(0, len(samples) - size + 1, step)
    if len(starts) < 4:
        return None
    hann = _hann(size)
    hann = hann / hann.sum()
    inside = np.arange(size) / rate_hz
    windows = np.lib.stride_tricks.sliding_window_view(samples, size)[starts]
    waves = np.exp(-2j * np.pi * rough_hz * np.outer(inside, numbers)) * hann[:, None]
    values = np.concatenate([windows[i : i + 256] @ waves for i in range(0, len(starts), 256)])
    at = np.outer(starts / rate_hz, numbers)
    values = values * np.exp(-2j * np.pi * rough_hz * at)
    strength = np.mean(np.abs(values) ** 2, axis=0)
    keep = strength > 1e-4 * strength.max()
    numbers, values, strength = numbers[keep], values[:, keep], strength[keep]
    turned = np.angle(values[1:] * np.conj(values[:-1])) / (2.0 * np.pi * step / rate_hz)
    power = np.abs(values[1:] * values[:-1])
    each_hz = rough_hz * numbers + _middle(turned, power)
    return _first_partial(numbers, each_hz, strength, _scatter(turned))


def _middle(turned: FloatArray, power: FloatArray) -> FloatArray:
    """Of each partial its usual offset: the median where it drifts, the mean where it swings to and fro.

    shape: turned, power (n_steps, n_partials)
    """
    weights = np.minimum(power, np.median(power, axis=0))
    mean = (turned * weights).sum(axis=0) / np.maximum(weights.sum(axis=0), 1e-300)
    swings = _swings(turned[:, int(np.argmax(power.mean(axis=0)))])
    return np.asarray(mean if swings else np.median(_smoothed(turned), axis=0))


def _smoothed(turned: FloatArray) -> FloatArray:
    width = min(9, len(turned))
    kernel = np.full(width, 1.0 / width)
    return np.stack([np.convolve(column, kernel, "valid") for column in turned.T], axis=1)


def _swings(track: FloatArray) -> bool:
    """Whether a track goes to and fro, several times, as a vibrato does."""
    smooth = np.convolve(track, np.full(5, 0.2), "valid")
    signs = np.sign(smooth - smooth.mean())
    crossings = int(np.count_nonzero(np.diff(signs)))
    rough = float(np.mean(np.diff(smooth) ** 2))
    return crossings >= 4 and rough < 0.2 * float(np.var(smooth))


def _scatter(turned: FloatArray) -> FloatArray:
    """How uncertain each partial is."""
    apart = np.abs(turned - np.median(turned, axis=0))
    return np.asarray(np.maximum(np.median(apart, axis=0), 1e-4))


def _first_partial(
    numbers: FloatArray, each_hz: FloatArray, strength: FloatArray, scatter: FloatArray
) -> float | None:
    """The first partial of a string of which these partials were found, stiff where they tell so."""
    base = each_hz / numbers
    # What is far off is no partial of this note.
    near = np.abs(base / np.median(base) - 1.0) < 0.04
    numbers, base, strength, scatter = (v[near] for v in (numbers, base, strength, scatter))
    if not len(base):
        return None
    weights = np.sqrt(strength) * numbers / scatter
    weights = weights / weights.sum()
    plain = float(weights @ base)
    if len(base) < 4:
        return plain
    # (f_h ÷ h)² = f²·(1 + B·h²): a straight line over h².
    x, y = numbers.astype(np.float64) ** 2, base**2
    mean_x, mean_y = float(weights @ x), float(weights @ y)
    spread = float(weights @ (x - mean_x) ** 2)
    slope = float(weights @ ((x - mean_x) * (y - mean_y))) / spread
    start = mean_y - slope * mean_x
    left = float(weights @ (y - start - slope * x) ** 2)
    whole = float(weights @ (y - mean_y) ** 2)
    stiffness = slope / start
    if not 2e-6 < stiffness < 2e-3 or left > 0.3 * whole:
        return plain
    return math.sqrt(start * (1.0 + stiffness))
