"""What is read of many live channels at once, second by second: true peak, drop-outs, tops that were cut.

The same analysers that read recordings, but only those that tell what must be known while somebody plays: sixteen
lines take a few hundredths of a processor core.
"""

from __future__ import annotations

import math
from collections import deque
from dataclasses import dataclass
from typing import Final

import numpy as np

from verve.core.errors import InputError
from verve.core.measure._clipping import REACH_S, ClippedRun, find_clipped, read_tops
from verve.core.measure._dropouts import REACH as DROPOUT_REACH
from verve.core.measure._dropouts import (
    Dropout,
    Interruptions,
    find_dropouts,
    read_interruptions,
)
from verve.core.measure._true_peak import REACH as PEAK_REACH
from verve.core.measure._true_peak import between, oversampling, true_peak
from verve.core.units import FloatArray, IntArray, ratio_to_db

CELL_S: Final = 1.0
_TOPS_EVERY = 8
"""Tops are looked at in every eighth second: a stage that clips does so again."""
_FULL_SCALE = 1.0 - 2.0**-15
_NOISE_RMS = 1e-5
_LEAST_TOP = 10.0 ** (-24.0 / 20.0)
"""What is softer is nowhere near the ceiling of any stage."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LiveSecond:
    """What one second of one channel shows; frames are counted from the beginning.

    unit: dBTP; `true_peak_dbtp` is None for silence. `clipped` are tops below full scale
    """

    channel: int
    start_frame: int
    true_peak_dbtp: float | None
    dropouts: tuple[Dropout, ...]
    clipped: tuple[ClippedRun, ...]


class LiveReader:
    """Takes blocks of some channels; gives each second of each as soon as what follows it is known."""

    def __init__(self, *, channels: int, rate_hz: int) -> None:
        if channels < 1:
            raise InputError("channels", "must be at least 1", channels)
        self._channels, self._rate_hz = channels, rate_hz
        self._cell = round(CELL_S * rate_hz)
        self._reach = max(DROPOUT_REACH, PEAK_REACH, math.ceil(REACH_S * rate_hz))
        self._table = between(oversampling(rate_hz))
        # As much silence as is looked at before the first frame.
        self._waiting: FloatArray = np.zeros((channels, self._reach), dtype=np.float32)
        self._parts: deque[FloatArray] = deque()
        self._come = 0
        self._start = 0
        self._number = 0
        self._before: list[Interruptions | None] = [None] * channels
        self._full: list[list[tuple[int, int]]] = [[] for _ in range(channels)]
        self._told: list[int] = [-1] * channels

    def fold(self, block: FloatArray) -> tuple[LiveSecond, ...]:
        """One more block; the seconds that are known with it.

        shape: block (n_channels, n_frames)
        """
        self._parts.append(np.asarray(block, dtype=np.float32))
        self._come += block.shape[1]
        if self._come < self._cell + self._reach - (self._waiting.shape[1] - self._reach):
            return ()
        self._waiting = np.concatenate([self._waiting, *self._parts], axis=1)
        self._parts.clear()
        self._come = 0
        found: list[LiveSecond] = []
        while self._waiting.shape[1] >= 2 * self._reach + self._cell:
            found += [self._read(channel) for channel in range(self._channels)]
            self._waiting = self._waiting[:, self._cell :]
            self._start += self._cell
            self._number += 1
        return tuple(found)

    def _read(self, channel: int) -> LiveSecond:
        samples = self._waiting[channel, : 2 * self._reach + self._cell]
        low, high = self._reach, self._reach + self._cell
        inside = np.abs(samples[low:high])
        peak = float(inside.max())
        cell = read_interruptions(samples, low, high, self._start)
        full = _spans(np.flatnonzero(inside >= _FULL_SCALE) + self._start)
        before, spans = self._before[channel], self._full[channel] + full
        cells = [cell] if before is None else [before, cell]
        until = self._start + self._cell - DROPOUT_REACH
        new = [
            one
            for one in find_dropouts(cells, spans)
            # What reaches to the end of the second may go on: it is told with the next one.
            if self._told[channel] < one.start_frame < until
        ]
        self._told[channel] = max([self._told[channel], *(one.start_frame for one in new)])
        self._before[channel], self._full[channel] = cell, full
        return LiveSecond(
            channel=channel,
            start_frame=self._start,
            true_peak_dbtp=ratio_to_db(true_peak(samples, low, high, peak, self._table)),
            dropouts=tuple(new),
            clipped=self._tops(samples, low, high, channel, peak),
        )

    def _tops(
        self, samples: FloatArray, low: int, high: int, channel: int, peak: float
    ) -> tuple[ClippedRun, ...]:
        if (self._number + channel) % _TOPS_EVERY or peak < _LEAST_TOP:
            return ()
        tops = read_tops(samples, low, high, self._start, 0.0)
        runs, _, _ = find_clipped([tops], lsb=0.0, noise_rms=_NOISE_RMS)
        return tuple(run for run in runs if run.kind == "below_full_scale")


def _spans(at: IntArray) -> list[tuple[int, int]]:
    """Frames that follow each other, as (first, behind the last)."""
    if not len(at):
        return []
    cuts = np.flatnonzero(np.diff(at) > 1) + 1
    return [(int(part[0]), int(part[-1]) + 1) for part in np.split(at, cuts)]
