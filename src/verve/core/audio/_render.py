"""Turning a computed line into sound: its filters, its ceilings in order, its noise, its bits."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from verve.core.chain import StagedLine
from verve.core.line import Amplifier, Converter, LineLevels, Microphone, Solution, Spectrum, solve
from verve.core.units import ComplexArray, FloatArray, db_to_ratio, dbu_to_v_rms, spl_to_pa_rms

_TAPS_S = 0.17
"""Length of the impulse responses: enough for a 20 Hz filter to ring out 60 dB."""
_LEAD_FRAMES = 64
"""Room in front of an impulse response for what band limiting smears forward."""
_SURELY_CLEAN_DB = 8.0
"""A ceiling so far away is not reached even where a filter sharpens a peak."""


class _Convolver:
    """A fixed filter applied block by block (overlap-add)."""

    def __init__(self, taps: FloatArray, block_frames: int) -> None:
        size = 1
        while size < len(taps) + block_frames - 1:
            size *= 2
        self._size = size
        self._spectrum = np.fft.rfft(taps, size)
        self._tail = np.zeros(size)

    def __call__(self, block: FloatArray) -> FloatArray:
        whole = np.fft.irfft(np.fft.rfft(block, self._size) * self._spectrum, self._size)
        whole += self._tail
        out = whole[: len(block)].copy()
        self._tail[:] = 0.0
        self._tail[: self._size - len(block)] = whole[len(block) :]
        return np.asarray(out)


@dataclass(frozen=True, slots=True, eq=False)
class _Point:
    """A place on the line that can clip: volts (or pascals) there for a source of 1, and its limit."""

    transfer: ComplexArray
    limit_peak: float


def _taps(transfer: ComplexArray, frames: int) -> FloatArray:
    response = np.roll(np.fft.irfft(transfer, frames), _LEAD_FRAMES)
    fade = _LEAD_FRAMES
    ramp = np.sin(np.linspace(0.0, np.pi / 2.0, fade)) ** 2
    response[: fade // 2] *= ramp[::2]
    response[-fade:] *= ramp[::-1]
    return np.asarray(response)


def _volts(v_rms: Spectrum, shape: tuple[int, ...]) -> ComplexArray:
    """Peak volts at every frequency."""
    return np.asarray(np.broadcast_to(v_rms, shape) * math.sqrt(2.0), dtype=np.complex128)


def _points(
    staged: StagedLine, solution: Solution, levels: LineLevels, louder_db: float
) -> list[_Point]:
    """Limits that may be reached, in signal order; the last is always the converter's input."""
    root2 = math.sqrt(2.0)
    shape = solution.hz.shape
    found: list[_Point] = []
    for index, stage in enumerate(staged.stages):
        headroom = levels.headroom_db[index]
        reached = headroom is not None and headroom + louder_db < _SURELY_CLEAN_DB
        junction = solution.junctions[index]
        if isinstance(stage, Microphone) and stage.max_spl_db is not None and reached:
            assert headroom is not None
            limit = spl_to_pa_rms(stage.max_spl_db + stage.pad_db) * root2
            pressure = limit * db_to_ratio(-headroom)
            found.append(_Point(np.full(shape, pressure, dtype=np.complex128), limit))
        elif isinstance(stage, Amplifier) and reached:
            before = solution.junctions[index - 1]
            if stage.max_input_dbu is not None and before is not None:
                volts = _volts(before.v_rms, shape)
                found.append(_Point(volts, dbu_to_v_rms(stage.max_input_dbu) * root2))
            if stage.max_output_dbu is not None and junction is not None:
                volts = _volts(junction.open_v_rms, shape)
                found.append(_Point(volts, dbu_to_v_rms(stage.max_output_dbu) * root2))
        elif isinstance(stage, Converter) and junction is not None:
            volts = _volts(junction.v_rms, shape)
            found.append(_Point(volts, dbu_to_v_rms(stage.full_scale_dbu) * root2))
    return found


