"""Analysers as reducers: a block goes in, a state comes out, states of neighbouring stretches can be merged.

The result is the same for every size of block: figures over windows are taken on windows that begin at
multiples of their length on the clock of the recording, however the blocks fall.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Protocol, TypeVar

import numpy as np

from verve.core.errors import InputError
from verve.core.units import FloatArray, IntArray, a_weighting_power, power_to_db, ratio_to_db

WINDOW_S = 0.1
_ALIKE_DB = 2.0
"""Windows of steady noise differ by less than this; playing differs by more."""
_LEAST_WINDOWS = 3
_BELOW_LOUDEST_DB = 10.0

_State = TypeVar("_State")
_Result = TypeVar("_Result", covariant=True)


class Analyser(Protocol[_State, _Result]):
    """Something that reads a recording block by block, without ever holding all of it."""

    def start(self, start_frame: int = 0) -> _State:
        """The state before the first frame of a stretch."""

    def fold(self, state: _State, block: FloatArray) -> _State:
        """The state behind one more block.

        shape: block (n_channels, n_frames)
        """

    def merge(self, first: _State, second: _State) -> _State:
        """The state of two stretches, the second one right behind the first."""

    def result(self, state: _State) -> _Result:
        """What the stretch shows."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Measurement:
    """What a recording shows. Levels are None where there is none; a full-scale sine is 0 dBFS."""

    channel: int
    seconds: float
    sample_rate_hz: int
    bit_depth: int | None
    peak_dbfs: float | None
    rms_dbfs: float | None
    noise_dbfs_a: float | None
    clipped_frames: int
    dc_share: float
    missing_s: float = 0.0
    """What a file that breaks off lacks of what its header says."""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class LevelState:
    """Running figures of a stretch of some channels.

    `head` is what stands before the first whole window of the stretch, `tail` what stands behind its last;
    `windows` are A-weighted powers, a list of pieces.

    shape: peak, power, total (n_channels,); head, tail (n_channels, n_frames); windows (n, n_channels)
    """

    start_frame: int
    frames: int
    peak: FloatArray
    power: FloatArray
    total: FloatArray
    clipped: IntArray
    head: FloatArray
    tail: FloatArray
    windows: tuple[FloatArray, ...] = ()

    @property
    def end_frame(self) -> int:
        """The frame behind the stretch."""
        return self.start_frame + self.frames


