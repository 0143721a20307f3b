"""Levels of live channels, moment by moment: what a guided check and a watch go by."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np

from verve.core.errors import InputError
from verve.core.units import FloatArray

MOMENTS_PER_S = 50
"""A moment is 20 ms."""
FULL_SCALE = 1.0 - 2.0**-15
"""A sample from here on counts as full scale, at 16 bits and more."""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Moment:
    """20 ms of all channels: where they begin, largest magnitude, mean square, frames at full scale.

    shape: peaks, powers, full (n_channels,); likeness (n_channels, n_channels), the correlation of each with each
    """

    at_s: float
    peaks: FloatArray
    powers: FloatArray
    full: FloatArray
    likeness: FloatArray


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Heard:
    """What has come so far: frames that have been read, and those that are too few for a moment.

    shape: rest (n_channels, n_frames)
    """

    frames: int
    rest: FloatArray = field(repr=False)


class Levels:
    """Reads blocks of some channels; the same for every size of block."""

    def __init__(self, *, channels: int, rate_hz: int) -> None:
        if channels < 1:
            raise InputError("channels", "must be at least 1", channels)
        self.channels, self.rate_hz = channels, rate_hz
        self._step = rate_hz // MOMENTS_PER_S

    def start(self) -> Heard:
        """Nothing yet."""
        return Heard(frames=0, rest=np.zeros((self.channels, 0)))

    def fold(self, state: Heard, block: FloatArray) -> tuple[Heard, tuple[Moment, ...]]:
        """One more block; the moments that are whole with it.

        shape: block (n_channels, n_frames)
        """
        waiting = np.concatenate([state.rest, block], axis=1) if state.rest.size else block
        count = waiting.shape[1] // self._step
        if not count:
            return Heard(frames=state.frames, rest=np.array(waiting)), ()
        used = count * self._step
        pieces = waiting[:, :used].reshape(self.channels, count, self._step)
        magnitude = np.abs(pieces)
        peaks = magnitude.max(axis=2)
        full = (magnitude >= FULL_SCALE).sum(axis=2)
        found = []
        for number in range(count):
            piece = pieces[:, number]
            products = piece @ piece.T / self._step
            powers = np.diagonal(products)
            scale = np.sqrt(np.maximum(np.outer(powers, powers), 1e-30))
            found.append(
                Moment(
                    at_s=(state.frames + number * self._step) / self.rate_hz,
                    peaks=peaks[:, number],
                    powers=powers,
                    full=full[:, number],
                    likeness=products / scale,
                )
            )
        rest = np.array(waiting[:, used:])
        return Heard(frames=state.frames + used, rest=rest), tuple(found)


def peak_db(value: float) -> float:
    """dBFS of a magnitude; −200 for none."""
    return 20.0 * math.log10(max(value, 1e-10))


def power_db(value: float) -> float:
    """dBFS of a mean square, a full-scale sine being 0; −200 for none."""
    return 10.0 * math.log10(max(2.0 * value, 1e-20))
