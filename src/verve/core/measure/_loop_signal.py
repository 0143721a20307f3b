"""The test signal of a loop-back, and a guard that stops it before it can harm anybody."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Final, Literal

import numpy as np

from verve.core.units import FloatArray

TEST_DBFS: Final = -40.0
HIGHEST_DBFS: Final = -6.0
_RISES_DB: Final = 12.0
_SECONDS, _FADE_S, _QUIET_S = 6.0, 1.0, 0.5
_SEED = 20_251
_SETTLED_S = 2.0
_WINDOW_S = 0.1
Stopped = Literal["too loud", "rises"]


def loop_signal(rate_hz: int, channels: int = 2) -> FloatArray:
    """Noise of its own in each channel at −40 dBFS RMS, faded in over a second: it never repeats itself.

    shape: (channels, n_frames)
    """
    frames = round(_SECONDS * rate_hz)
    rng = np.random.default_rng(_SEED)
    noise = rng.standard_normal((channels, frames))
    spectrum = np.fft.rfft(noise, axis=1)
    hz = np.fft.rfftfreq(frames, 1.0 / rate_hz)
    # No rumble that moves loudspeakers, no treble that only ears and tweeters bear.
    shape = np.clip(hz / 60.0, 0.0, 1.0) * np.clip((0.45 * rate_hz - hz) / 1000.0, 0.0, 1.0)
    shaped = np.fft.irfft(spectrum * shape / np.sqrt(np.maximum(hz, 60.0)), frames, axis=1)
    # Full scale is a sine: its RMS is 1/√2.
    level = 10.0 ** (TEST_DBFS / 20.0) / math.sqrt(2.0)
    shaped *= level / np.sqrt(np.mean(shaped**2, axis=1, keepdims=True))
    begin = round(_QUIET_S * rate_hz)
    gate = np.clip((np.arange(frames) - begin) / (_FADE_S * rate_hz), 0.0, 1.0)
    return np.asarray(shaped * gate)


@dataclass(slots=True)
class LoopGuard:
    """Listens to what comes back, and says when to stop: above −6 dBFS, or rising when nothing else does.

    A loop that feeds itself rises by itself: after two seconds, when the signal is fully there, nothing may be 12 dB
    louder than until then.
    """

    rate_hz: int
    _frames: int = 0
    _settled_db: float = -math.inf
    _left: FloatArray = field(default_factory=lambda: np.zeros(0))

    def feed(self, samples: FloatArray) -> Stopped | None:
        """One block of what comes back; why to stop, if so.

        shape: samples (n_channels, n_frames)
        """
        if not samples.size:
            return None
        peak = float(np.abs(samples).max())
        if not math.isfinite(peak) or peak > 10.0 ** (HIGHEST_DBFS / 20.0):
            return "too loud"
        window = round(_WINDOW_S * self.rate_hz)
        power = np.concatenate([self._left, (samples**2).max(axis=0)])
        while len(power) >= window:
            level = 10.0 * math.log10(max(1e-20, 2.0 * float(np.mean(power[:window]))))
            power = power[window:]
            self._frames += window
            if self._frames <= _SETTLED_S * self.rate_hz:
                self._settled_db = max(self._settled_db, level)
            elif level > max(self._settled_db, -90.0) + _RISES_DB:
                return "rises"
        self._left = power
        return None
