"""Noise by its origin where a passive place goes several ways: what one way makes is heard in the others.

Each resistor and each input current is followed as an amplitude with its phase, so that what it is at the
end of its own way and what it is at the end of another add as they do in the wire.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from verve.core.line import FOUR_K_T, Branch, LadderStage, Solution, Spectrum, following_steps
from verve.core.network._staging import NodeKey
from verve.core.stages import Converter
from verve.core.units import ComplexArray, FloatArray

Origin = tuple[NodeKey, str]
"""A place, and which of its elements where they are followed apart; "" for all of them."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SideKeys:
    """The places of a side branch, in the order of its stages, and of the branches at its end."""

    keys: tuple[NodeKey, ...]
    sides: tuple[SideKeys, ...] = ()


def side_noise(
    branch: Branch, keys: SideKeys, hz: FloatArray
) -> tuple[ComplexArray, dict[Origin, ComplexArray]]:
    """Admittance of a side branch, and the short-circuit current of each element at the place it hangs on.

    unit: siemens, A/√Hz
    source: Norton along a ladder, as in `looking_into`, with amplitudes instead of powers
    """
    zero = np.zeros(hz.size, dtype=complex)
    admittance: Spectrum = zero
    currents: dict[Origin, ComplexArray] = {}
    for inner, inner_keys in zip(branch.branches, keys.sides, strict=True):
        more, found = side_noise(inner, inner_keys, hz)
        admittance = admittance + more
        currents |= found
    for stage, key in reversed(list(zip(branch.stages, keys.keys, strict=True))):
        if isinstance(stage, Converter):
            admittance = admittance + 1.0 / stage.input_impedance_ohm
            continue
        steps = following_steps(stage, hz)
        for number in range(len(steps) - 1, -1, -1):
            step = steps[number]
            factor = 1.0 / (1.0 + admittance * step.z2_ohm)
            if np.any(step.impedance_seen):
                # A current goes through a transformer as its voltage does the other way.
                currents = {origin: c * factor * step.gain for origin, c in currents.items()}
                if not step.z2_is_noiseless:
                    volts = np.sqrt(FOUR_K_T * np.real(step.z2_ohm))
                    currents[key, f"{number} z2"] = -admittance * volts * factor * step.gain
            else:
                currents = {}
            admittance = admittance * factor * step.impedance_seen + step.y_s
            density = FOUR_K_T * np.real(step.y_s) + step.current_noise_a2_per_hz
            currents[key, f"{number} y"] = np.sqrt(density) + zero
            factor = 1.0 / (1.0 + admittance * step.z1_ohm)
            currents = {origin: c * factor for origin, c in currents.items()}
            volts = np.sqrt(FOUR_K_T * np.real(step.z1_ohm))
            currents[key, f"{number} z1"] = -admittance * volts * factor
            admittance = admittance * factor
    return np.asarray(admittance + zero), currents


@dataclass(frozen=True, slots=True, kw_only=True)
class Left:
    """What is seen to the left where following begins: an impedance, and what one volt behind it becomes."""

    impedance_ohm: Spectrum
    open_v_rms: Spectrum
    end_scale: Spectrum = 1.0


def followed_noise(
    stages: Sequence[LadderStage],
    keys: Sequence[NodeKey | None],
    sides: Mapping[int, SideKeys],
    solution: Solution,
    *,
    first: int,
    left: Left,
    to: int | None = None,
) -> dict[Origin, ComplexArray]:
    """Everything that arises from one stage of a strand on, behind its last stage or another.

    unit: V/√Hz
    source: derivation, each element as an EMF at the left of its step (Thévenin), times the way from there
    """
    hz = solution.hz
    last = solution.junctions[len(stages) - 1 if to is None else to]
    assert last is not None
    zero = np.zeros(hz.size, dtype=complex)
    end_v_rms = last.v_rms * left.end_scale + zero
    impedance: Spectrum = left.impedance_ohm + zero
    opened: Spectrum = left.open_v_rms + zero
    found: dict[Origin, ComplexArray] = {}

    def put(origin: Origin, emf: Spectrum) -> None:
        way = np.divide(end_v_rms, opened, out=zero.copy(), where=opened != 0.0)
        found[origin] = np.asarray(emf * way)

    for index in range(first, len(stages) if to is None else to + 1):
        stage, key = stages[index], keys[index]
        if isinstance(stage, Converter):
            break
        if index in sides:
            assert isinstance(stage, Branch)
            _, currents = side_noise(stage, sides[index], hz)
            for origin, current in currents.items():
                put(origin, current * impedance)
        for number, step in enumerate(following_steps(stage, hz)):
            behind = impedance + step.z1_ohm
            factor = 1.0 / (1.0 + behind * step.y_s)
            if key is not None:
                put((key, f"{number} z1"), np.sqrt(FOUR_K_T * np.real(step.z1_ohm)))
                density = FOUR_K_T * np.real(step.y_s) + step.current_noise_a2_per_hz
                put((key, f"{number} y"), np.sqrt(density) * behind)
                put((key, f"{number} gain"), np.sqrt(step.gain_noise_v2_per_hz) / factor)
            opened = opened * factor * step.gain
            impedance = behind * factor * step.impedance_seen + step.z2_ohm
            if key is not None and not step.z2_is_noiseless:
                put((key, f"{number} z2"), np.sqrt(FOUR_K_T * np.real(step.z2_ohm)))
    return {origin: amplitude for origin, amplitude in found.items() if amplitude.any()}
