"""Two tracks of one instrument: how far one is behind the other, by generalised cross-correlation.

The tracks may differ in their spectra (a pickup is bright and dry, a microphone dull and roomy): each frequency
counts by how well the two agree there, and not by how loud it is (Knapp and Carter 1976, with the phase transform).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.fft import irfft, rfft

from verve.core.units import SPEED_OF_SOUND_M_PER_S, ComplexArray, FloatArray

REACH_S = 0.05
_FRAME_S = 0.35
_UP = 8
_LEAST_HEIGHT = 7.0
_LEAST_POWER = 1e-12
_MOST_FRAMES = 400
_AGREES = 0.7


@dataclass(frozen=True, slots=True, kw_only=True)
class Shift:
    """Which track to move earlier, and by how many frames."""

    track: Literal["first", "second"]
    frames: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Alignment:
    """`delay_frames` is how far the second is behind the first; None, as all else, where they are not related."""

    found: bool
    delay_frames: float | None
    delay_ms: float | None
    distance_m: float | None
    polarity_inverted: bool | None
    confidence: float
    shift: Shift | None
    reason: str | None


def alignment_of(first: FloatArray, second: FloatArray, rate_hz: int) -> Alignment:
    """How far the second track is behind the first, within 50 ms.

    shape: first, second (n_frames,); what one has more is left out
    """
    size = min(len(first), len(second))
    one, other = (np.asarray(track[:size], dtype=np.float64) for track in (first, second))
    one, other = one - one.mean(), other - other.mean()
    for name, track in (("first", one), ("second", other)):
        if not size or float(np.mean(track**2)) < _LEAST_POWER:
            return _none(f"the {name} track is silent")
    sums = _sums(one, other, rate_hz)
    if sums is None:
        return _none("the tracks are too short")
    crossed = _crossed(sums, rate_hz)
    reach = math.ceil(REACH_S * rate_hz) * _UP
    around = np.concatenate([crossed[-reach:], crossed[: reach + 1]])
    magnitude = np.abs(around)
    at = int(np.argmax(magnitude))
    # What is usual: heights of peaks well away from the answer.
    far = np.abs(np.arange(len(around)) - at) > 0.001 * rate_hz * _UP
    rest = np.concatenate([magnitude[far], np.abs(crossed[reach : 3 * reach])])
    usual = float(np.sqrt(np.mean(rest**2)))
    height = float(magnitude[at]) / usual if usual > 0.0 else math.inf
    halves = (slice(0, sums.half), slice(sums.half, None))
    if height < _LEAST_HEIGHT or not all(
        _agrees(_crossed(sums, rate_hz, half), at - reach, reach) for half in halves
    ):
        return _none("the tracks are not related", height)
    shift = 0.0
    if 0 < at < len(around) - 1:
        low, middle, high = magnitude[at - 1 : at + 2]
        bend = float(low - 2.0 * middle + high)
        shift = 0.5 * float(low - high) / bend if bend < 0.0 else 0.0
    delay = (at + shift - reach) / _UP
    return Alignment(
        found=True,
        delay_frames=delay,
        delay_ms=1000.0 * delay / rate_hz,
        distance_m=delay / rate_hz * SPEED_OF_SOUND_M_PER_S if delay >= 0.0 else None,
        polarity_inverted=bool(around[at] < 0.0),
        confidence=1.0 - math.exp(-((height / (2.0 * _LEAST_HEIGHT)) ** 2)),
        shift=Shift(track="second" if delay >= 0.0 else "first", frames=abs(delay)),
        reason=None,
    )


def _none(reason: str, height: float = 0.0) -> Alignment:
    return Alignment(
        found=False,
        delay_frames=None,
        delay_ms=None,
        distance_m=None,
        polarity_inverted=None,
        confidence=1.0 - math.exp(-((height / (2.0 * _LEAST_HEIGHT)) ** 2)),
        shift=None,
        reason=reason,
    )


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Sums:
    """Products of the spectra of each frame, the louder frames alike to the others.

    shape: both, first, second (n_frames, n_bins)
    """

    both: ComplexArray
    first: FloatArray
    second: FloatArray
    size: int
    half: int
    """The frame before which half of all that sounds in both has sounded."""


def _sums(one: FloatArray, other: FloatArray, rate_hz: int) -> _Sums | None:
    size = 1 << math.ceil(math.log2(_FRAME_S * rate_hz))
    while size > len(one) // 3 and size > 1024:
        size //= 2
    if size > len(one):
        return None
    starts = np.arange(0, len(one) - size + 1, size // 2)
    # Of a long recording frames from all over it are enough.
    starts = starts[:: max(1, len(starts) // _MOST_FRAMES)]
    hann = 0.5 - 0.5 * np.cos(2.0 * np.pi * np.arange(size) / size)
    a, b = (
        rfft(np.lib.stride_tricks.sliding_window_view(track, size)[starts] * hann, axis=1)
        for track in (one, other)
    )
    first, second = np.abs(a) ** 2, np.abs(b) ** 2
    strength = np.sqrt(first.sum(axis=1) * second.sum(axis=1))
    scale = (1.0 / np.maximum(strength, 1e-6 * strength.max()))[:, None]
    # Half of what sounds, by amplitude: a note that dies away is told by its end too.
    sounding = np.cumsum(np.sqrt(strength))
    half = int(np.searchsorted(sounding, 0.5 * sounding[-1]))
    return _Sums(
        both=b * np.conj(a) * scale,
        first=first * scale,
        second=second * scale,
        size=size,
        half=min(max(1, half), max(1, len(starts) - 1)),
    )


def _crossed(sums: _Sums, rate_hz: int, part: slice = slice(None)) -> FloatArray:
    """The weighted cross-correlation, eight values a frame; lag 0 first, negative ones at the end."""
    both = sums.both[part].sum(axis=0)
    first, second = sums.first[part].sum(axis=0), sums.second[part].sum(axis=0)
    count = max(1, len(sums.both[part]))
    alike = np.abs(both) ** 2 / np.maximum(first * second, 1e-300)
    # By chance alone so much would agree over so many frames.
    chance = 1.0 / count
    sure = np.clip((alike - chance) / (1.0 - chance), 0.0, 0.98) if count > 2 else 0.5
    weights = sure / (1.0 - sure)
    hz = np.arange(len(both)) * rate_hz / sums.size
    weights = weights * (hz >= 40.0) * (hz <= 0.45 * rate_hz)
    phases = both / np.maximum(np.abs(both), 1e-300)
    return np.asarray(irfft(phases * np.sqrt(weights), sums.size * _UP))


def _agrees(crossed: FloatArray, lag: int, reach: int) -> bool:
    """Whether a part of the recording by itself has about its highest there."""
    around = np.abs(np.concatenate([crossed[-reach:], crossed[: reach + 1]]))
    near = around[max(0, lag + reach - 2 * _UP) : lag + reach + 2 * _UP + 1]
    return float(near.max(initial=0.0)) >= _AGREES * float(around.max())
