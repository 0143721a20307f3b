"""A clap in a room: how long it rings in each octave, where that can be read at all, and whether it flutters.

No claim to follow a standard: a pair of hands sends little bass, stands in one spot, and is not the same twice.
Before and after is the point.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.signal import butter, sosfiltfilt

from verve.core.errors import InputError
from verve.core.units import FloatArray, IntArray

BANDS_HZ = (125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0)
LEAST_RANGE_DB = 35.0
"""A band must stand so far above the noise for its decay to be read: 5 dB to begin, 20 to fit, 10 to spare."""
_FROM_DB, _TO_DB = -5.0, -25.0
_LONGEST_S = 6.0
_BEFORE_S = 0.3
_LEAST_NOISE_S = 0.1
_MARGIN_DB = 10.0
_STEP_S = 0.001
_FLUTTER_S = (0.008, 0.08)
"""Between which spacings echoes are heard as flutter: walls 1.4 to 14 m apart, there and back."""
_FLUTTER_SHARE = 0.35


@dataclass(frozen=True, slots=True, kw_only=True)
class Decay:
    """One octave: its reverberation time, or None where the clap does not stand far enough above the noise."""

    hz: float
    rt60_s: float | None
    range_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Clap:
    """What one clap tells of a room; `flutter_ms` is the spacing of echoes that come again and again."""

    at_s: float
    decays: tuple[Decay, ...]
    flutter_ms: float | None
    is_clipped: bool

    @property
    def middle_s(self) -> float | None:
        """Mean of the octaves at 500, 1,000 and 2,000 Hz that can be read; None without any."""
        found = [one.rt60_s for one in self.decays if 500.0 <= one.hz <= 2000.0 and one.rt60_s]
        return sum(found) / len(found) if found else None


def clap_of(samples: FloatArray, rate_hz: int) -> Clap:
    """The loudest clap of a recording.

    shape: samples (n_frames,)
    source: Schroeder 1965, backward integration of the squared decay; here from −5 to −25 dB, noise taken off
    raises: InputError for a recording that is too short, silent, or holds nothing that stands out
    """
    if len(samples) < rate_hz // 2:
        raise InputError("recording", "must be at least half a second long")
    samples = np.asarray(samples, dtype=np.float64)
    peak = float(np.abs(samples).max())
    if peak == 0.0:
        raise InputError("recording", "must not be silent")
    start = _onset(samples, rate_hz, peak)
    noise = samples[: max(0, start - int(0.02 * rate_hz))]
    if len(noise) < _LEAST_NOISE_S * rate_hz:
        raise InputError("recording", "must have a tenth of a second of silence before the clap")
    if 20.0 * math.log10(peak / max(1e-12, float(np.sqrt(np.mean(noise**2))))) < LEAST_RANGE_DB:
        raise InputError("recording", "must hold a clap that stands out of the noise")
    bands = tuple(
        _decay(samples, rate_hz, start, hz)
        for hz in BANDS_HZ
        if hz * math.sqrt(2.0) < rate_hz / 2.2
    )
    tops = np.abs(samples) >= peak * 0.9995
    return Clap(
        at_s=start / rate_hz,
        decays=bands,
        flutter_ms=_flutter_ms(samples, rate_hz, start),
        is_clipped=peak >= 0.999 and int(tops.sum()) >= 3,
    )


def _onset(samples: FloatArray, rate_hz: int, peak: float) -> int:
    """Where the clap begins: the first frame near its highest that is a tenth of it."""
    highest = int(np.argmax(np.abs(samples)))
    near = samples[max(0, highest - int(0.02 * rate_hz)) : highest + 1]
    first: IntArray = np.flatnonzero(np.abs(near) >= 0.1 * peak)
    return max(0, highest - len(near) + 1 + int(first[0]))


def _decay(samples: FloatArray, rate_hz: int, start: int, hz: float) -> Decay:
    low, high = hz / math.sqrt(2.0), hz * math.sqrt(2.0)
    sections = butter(3, [low, high], btype="bandpass", fs=rate_hz, output="sos")
    begin = max(0, start - int(_BEFORE_S * rate_hz))
    piece = samples[begin : start + int(_LONGEST_S * rate_hz)]
    # Forwards and backwards: a filter that rings on one side alone would lengthen what is short.
    band = sosfiltfilt(sections, piece)
    at = start - begin
    powers = band**2
    quiet = powers[: max(1, at - int(0.04 * rate_hz))]
    noise = float(np.mean(quiet)) if len(quiet) else 0.0
    after = powers[at:]
    step = max(1, int(0.01 * rate_hz))
    blocks = after[: len(after) // step * step].reshape(-1, step).mean(axis=1)
    range_db = 10.0 * math.log10(max(float(blocks.max()), 1e-30) / max(noise, 1e-30))
    if range_db < LEAST_RANGE_DB:
        return Decay(hz=hz, rt60_s=None, range_db=range_db)
    # What is behind the place where it meets the noise is left out of the sum, and that much of noise before it.
    over = np.flatnonzero(blocks > noise * 10.0 ** (_MARGIN_DB / 10.0 - 0.7))
    stop = (int(over[-1]) + 1) * step
    curve = np.cumsum((after[:stop] - noise)[::-1])[::-1]
    curve = np.maximum(curve, 1e-30)
    levels = 10.0 * np.log10(curve / curve[0])
    chosen = np.flatnonzero((levels <= _FROM_DB) & (levels >= _TO_DB))
    if len(chosen) < 16:
        return Decay(hz=hz, rt60_s=None, range_db=range_db)
    slope = float(np.polyfit(chosen / rate_hz, levels[chosen], 1)[0])
    return Decay(hz=hz, rt60_s=-60.0 / slope if slope < 0.0 else None, range_db=range_db)


def _flutter_ms(samples: FloatArray, rate_hz: int, start: int) -> float | None:
    """How far apart echoes are that come again and again; None where none stand out of the decay."""
    step = max(1, int(_STEP_S * rate_hz))
    tail = samples[start : start + int(0.6 * rate_hz)]
    blocks = np.sqrt((tail[: len(tail) // step * step] ** 2).reshape(-1, step).mean(axis=1))
    if len(blocks) < 4 * _FLUTTER_S[1] / _STEP_S / 2:
        return None
    levels = 20.0 * np.log10(np.maximum(blocks, 1e-9))
    smooth = np.convolve(np.pad(levels, 20, mode="edge"), np.ones(41) / 41.0, mode="valid")
    ripple = (levels - smooth)[5:]
    ripple -= ripple.mean()
    whole = float(ripple @ ripple)
    if whole <= 0.0:
        return None
    lags = range(round(_FLUTTER_S[0] / _STEP_S), round(_FLUTTER_S[1] / _STEP_S))
    shares = [float(ripple[:-lag] @ ripple[lag:]) / whole for lag in lags]
    best = int(np.argmax(shares))
    return float(lags[best]) * _STEP_S * 1000.0 if shares[best] >= _FLUTTER_SHARE else None