class LevelAnalyser:
    """Peak, RMS, mean, clipped frames and the noise of the pauses, of several channels."""

    def __init__(self, *, channels: int, rate_hz: int, bit_depth: int | None) -> None:
        self.channels, self.rate_hz, self.bit_depth = channels, rate_hz, bit_depth
        self.window_frames = max(1, int(WINDOW_S * rate_hz))
        self._top = 1.0 if bit_depth is None else 1.0 - 1.5 / 2.0 ** (bit_depth - 1)
        hz = np.fft.rfftfreq(self.window_frames, 1.0 / rate_hz)
        in_band = (hz >= 20.0) & (hz <= 20_000.0)
        # A Hann window keeps a note that just ends out of its neighbours' bins (its power is 3/8).
        self._shape = np.hanning(self.window_frames)
        scale = 2.0 / (self.window_frames * float(self._shape @ self._shape))
        self._weights = np.where(in_band, a_weighting_power(np.maximum(hz, 1.0)), 0.0) * scale

    def start(self, start_frame: int = 0) -> LevelState:
        """Nothing yet."""
        nothing = np.zeros(self.channels)
        return LevelState(
            start_frame=start_frame,
            frames=0,
            peak=nothing,
            power=nothing,
            total=nothing,
            clipped=np.zeros(self.channels, dtype=np.int64),
            head=np.zeros((self.channels, 0)),
            tail=np.zeros((self.channels, 0)),
        )

    def fold(self, state: LevelState, block: FloatArray) -> LevelState:
        """One more block.

        raises: InputError if it has another number of channels
        """
        if block.shape[0] != self.channels:
            raise InputError("block", f"must have {self.channels} channels", block.shape[0])
        if not block.shape[1]:
            return state
        magnitude = np.abs(block)
        fresh = replace(
            state,
            frames=state.frames + block.shape[1],
            peak=np.maximum(state.peak, magnitude.max(axis=1)),
            power=state.power + np.einsum("cf,cf->c", block, block),
            total=state.total + block.sum(axis=1),
            clipped=state.clipped + np.count_nonzero(magnitude >= self._top, axis=1),
        )
        return self._windowed(fresh, block)

    def _windowed(self, state: LevelState, block: FloatArray) -> LevelState:
        """The block cut into windows on the clock; what is left over waits for the next."""
        size = self.window_frames
        if not state.windows and not state.tail.shape[1]:
            # Still before the first whole window of the stretch.
            missing = -(state.start_frame + state.head.shape[1]) % size
            state = replace(state, head=np.concatenate([state.head, block[:, :missing]], axis=1))
            block = block[:, missing:]
        rest = np.concatenate([state.tail, block], axis=1)
        count = rest.shape[1] // size
        if not count:
            return replace(state, tail=rest)
        powers = self._powers(rest[:, : count * size])
        return replace(state, windows=(*state.windows, powers), tail=rest[:, count * size :].copy())

    def _powers(self, samples: FloatArray) -> FloatArray:
        """A-weighted power of whole windows.

        shape: (n_windows, n_channels)
        """
        windows = samples.reshape(self.channels, -1, self.window_frames)
        spectra = np.abs(np.fft.rfft(windows * self._shape, axis=2)) ** 2
        return np.asarray((spectra @ self._weights).T)

    def merge(self, first: LevelState, second: LevelState) -> LevelState:
        """Two neighbouring stretches as one.

        raises: InputError if the second does not begin where the first ends
        """
        if second.start_frame != first.end_frame:
            raise InputError(
                "second stretch", f"must begin at frame {first.end_frame}", second.start_frame
            )
        joined = replace(
            first,
            frames=first.frames + second.frames,
            peak=np.maximum(first.peak, second.peak),
            power=first.power + second.power,
            total=first.total + second.total,
            clipped=first.clipped + second.clipped,
        )
        seam = self._windowed(joined, second.head)
        if not second.windows:
            return self._windowed(seam, second.tail)
        return replace(seam, windows=(*seam.windows, *second.windows), tail=second.tail)

    def result(self, state: LevelState) -> tuple[Measurement, ...]:
        """What every channel shows.

        raises: InputError for nothing
        """
        if not state.frames:
            raise InputError("recording", "must have at least one frame")
        windows = np.concatenate(state.windows) if state.windows else np.zeros((0, self.channels))
        return tuple(
            Measurement(
                channel=number,
                seconds=state.frames / self.rate_hz,
                sample_rate_hz=self.rate_hz,
                bit_depth=self.bit_depth,
                peak_dbfs=ratio_to_db(float(state.peak[number])),
                rms_dbfs=ratio_to_db(math.sqrt(2.0 * float(state.power[number]) / state.frames)),
                noise_dbfs_a=_pause_noise_dbfs(windows[:, number]),
                clipped_frames=int(state.clipped[number]),
                dc_share=float(state.total[number]) / state.frames,
            )
            for number in range(self.channels)
        )


def _pause_noise_dbfs(powers: FloatArray) -> float | None:
    """A-weighted level of the pauses: the quiet windows that are all alike; None without any.

    The quietest single window is quieter than the noise by chance, so the median of those alike is taken.
    """
    powers = powers[powers > 0.0]
    if len(powers) < _LEAST_WINDOWS:
        return None
    levels = 10.0 * np.log10(powers)
    start = float(np.sort(levels)[_LEAST_WINDOWS // 2])
    alike = levels[np.abs(levels - start) <= _ALIKE_DB]
    if len(alike) < _LEAST_WINDOWS:
        return None
    stands_out = levels.max() - np.median(alike) >= _BELOW_LOUDEST_DB
    if not stands_out and len(alike) < len(levels):
        return None
    # A full-scale sine has a mean square of 1/2 and is 0 dBFS.
    return power_to_db(2.0 * float(np.median(10.0 ** (alike / 10.0))))
