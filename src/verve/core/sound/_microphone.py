"""What a microphone hears of everybody in the room while all play: one cycle of it, and what rings on behind it."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from verve.core.line import OCTAVE_CENTRES_HZ
from verve.core.network import Column
from verve.core.units import ComplexArray, FloatArray, IntArray

_LEAD_FRAMES = 256
"""What everything is late by meanwhile, so that filters of linear phase have space before the first arrival."""
_LEAST = 1e-7
_LONGEST_TAIL_S = 3.0
_TAIL_AFTER_S = 0.002
_COARSE = 2048


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Played:
    """One cycle of a source at a metre, its hardest peak 1, and the powers of its octaves.

    shape: cycle (n_frames,), octaves (10,)
    """

    cycle: FloatArray
    octaves: FloatArray


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Cycle:
    """One cycle in a microphone, and what of it rings on into the next one; 1 is the hardest peak of all together.

    shape: first (n_frames,), following (n_frames,)
    """

    first: FloatArray
    following: FloatArray

    def stretch(self, frames: IntArray) -> FloatArray:
        """Some frames of it, played again and again.

        shape: as frames, which are counted from the beginning
        """
        at = frames % len(self.first)
        if int(frames[0]) >= len(self.first):
            return self.following[at]
        return np.where(frames < len(self.first), self.first[at], self.following[at])


class Room:
    """Everybody who plays, as spectra: they are the same for every microphone."""

    def __init__(self, played: Mapping[str, Played], rate_hz: int, rt60_s: float) -> None:
        """All cycles are of one length."""
        self._played = played
        self._rate_hz = rate_hz
        self._rt60_s = rt60_s
        self._frames = max((len(one.cycle) for one in played.values()), default=0)
        self._tail = max(64, round(min(rt60_s, _LONGEST_TAIL_S) * rate_hz))
        self._size = _fast(self._frames + self._tail + rate_hz // 4)
        self._hz = np.asarray(np.fft.rfftfreq(self._size, 1.0 / rate_hz), dtype=np.float64)
        self._spectra: dict[str, ComplexArray] = {}

    def _spectrum(self, source: str) -> ComplexArray:
        if source not in self._spectra:
            self._spectra[source] = np.fft.rfft(self._played[source].cycle, self._size)
        return self._spectra[source]

    def _gains(self, column: Column) -> FloatArray:
        """Amplitude at each frequency, even between the middles of octaves in decibels."""
        octaves = self._played[column.source].octaves
        ratio = np.divide(
            np.array(column.powers),
            octaves / octaves.sum(),
            out=np.zeros(10),
            where=octaves > 0.0,
        )
        levels_db = 10.0 * np.log10(np.maximum(ratio, 1e-20))
        coarse_hz = np.linspace(0.0, float(self._hz[-1]), _COARSE)
        at = np.log2(np.maximum(coarse_hz, 10.0))
        coarse = 10.0 ** (np.interp(at, np.log2(np.array(OCTAVE_CENTRES_HZ)), levels_db) / 20.0)
        return np.asarray(np.interp(self._hz, coarse_hz, coarse))

    def _late(self, delay_s: float) -> ComplexArray:
        """The turn of each frequency for a delay, exact to a fraction of a frame."""
        step = -2j * math.pi * (delay_s * self._rate_hz + _LEAD_FRAMES) / self._size
        count = len(self._hz)
        fine = 1024
        # An outer product of two short rows: the exponential of each frequency would take ten times as long.
        rough = np.exp(step * fine * np.arange(-(-count // fine)))
        return np.asarray(np.outer(rough, np.exp(step * np.arange(fine))).reshape(-1)[:count])

    def at(self, columns: Sequence[Column], seed: int) -> Cycle:
        """All of it in one microphone.

        Straight sounds arrive exactly late; what the room gives is noise that dies away, of another kind in every
        microphone, since what comes from all around has nothing to do with where it is heard.
        """
        straight = np.zeros(len(self._hz), dtype=complex)
        around = np.zeros(len(self._hz), dtype=complex)
        for column in columns:
            if column.source not in self._played or math.fsum(column.powers) < _LEAST:
                continue
            part = self._spectrum(column.source) * self._gains(column)
            if column.is_room:
                around += part * self._late(column.delay_s + _TAIL_AFTER_S)
            else:
                straight += part * self._late(column.delay_s)
        if around.any():
            noise = np.random.default_rng(seed).standard_normal(self._tail)
            noise *= 10.0 ** (-3.0 * np.arange(self._tail) / self._rate_hz / self._rt60_s)
            noise /= math.sqrt(float(noise @ noise))
            straight += around * np.fft.rfft(noise, self._size)
        sound = np.fft.irfft(straight, self._size)[_LEAD_FRAMES:]
        first = np.array(sound[: self._frames])
        following = first.copy()
        rest = sound[self._frames :]
        for begin in range(0, len(rest), self._frames):
            piece = rest[begin : begin + self._frames]
            following[: len(piece)] += piece
        return Cycle(first=first, following=following)


def _fast(frames: int) -> int:
    """A length that a fast transform likes, as short as may be."""
    best = 1 << math.ceil(math.log2(max(2, frames)))
    for odd in (3, 5, 9, 15, 25, 27):
        size = odd << max(0, math.ceil(math.log2(frames / odd)))
        if frames <= size < best:
            best = size
    return best
