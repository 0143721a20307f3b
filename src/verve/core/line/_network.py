"""From a stage's figures to its circuit: sources, ladder elements, active blocks, with their noise.

A passive stage is a ladder of series impedances, shunt admittances and ideal transformers; every
resistor brings its thermal noise through the real part. An active stage is its input admittance
with noise current, a gain with noise voltage, and an output impedance. Open is an admittance of 0.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from verve.core.line._grid import flat_noise_a_share
from verve.core.line._stages import (
    Amplifier,
    Cable,
    Converter,
    LineSource,
    Microphone,
    Pickup,
    Piezo,
    ResistivePad,
    Sound,
    Transformer,
)
from verve.core.units import (
    BAND_HZ,
    ComplexArray,
    FloatArray,
    db_to_ratio,
    dbu_to_v_rms,
    spl_to_pa_rms,
    thermal_noise_a2_per_hz,
    thermal_noise_v2_per_hz,
)

Spectrum = Any
"""An (n_freq,) array, or a scalar that holds for all frequencies: real or complex. The type checker
cannot follow the algebra of such a union, so it is told nothing; the tests hold shapes and values."""


@dataclass(frozen=True, slots=True)
class Series:
    """An impedance in the line. `noise_v2_per_hz` None: the thermal noise of its real part."""

    impedance_ohm: Spectrum
    noise_v2_per_hz: float | None = None


@dataclass(frozen=True, slots=True)
class Shunt:
    """An admittance across the line, with the thermal noise of its real part."""

    admittance_s: Spectrum


@dataclass(frozen=True, slots=True)
class Ratio:
    """An ideal transformer; 10 lowers the voltage to a tenth. Lossless, so without noise."""

    turns_ratio: float


@dataclass(frozen=True, slots=True)
class Short:
    """A dead short across the line (a volume pot at zero): no signal, no noise, no impedance."""


Element = Series | Shunt | Ratio | Short


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Emf:
    """A source: RMS volts of the loudest sine, per frequency, and noise densities (V²/Hz).

    `before_noise` belongs to the stage before (the room, before a microphone), `own_noise` to it.
    """

    voltage_v_rms: Spectrum
    own_noise_v2_per_hz: Spectrum
    before_noise_v2_per_hz: Spectrum
    elements: tuple[Element, ...]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Active:
    """An active block; noise current at its input (A²/Hz), noise voltage behind it (V²/Hz)."""

    input_admittance_s: Spectrum
    input_noise_a2_per_hz: float
    gain: Spectrum
    gain_noise_v2_per_hz: float
    output_impedance_ohm: float


def high_pass(hz: FloatArray, corner_hz: float | None, order: int) -> ComplexArray | float:
    """Response of a Butterworth high-pass, −3.01 dB at its corner; 1 without a corner.

    source: Butterworth 1930; poles of the low-pass prototype, s → 1/s
    """
    if corner_hz is None:
        return 1.0
    relative = hz / corner_hz
    with np.errstate(over="ignore"):
        magnitude = 1.0 / np.sqrt(1.0 + relative ** (-2.0 * order))
    turn = np.zeros_like(relative)
    for k in range(order):
        pole = np.exp(1j * np.pi * (2 * k + order + 1) / (2 * order))
        turn -= np.angle(1.0 - 1.0 / (1j * relative * pole))
    return np.asarray(magnitude * np.exp(1j * turn))


def flat_from_a_weighted(v_rms_a: float) -> float:
    """Density (V²/Hz) of the flat noise whose A-weighted RMS over the band is given."""
    return float(v_rms_a**2 / flat_noise_a_share() / BAND_HZ)


def sound_and_microphone(sound: Sound, microphone: Microphone, hz: FloatArray) -> Emf:
    """A microphone in front of its sound: E = s·p·H, both noises through the same pad and filter.

    source: derivation from the inverse distance law and the open-circuit sensitivity
    """
    sensitivity = microphone.sensitivity_mv_per_pa / 1000.0
    filtered = high_pass(hz, microphone.high_pass_hz, microphone.high_pass_order)
    filter_power = np.abs(filtered) ** 2
    pad = db_to_ratio(-microphone.pad_db)
    pressure = spl_to_pa_rms(sound.peak_spl_db) * sound.reference_distance_m / sound.distance_m
    room = 0.0
    if sound.room_noise_dba is not None:
        room = flat_from_a_weighted(spl_to_pa_rms(sound.room_noise_dba) * sensitivity * pad)
    if microphone.self_noise_dba is None:
        own, series = 0.0, Series(microphone.output_impedance_ohm)
    else:
        own = flat_from_a_weighted(spl_to_pa_rms(microphone.self_noise_dba) * sensitivity)
        series = Series(microphone.output_impedance_ohm, noise_v2_per_hz=0.0)
    return Emf(
        voltage_v_rms=sensitivity * pressure * pad * filtered,
        own_noise_v2_per_hz=own * filter_power,
        before_noise_v2_per_hz=room * filter_power,
        elements=(series,),
    )


def _pickup(stage: Pickup, hz: FloatArray) -> Emf:
    omega = 2.0 * np.pi * hz
    across: Spectrum = 1j * omega * stage.capacitance_f
    if stage.tone_pot_ohm is not None and stage.tone_capacitor_f is not None:
        capacitor = 1j * omega * stage.tone_capacitor_f
        across = across + capacitor / (1.0 + capacitor * stage.tone_position * stage.tone_pot_ohm)
    elements: list[Element] = [
        Series(stage.dc_resistance_ohm + 1j * omega * stage.inductance_h),
        Shunt(across),
    ]
    if stage.volume_pot_ohm is not None:
        p = stage.volume_position
        elements.append(Series((1.0 - p) * stage.volume_pot_ohm))
        elements.append(Shunt(1.0 / (p * stage.volume_pot_ohm)) if p > 0.0 else Short())
    return Emf(
        voltage_v_rms=stage.peak_emf_v / np.sqrt(2.0),
        own_noise_v2_per_hz=0.0,
        before_noise_v2_per_hz=0.0,
        elements=tuple(elements),
    )


def source_circuit(stage: Pickup | Piezo | LineSource, hz: FloatArray) -> Emf:
    """An electrical source: its EMF and what stands behind it."""
    if isinstance(stage, Pickup):
        return _pickup(stage, hz)
    if isinstance(stage, Piezo):
        element = Series(1.0 / (2j * np.pi * hz * stage.capacitance_f))
        voltage, own = stage.peak_emf_v / float(np.sqrt(2.0)), 0.0
    else:
        voltage = dbu_to_v_rms(stage.peak_dbu)
        if stage.noise_dbu is None:
            own, element = 0.0, Series(stage.output_impedance_ohm)
        else:
            own = dbu_to_v_rms(stage.noise_dbu) ** 2 / BAND_HZ
            element = Series(stage.output_impedance_ohm, noise_v2_per_hz=0.0)
    return Emf(
        voltage_v_rms=voltage,
        own_noise_v2_per_hz=own,
        before_noise_v2_per_hz=0.0,
        elements=(element,),
    )


def passive_elements(
    stage: Cable | ResistivePad | Transformer, hz: FloatArray
) -> tuple[Element, ...]:
    """The ladder of a passive stage, from its input to its output."""
    if isinstance(stage, Cable):
        capacitance = stage.length_m * stage.capacitance_f_per_m
        shunt = Shunt(2j * np.pi * hz * capacitance)
        loop_ohm = stage.length_m * stage.resistance_ohm_per_m
        return (Series(loop_ohm), shunt) if loop_ohm else (shunt,)
    if isinstance(stage, ResistivePad):
        return (Series(stage.series_ohm), Shunt(1.0 / stage.shunt_ohm))
    elements: list[Element] = [Series(stage.primary_resistance_ohm)]
    if stage.primary_inductance_h is not None:
        elements.append(Shunt(1.0 / (2j * np.pi * hz * stage.primary_inductance_h)))
    elements += [Ratio(stage.turns_ratio), Series(stage.secondary_resistance_ohm)]
    return tuple(elements)


def amplifier_block(stage: Amplifier, hz: FloatArray) -> Active:
    """An active stage: series noise voltage from its EIN less the test source's thermal noise.

    source: derivation, e² = EIN²/B − 4kT·Rs, never below zero; i² = 4kT/Rin + in²
    """
    conductance = 1.0 / stage.input_impedance_ohm
    series_noise = 0.0
    if stage.ein_dbu is not None:
        source = float(thermal_noise_v2_per_hz(stage.ein_source_ohm))
        series_noise = max(0.0, dbu_to_v_rms(stage.ein_dbu) ** 2 / BAND_HZ - source)
    admittance: Spectrum = conductance
    if stage.input_capacitance_f:
        admittance = conductance + 2j * np.pi * hz * stage.input_capacitance_f
    return Active(
        input_admittance_s=admittance,
        input_noise_a2_per_hz=float(thermal_noise_a2_per_hz(conductance))
        + stage.current_noise_a_per_rthz**2,
        gain=db_to_ratio(stage.gain_db) * high_pass(hz, stage.high_pass_hz, stage.high_pass_order),
        gain_noise_v2_per_hz=series_noise,
        output_impedance_ohm=stage.output_impedance_ohm,
    )


def converter_noise_v2_per_hz(stage: Converter) -> float:
    """The converter's own noise as a flat density at its input terminals.

    source: dynamic range as A-weighted; ideal quantisation 6.0206·bits + 1.7609 dB below a
    full-scale sine (step²/12)
    """
    full_scale_v2 = dbu_to_v_rms(stage.full_scale_dbu) ** 2
    own = full_scale_v2 * 10.0 ** (-(6.0206 * stage.bit_depth + 1.7609) / 10.0) / BAND_HZ
    if stage.dynamic_range_dba is not None:
        own += flat_from_a_weighted(
            dbu_to_v_rms(stage.full_scale_dbu) * db_to_ratio(-stage.dynamic_range_dba)
        )
    return float(own)
