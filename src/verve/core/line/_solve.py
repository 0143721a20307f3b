"""Solving a line: at every junction the signal, both impedances and the noise from both sides.

Looking left, the line is an EMF behind an impedance (Thévenin); looking right, an admittance with a
noise current (Norton). Both are carried along the ladder element by element; an active stage starts
a new left side. No step divides by anything that can be zero: a missing load is an admittance of 0.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from verve.core.errors import InputError
from verve.core.line._network import (
    Active,
    Element,
    Emf,
    Ratio,
    Series,
    Short,
    Shunt,
    Spectrum,
    amplifier_block,
    converter_noise_v2_per_hz,
    passive_elements,
    sound_and_microphone,
    source_circuit,
)
from verve.core.line._stages import (
    SOURCES,
    Amplifier,
    Converter,
    Microphone,
    Sound,
    Stage,
)
from verve.core.units import (
    FloatArray,
    thermal_noise_a2_per_hz,
    thermal_noise_v2_per_hz,
)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Junction:
    """The wire behind one stage, at the loudest sine of each frequency.

    shape: (n_freq,) or a scalar that holds for all
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

    stages: tuple[Stage, ...]
    hz: FloatArray
    junctions: tuple[Junction | None, ...]
    end_noise_v2_per_hz: FloatArray

    def __post_init__(self) -> None:
        self.end_noise_v2_per_hz.setflags(write=False)


def check_order(stages: Sequence[Stage], place: str = "line") -> None:
    """raises: InputError if the stages stand in an order that cannot be."""
    if not stages:
        raise InputError(place, "must have at least one stage")
    last = len(stages) - 1
    for index, stage in enumerate(stages):
        here = f"{place}[{index}]"
        if (index == 0) != isinstance(stage, SOURCES):
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


@dataclass(slots=True, eq=False)
class _Left:
    """What a junction sees to its left: EMF, impedance, noise by stage (n_stages, n_freq)."""

    emf: Spectrum
    impedance: Spectrum
    noise: FloatArray

    def add(self, element: Element, index: int) -> None:
        if isinstance(element, Series):
            self.impedance = self.impedance + element.impedance_ohm
            if element.noise_v2_per_hz is None:
                self.noise[index] += thermal_noise_v2_per_hz(np.real(element.impedance_ohm))
            else:
                self.noise[index] += element.noise_v2_per_hz
        elif isinstance(element, Shunt):
            factor = 1.0 / (1.0 + self.impedance * element.admittance_s)
            power = np.abs(factor) ** 2
            conductance = np.real(element.admittance_s)
            if np.any(conductance):
                own = np.abs(self.impedance) ** 2 * thermal_noise_a2_per_hz(conductance)
                self.noise[index] += own
            self.noise *= power
            self.emf = self.emf * factor
            self.impedance = self.impedance * factor
        elif isinstance(element, Ratio):
            self.emf = self.emf / element.turns_ratio
            self.impedance = self.impedance / element.turns_ratio**2
            self.noise /= element.turns_ratio**2
        elif isinstance(element, Short):
            self.emf, self.impedance = 0.0, 0.0
            self.noise[:] = 0.0


_Right = tuple[Spectrum, Spectrum]
"""What a junction sees to its right: admittance (S) and noise current density (A²/Hz)."""


def _in_front_of(right: _Right, element: Element) -> _Right:
    """The right side seen through one more element in front of it."""
    admittance, noise = right
    if isinstance(element, Series):
        factor = 1.0 / (1.0 + admittance * element.impedance_ohm)
        thermal = thermal_noise_v2_per_hz(np.real(element.impedance_ohm))
        return admittance * factor, (noise + np.abs(admittance) ** 2 * thermal) * np.abs(
            factor
        ) ** 2
    if isinstance(element, Shunt):
        thermal = thermal_noise_a2_per_hz(np.real(element.admittance_s))
        return admittance + element.admittance_s, noise + thermal
    if isinstance(element, Ratio):
        square = element.turns_ratio**2
        return admittance / square, noise / square
    raise TypeError("a short stands only inside a source")


