"""A sound as a picture in words: what its samples show, for whoever cannot or does not want to hear it."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from functools import cached_property
from typing import Final

import numpy as np
from scipy import signal

from verve.core.ear import _words as words
from verve.core.ear._drills import Drill
from verve.core.ear._sounds import RATE_HZ
from verve.core.measure import Measurement, Meter
from verve.core.units import FloatArray
from verve.core.words import fill

_WINDOW_S = 0.05
_LONGEST_MS = 150.0
_SHORTEST_MS = 0.6
_LEAST_AGAIN = 0.03
_LEAST_LATER_MS = 0.05


class _Measured:
    """A sound with its figures, each measured when a row of the picture asks for it."""

    def __init__(self, sound: FloatArray) -> None:
        self._sound, self._left = sound, sound[0]

    @cached_property
    def _found(self) -> Measurement:
        meter = Meter(channels=2, rate_hz=RATE_HZ, bit_depth=None)
        return meter.result(meter.fold(meter.start(), self._sound)).channels[0]

    @cached_property
    def _balance_db(self) -> tuple[float, float]:
        return balance_db(self._left)

    @property
    def _rms_dbfs(self) -> float:
        return float(10.0 * np.log10(max(2.0 * float(np.mean(self._left**2)), 1e-12)))

    def flat_tops(self) -> str:
        """How much of it is cut off, and where."""
        found = self._found
        if not found.clipped_frames:
            return words.NONE
        share = found.clipped_frames / max(1, self._sound.shape[1])
        return fill(words.TOPS, share=share, level_dbfs=found.clip_level_dbfs or 0.0)

    def peak_over(self) -> str:
        """How far its highest peak is above its average."""
        peak_dbfs = 20.0 * float(np.log10(max(float(np.abs(self._left).max()), 1e-9)))
        return fill(words.DB, value=peak_dbfs - self._rms_dbfs)

    def pauses(self) -> str:
        """How far what is left in its pauses is below its average."""
        return fill(words.DB, value=self._rms_dbfs - pause_dbfs(self._left))

    def hum(self) -> str:
        """Of which mains, and how far below the average."""
        hum = self._found.hum
        if hum.hz is None or hum.level_dbfs is None:
            return words.NONE
        return fill(words.AT, hz=hum.hz, below_db=self._rms_dbfs - hum.level_dbfs)

    def bass(self) -> str:
        """What is below 250 Hz."""
        return fill(words.DB, value=self._balance_db[0])

    def treble(self) -> str:
        """What is above 4 kHz."""
        return fill(words.DB, value=self._balance_db[1])

    def again(self) -> str:
        """Whether it comes again, when and how strong."""
        lag_ms, strength = comes_again(self._left)
        return fill(words.AGAIN_AT, value=lag_ms, strength=strength) if strength else words.NONE

    def later(self) -> str:
        """By how much right is behind left."""
        found = later_ms(self._sound)
        return words.NONE if found is None else fill(words.MS, value=found)


_ROWS: Final[Mapping[str, Callable[[_Measured], str]]] = {
    words.FLAT_TOPS: _Measured.flat_tops,
    words.PEAK_OVER: _Measured.peak_over,
    words.PAUSES: _Measured.pauses,
    words.HUM: _Measured.hum,
    words.BASS: _Measured.bass,
    words.TREBLE: _Measured.treble,
    words.AGAIN: _Measured.again,
    words.LATER: _Measured.later,
}


def picture_of(
    sound: FloatArray, rows: Collection[str] = tuple(_ROWS)
) -> tuple[tuple[str, str], ...]:
    """What is measured of a sound, row by row in words; all rows, or some.

    shape: sound (2, n_frames)
    """
    measured = _Measured(sound)
    return tuple((row, say(measured)) for row, say in _ROWS.items() if row in rows)


def picture_for(drill: Drill, sound: FloatArray) -> tuple[tuple[str, str], ...]:
    """Of the same the rows that a drill can be read from."""
    return picture_of(sound, drill.shows)


def pause_dbfs(samples: FloatArray) -> float:
    """The level of its quietest twentieth of a second that is not dead silence.

    source: RMS against a full-scale sine
    """
    size = round(_WINDOW_S * RATE_HZ)
    whole = len(samples) // size * size
    powers = np.mean(samples[:whole].reshape(-1, size) ** 2, axis=1)
    powers = powers[powers > 0.0]
    return float(10.0 * np.log10(2.0 * powers.min())) if len(powers) else -120.0


def balance_db(samples: FloatArray) -> tuple[float, float]:
    """What is below 250 Hz and above 4 kHz, each against what is between."""
    hz, power = signal.welch(samples, RATE_HZ, nperseg=4096)
    bands = [
        power[(hz >= low) & (hz < high)].sum()
        for low, high in ((30, 250), (250, 4000), (4000, 16000))
    ]
    low, middle, high = (10.0 * float(np.log10(max(band, 1e-30))) for band in bands)
    return low - middle, high - middle


def comes_again(samples: FloatArray) -> tuple[float, float]:
    """After how many milliseconds it comes again, and how strong that is against the first, 0 for nowhere.

    source: derivation, the cepstrum of a sound and its copy has a peak of half the copy's share at its delay
    """
    size = 1 << (len(samples) - 1).bit_length()
    spectrum = np.abs(np.fft.rfft(samples, size)) ** 2
    cepstrum = np.fft.irfft(np.log(spectrum + spectrum.mean() * 1e-6))
    low, high = (round(ms * RATE_HZ / 1000.0) for ms in (_SHORTEST_MS, _LONGEST_MS))
    part = cepstrum[low:high]
    # A note repeats as well: what stands out from its neighbours by far is a copy.
    smooth = part - signal.medfilt(part, 31)
    at = int(np.argmax(smooth))
    strength = float(smooth[at])
    if strength < max(_LEAST_AGAIN, 6.0 * float(np.std(smooth))):
        return 0.0, 0.0
    return (low + at) * 1000.0 / RATE_HZ, min(1.0, strength)


def later_ms(sound: FloatArray) -> float | None:
    """By how much right comes behind left, negative if before it; None where both are the same.

    source: the middle between where either rises first at each beat
    """
    if np.array_equal(sound[0], sound[1]):
        return None
    onsets = [_onsets(side) for side in sound]
    apart = []
    for one in onsets[0]:
        offsets = [other - one for other in onsets[1]]
        nearest = min(offsets, key=abs, default=None)
        if nearest is not None and abs(nearest) < _LONGEST_MS * RATE_HZ / 1000.0:
            apart.append(nearest)
    if not apart:
        return None
    found = float(np.median(apart)) * 1000.0 / RATE_HZ
    return found if abs(found) >= _LEAST_LATER_MS else 0.0


def _onsets(samples: FloatArray) -> list[int]:
    """Frames at which something begins after a silence."""
    loud = np.abs(samples) > 0.02 * np.abs(samples).max(initial=0.0)
    found: list[int] = []
    gap = round(0.08 * RATE_HZ)
    last = -gap
    for frame in np.flatnonzero(loud):
        if frame - last >= gap:
            found.append(int(frame))
        last = int(frame)
    return found
