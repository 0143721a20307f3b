"""Solving lines: at every junction the signal, both impedances and the noise from both sides.

Looking left, a line is an EMF behind an impedance (Thévenin); looking right, an admittance with a
noise current (Norton). Both are carried along the ladder step by step, for many lines at once: the
arrays are (n_lines, n_freq). No step divides by anything that can be zero: a missing load is an
admittance of 0.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from verve.core.errors import InputError
from verve.core.line._network import (
    FOUR_K_T,
    NOTHING,
    WIRE,
    LadderStage,
    Spectrum,
    Step,
    converter_noise_v2_per_hz,
    following_steps,
    source_circuit,
)
from verve.core.line._side import Branch, Driver
from verve.core.stages import SOURCES, Converter, Microphone, Sound
from verve.core.units import ComplexArray, FloatArray


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Junction:
    """The wire behind one stage, at the loudest sine of each frequency.

    shape: (n_freq,)
    unit: volts RMS, ohms, siemens, V²/Hz
    """

    open_v_rms: Spectrum
    v_rms: Spectrum
    source_impedance_ohm: Spectrum
    load_admittance_s: Spectrum
    noise_v2_per_hz: Spectrum


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Solution:
    """A solved line. `junctions` has one entry a stage; None behind a `Sound`, and for a
    `Converter` the junction at its input. `end_noise_v2_per_hz` is the noise at the end by the
    stage it comes from, the converter's own included.

    shape: end_noise_v2_per_hz (n_stages, n_freq)
    """

    stages: tuple[LadderStage, ...]
    hz: FloatArray
    batch: Batch
    row: int
    end_noise_v2_per_hz: FloatArray

    @property
    def junctions(self) -> tuple[Junction | None, ...]:
        """Cut out of the batch when somebody asks: most lines are only asked for their levels."""
        return tuple(self.junction(at) for at in range(len(self.stages)))

    def junction(self, index: int) -> Junction | None:
        """The wire behind one stage; None behind a sound."""
        batch, row = self.batch, self.row
        at = batch.last_step[row][index]
        if at < 0:
            return None
        return Junction(
            open_v_rms=batch.open_v_rms[at, row],
            v_rms=batch.v_rms[at, row],
            source_impedance_ohm=batch.source_impedance_ohm[at, row],
            load_admittance_s=batch.load_admittance_s[at, row],
            noise_v2_per_hz=batch.noise_v2_per_hz[at, row],
        )


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Batch:
    """Many lines solved side by side. `last_step` says behind which step the junction of a stage
    is, −1 for none; steps that a shorter line does not have repeat its last junction.

    shape: open_v_rms … noise (n_steps, n_lines, n_freq); end_noise (n_lines, n_stages, n_freq);
    last_step (n_lines, n_stages)
    """

    lines: Sequence[tuple[LadderStage, ...]]
    hz: FloatArray
    open_v_rms: ComplexArray
    v_rms: ComplexArray
    source_impedance_ohm: ComplexArray
    load_admittance_s: ComplexArray
    noise_v2_per_hz: FloatArray
    end_noise_v2_per_hz: FloatArray
    last_step: Sequence[Sequence[int]]

    def line(self, row: int) -> Solution:
        """One of the lines by itself; its arrays are views."""
        stages = self.lines[row]
        return Solution(
            stages=stages,
            hz=self.hz,
            batch=self,
            row=row,
            end_noise_v2_per_hz=self.end_noise_v2_per_hz[row, : len(stages)],
        )


def check_order(stages: Sequence[LadderStage], place: str = "line") -> None:
    """raises: InputError if the stages stand in an order that cannot be."""
    if not stages:
        raise InputError(place, "must have at least one stage")
    last = len(stages) - 1
    for index, stage in enumerate(stages):
        here = f"{place}[{index}]"
        if (index == 0) != isinstance(stage, (*SOURCES, Driver)):
            rule = "must be a source" if index == 0 else "must not be a source, only the first is"
            raise InputError(here, rule, stage.stage)
        if isinstance(stage, Converter) and index != last:
            raise InputError(here, "must be the last stage", stage.stage)
        if isinstance(stage, Microphone) and not isinstance(stages[index - 1], Sound):
            raise InputError(here, "must stand behind a sound", stage.stage)
        if isinstance(stage, Sound) and (
            index == last or not isinstance(stages[index + 1], Microphone)
        ):
            raise InputError(here, "must have a microphone behind it", stage.stage)


class _Ladders:
    """The steps of many lines side by side, shorter ones filled up with wires.

    shape: coefficients (n_steps, n_lines, n_freq), or (n_steps, n_lines, 1) where no line's depends
    on frequency; `last_step` (n_lines, n_stages), −1 where there is no junction
    """

    def __init__(self, lines: Sequence[tuple[LadderStage, ...]], hz: FloatArray) -> None:
        self.lines, self.hz = lines, hz
        self.n_stages = max(len(line) for line in lines)
        shape = (len(lines), self.n_stages, len(hz))
        self.emf = np.zeros((len(lines), len(hz)), dtype=complex)
        self.noise = np.zeros(shape)
        self.last_step = np.full(shape[:2], -1)
        steps = [self._ladder(row, line) for row, line in enumerate(lines)]
        self.count = max(len(ladder) for ladder in steps)
        sizes = (self.count, len(lines))
        self.owner = np.zeros(sizes, dtype=int)
        self.seen = np.ones(sizes)
        has_branches = any(isinstance(stage, Branch) for line in lines for stage in line)
        self.current2 = np.zeros((*sizes, len(hz) if has_branches else 1))
        self.gain_noise2, self.z2_noise = np.zeros(sizes), np.ones(sizes)
        self.z1, self.y, self.gain, self.z2 = (
            np.full((*sizes, len(hz)), fill, dtype=complex) for fill in (0.0, 0.0, 1.0, 0.0)
        )
        for row, ladder in enumerate(steps):
            for at, (owner, step) in enumerate(ladder):
                self._put(at, row, owner, step)

    def _ladder(self, row: int, line: tuple[LadderStage, ...]) -> list[tuple[int, Step]]:
        begin = 1 if isinstance(line[0], Sound) else 0
        emf, steps = source_circuit(line, begin, self.hz)
        self.emf[row] = emf.voltage_v_rms
        self.noise[row, begin] += emf.own_noise_v2_per_hz
        if begin:
            self.noise[row, 0] += emf.before_noise_v2_per_hz
        ladder = [(begin, step) for step in steps]
        self.last_step[row, begin] = len(ladder) - 1
        for index in range(begin + 1, len(line)):
            stage = line[index]
            if not isinstance(stage, Converter):
                ladder += [(index, step) for step in following_steps(stage, self.hz)]
            # Behind a converter is what is before it.
            self.last_step[row, index] = len(ladder) - 1
        return ladder

    def _put(self, at: int, row: int, owner: int, step: Step) -> None:
        self.owner[at, row] = owner
        self.seen[at, row] = step.impedance_seen
        self.current2[at, row] = step.current_noise_a2_per_hz
        self.gain_noise2[at, row] = step.gain_noise_v2_per_hz
        self.z2_noise[at, row] = 0.0 if step.z2_is_noiseless else 1.0
        # Wires are there already; writing only what differs saves half the time.
        if step.z1_ohm is not NOTHING:
            self.z1[at, row] = step.z1_ohm
        if step.y_s is not NOTHING:
            self.y[at, row] = step.y_s
        if step.gain is not WIRE:
            self.gain[at, row] = step.gain
        if step.z2_ohm is not NOTHING:
            self.z2[at, row] = step.z2_ohm


def _power(values: ComplexArray) -> FloatArray:
    return np.asarray(values.real**2 + values.imag**2)


def _looking_right(
    ladders: _Ladders, load: FloatArray, current_noise: FloatArray
) -> tuple[ComplexArray, FloatArray]:
    """Admittance and noise current that each step's output sees.

    shape: load (n_lines, 1); results (n_steps, n_lines, n_freq)
    """
    shape = ladders.y.shape
    seen = np.empty(shape, dtype=complex)
    currents = np.empty(shape)
    admittance = np.broadcast_to(load.astype(complex), shape[1:])
    current: FloatArray = np.zeros(shape[1:])
    for at in range(ladders.count - 1, -1, -1):
        seen[at], currents[at] = admittance, current
        z1, z2 = ladders.z1[at], ladders.z2[at]
        through = ladders.seen[at][:, None]
        factor = 1.0 / (1.0 + admittance * z2)
        thermal = FOUR_K_T * z2.real * ladders.z2_noise[at][:, None]
        current = (current + _power(admittance) * thermal) * _power(factor) * through
        admittance = admittance * factor * through + ladders.y[at]
        current = current + current_noise[at]
        factor = 1.0 / (1.0 + admittance * z1)
        current = (current + _power(admittance) * (FOUR_K_T * z1.real)) * _power(factor)
        admittance = admittance * factor
    return seen, currents


def solve_many(lines: Sequence[Sequence[LadderStage]], hz: FloatArray) -> Batch:
    """Signal and noise at every junction of several lines, on one frequency axis.

    shape: hz (n_freq,)
    raises: InputError if there is none, or the stages of one stand in an impossible order
    source: Thévenin and Norton along a ladder; Nyquist noise of each real part
    """
    if not lines:
        raise InputError("lines", "must have at least one line")
    for line in lines:
        check_order(line)
    ladders = _Ladders([tuple(line) for line in lines], hz)
    rows = np.arange(len(lines))
    ends = [line[-1] for line in lines]
    load = np.array(
        [[1.0 / end.input_impedance_ohm if isinstance(end, Converter) else 0.0] for end in ends]
    )
    current_noise = FOUR_K_T * ladders.y.real + ladders.current2
    seen, currents = _looking_right(ladders, load, current_noise)
    emf, noise = ladders.emf, ladders.noise
    impedance: ComplexArray = np.zeros_like(emf)
    emfs = np.empty_like(seen)
    impedances = np.empty_like(seen)
    left_noise = np.empty(seen.shape)
    # Stages further on make no noise yet: only those up to here are carried along.
    reached = np.maximum.accumulate(ladders.owner.max(axis=1), axis=0) + 1
    for at in range(ladders.count):
        so_far = noise[:, : max(2, int(reached[at]))]
        owner = ladders.owner[at]
        z1, z2, gain = ladders.z1[at], ladders.z2[at], ladders.gain[at]
        impedance = impedance + z1
        factor = 1.0 / (1.0 + impedance * ladders.y[at])
        through = factor * gain
        so_far[rows, owner] += FOUR_K_T * z1.real + _power(impedance) * current_noise[at]
        so_far *= _power(through)[:, None, :]
        so_far[rows, owner] += ladders.gain_noise2[at][:, None] * _power(gain) + (
            FOUR_K_T * z2.real * ladders.z2_noise[at][:, None]
        )
        emf = emf * through
        impedance = impedance * factor * ladders.seen[at][:, None] + z2
        emfs[at], impedances[at], left_noise[at] = emf, impedance, so_far.sum(axis=1)
    factors = 1.0 / (1.0 + impedances * seen)
    volts = emfs * factors
    totals = (left_noise + _power(impedances) * currents) * _power(factors)
    noise *= _power(1.0 / (1.0 + impedance * load))[:, None, :]
    for row, end in enumerate(ends):
        if isinstance(end, Converter):
            noise[row, len(lines[row]) - 1] += converter_noise_v2_per_hz(end)
    noise.setflags(write=False)
    return Batch(
        lines=ladders.lines,
        hz=hz,
        open_v_rms=emfs,
        v_rms=volts,
        source_impedance_ohm=impedances,
        load_admittance_s=seen,
        noise_v2_per_hz=totals,
        end_noise_v2_per_hz=noise,
        last_step=ladders.last_step.tolist(),
    )


def solve(stages: Sequence[LadderStage], hz: FloatArray) -> Solution:
    """Signal and noise at every junction of one line; see `solve_many`."""
    return solve_many([stages], hz).line(0)