class LineRenderer:
    """A line at work: blocks of the source in, blocks as the recorder writes them out.

    A source of 1.0 is the hardest peak. The result is in full scales: 1.0 is 0 dBFS.
    """

    def __init__(
        self,
        staged: StagedLine,
        levels: LineLevels,
        *,
        rate_hz: int,
        block_frames: int,
        is_alive: bool,
        seed: int,
    ) -> None:
        converter = staged.stages[-1]
        assert isinstance(converter, Converter)
        self._rng = np.random.default_rng(seed)
        self._rate_hz = rate_hz
        self._bits = converter.bit_depth
        frames = 1
        while frames < _TAPS_S * rate_hz:
            frames *= 2
        hz = np.asarray(np.fft.rfftfreq(frames, 1.0 / rate_hz), dtype=np.float64)
        hz[0] = hz[1] / 2.0  # nothing here passes a steady voltage; its bin is cleared below
        solution = solve(staged.stages, hz)
        self._is_silent = not is_alive or levels.peak_dbfs is None
        self._stages: list[tuple[_Convolver, float]] = []
        if not self._is_silent:
            self._stages = self._make_stages(staged, solution, levels, frames, block_frames)
        self._full_scale_v = dbu_to_v_rms(converter.full_scale_dbu) * math.sqrt(2.0)
        noise = self._noise_density(staged, solution, is_alive=is_alive)
        self._noise = _Convolver(self._noise_taps(noise, hz, frames), block_frames)

    @staticmethod
    def _make_stages(
        staged: StagedLine,
        solution: Solution,
        levels: LineLevels,
        frames: int,
        block_frames: int,
    ) -> list[tuple[_Convolver, float]]:
        before: ComplexArray = np.ones(solution.hz.shape, dtype=complex)
        made = []
        for point in _points(staged, solution, levels, 0.0):
            transfer = np.divide(
                point.transfer, before, out=np.zeros_like(before), where=before != 0.0
            )
            transfer[0] = 0.0
            made.append((_Convolver(_taps(transfer, frames), block_frames), point.limit_peak))
            before = point.transfer
        return made

    def _noise_density(
        self, staged: StagedLine, solution: Solution, *, is_alive: bool
    ) -> FloatArray:
        """V²/Hz at the converter; quantisation is left out, since the samples are really rounded.

        A box without its power is silent: then only the recorder's own stages are heard.
        """
        by_stage = solution.end_noise_v2_per_hz.copy()
        converter = staged.stages[-1]
        assert isinstance(converter, Converter)
        ideal = replace(converter, bit_depth=60)
        bits_only = solve((*staged.stages[:-1], ideal), solution.hz).end_noise_v2_per_hz[-1]
        by_stage[-1] = bits_only
        if not is_alive:
            recorder = staged.route.hops[-1].device.id
            for index, part in enumerate(staged.parts):
                if part.owner != recorder:
                    by_stage[index] = 0.0
        return np.asarray(by_stage.sum(axis=0))

    def _noise_taps(self, density: FloatArray, hz: FloatArray, frames: int) -> FloatArray:
        """Taps that turn white noise of variance 1 into the line's noise, in full scales.

        source: white noise of variance 1 has 2/rate per hertz, one-sided
        """
        shape = np.sqrt(density * self._rate_hz / 2.0) / self._full_scale_v
        shape = shape * np.clip((21_000.0 - hz) / 1000.0, 0.0, 1.0)  # figures end at 20 kHz
        shape[0] = 0.0
        taps = np.roll(np.fft.irfft(shape, frames), frames // 2)
        return np.asarray(taps * np.hanning(frames) ** 0.25)

    def __call__(self, source: FloatArray) -> FloatArray:
        """One block of the recording, rounded to the recorder's bits.

        shape: as `source`, (frames,)
        """
        if self._is_silent:
            signal = np.zeros(len(source))
        else:
            signal = source
            for convolve, limit in self._stages:
                signal = np.clip(convolve(signal), -limit, limit)
            signal = signal / self._full_scale_v
        noisy = signal + self._noise(self._rng.standard_normal(len(source)))
        steps = float(2 ** (self._bits - 1))
        return np.clip(np.round(noisy * steps), -steps, steps - 1.0) / steps