_Part = Emf | Active | Converter | tuple[Element, ...] | None


def _parts(stages: Sequence[Stage], hz: FloatArray) -> list[_Part]:
    parts: list[_Part] = []
    for index, stage in enumerate(stages):
        if isinstance(stage, Sound):
            parts.append(None)
        elif isinstance(stage, Microphone):
            before = stages[index - 1]
            assert isinstance(before, Sound)
            parts.append(sound_and_microphone(before, stage, hz))
        elif isinstance(stage, Amplifier):
            parts.append(amplifier_block(stage, hz))
        elif isinstance(stage, Converter):
            parts.append(stage)
        elif isinstance(stage, SOURCES):
            parts.append(source_circuit(stage, hz))
        else:
            parts.append(passive_elements(stage, hz))
    return parts


def _looking_right(parts: Sequence[_Part]) -> list[_Right]:
    right: list[_Right] = [(0.0, 0.0)] * len(parts)
    for index in range(len(parts) - 2, -1, -1):
        behind = parts[index + 1]
        if isinstance(behind, Active):
            right[index] = (behind.input_admittance_s, behind.input_noise_a2_per_hz)
        elif isinstance(behind, Converter):
            right[index] = (1.0 / behind.input_impedance_ohm, 0.0)
        elif isinstance(behind, tuple):
            seen = right[index + 1]
            for element in reversed(behind):
                seen = _in_front_of(seen, element)
            right[index] = seen
    return right


def _junction(left: _Left, right: _Right) -> Junction:
    admittance, current = right
    factor = 1.0 / (1.0 + left.impedance * admittance)
    noise = left.noise.sum(axis=0) + np.abs(left.impedance) ** 2 * current
    return Junction(
        open_v_rms=left.emf,
        v_rms=left.emf * factor,
        source_impedance_ohm=left.impedance,
        load_admittance_s=admittance,
        noise_v2_per_hz=noise * np.abs(factor) ** 2,
    )


def _through_active(left: _Left, block: Active, index: int) -> None:
    factor = 1.0 / (1.0 + left.impedance * block.input_admittance_s)
    power = np.abs(factor) ** 2
    left.noise *= power
    left.noise[index] += (
        np.abs(left.impedance) ** 2 * block.input_noise_a2_per_hz * power
        + block.gain_noise_v2_per_hz
    )
    left.noise *= np.abs(block.gain) ** 2
    left.emf = left.emf * factor * block.gain
    left.impedance = block.output_impedance_ohm


def solve(stages: Sequence[Stage], hz: FloatArray) -> Solution:
    """Signal and noise at every junction of a line.

    shape: hz (n_freq,)
    raises: InputError if the stages stand in an impossible order
    source: Thévenin and Norton along a ladder; Nyquist noise of each real part
    """
    check_order(stages)
    parts = _parts(stages, hz)
    right = _looking_right(parts)
    left = _Left(0.0, 0.0, np.zeros((len(stages), len(hz))))
    junctions: list[Junction | None] = []
    for index, part in enumerate(parts):
        if part is None:
            junctions.append(None)
            continue
        if isinstance(part, Emf):
            left.emf = part.voltage_v_rms
            left.noise[index] += part.own_noise_v2_per_hz
            if index:
                left.noise[index - 1] += part.before_noise_v2_per_hz
            for element in part.elements:
                left.add(element, index)
        elif isinstance(part, Active):
            _through_active(left, part, index)
        elif isinstance(part, Converter):
            junctions.append(junctions[-1])
            power = np.abs(1.0 / (1.0 + left.impedance / part.input_impedance_ohm)) ** 2
            left.noise *= power
            left.noise[index] += converter_noise_v2_per_hz(part)
            continue
        else:
            for element in part:
                left.add(element, index)
        junctions.append(_junction(left, right[index]))
    return Solution(
        stages=tuple(stages), hz=hz, junctions=tuple(junctions), end_noise_v2_per_hz=left.noise
    )
