"""From a stage's figures to its circuit: one step or two of a ladder, with their noise.

A step is, in signal order,

    ──[ series z1 ]──┬──( gain or ratio g )──[ series z2 ]──
                 [ shunt y ]
    ─────────────────┴──────────────────────────────────────

Every resistor brings its thermal noise through the real part of z1, y or z2. A passive stage has
g = 1, a transformer g = 1/n, an active stage its gain, behind which the impedance on its left is
no longer seen. Open is an admittance of 0.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Final

import numpy as np

from verve.core.line._grid import OCTAVES, flat_noise_a_share, grid
from verve.core.line._side import Branch, Driver
from verve.core.stages import (
    Amplifier,
    Cable,
    Converter,
    DitheredConverter,
    HeardSound,
    LineSource,
    Microphone,
    Pickup,
    Piezo,
    ResistivePad,
    Sound,
    Stage,
    Transformer,
)
from verve.core.units import (
    BAND_HZ,
    ComplexArray,
    FloatArray,
    db_to_ratio,
    dbu_to_v_rms,
    spl_to_pa_rms,
    thermal_noise_v2_per_hz,
)

FOUR_K_T = float(thermal_noise_v2_per_hz(1.0))
"""Thermal noise of 1 Ω in V²/Hz, which is that of 1 S in A²/Hz."""

LadderStage = Stage | Driver | Branch
Spectrum = Any
"""An (n_freq,) array, or a scalar that holds for all frequencies: real or complex. The type checker
cannot follow the algebra of such a union, so it is told nothing; the tests hold shapes and values."""


NOTHING: Final = 0.0
WIRE: Final = 1.0
"""These very objects stand for "not there", so that a solver can leave them out by identity."""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Step:
    """One step of a ladder; see the sketch above.

    `impedance_seen` is what is left of the impedance on the left side behind g: 1 where g is a wire,
    1/n² behind a transformer (10:1 leaves a hundredth), 0 behind an active stage.
    `current_noise_a2_per_hz` flows through y besides its thermal noise; `gain_noise_v2_per_hz`
    stands before the gain. A z2 that `z2_is_noiseless` has its noise counted elsewhere.
    """

    z1_ohm: Spectrum = NOTHING
    y_s: Spectrum = NOTHING
    gain: Spectrum = WIRE
    z2_ohm: Spectrum = NOTHING
    impedance_seen: float = 1.0
    current_noise_a2_per_hz: Spectrum = 0.0
    gain_noise_v2_per_hz: float = 0.0
    z2_is_noiseless: bool = False


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Emf:
    """A source: RMS volts of the loudest sine, per frequency, and noise densities (V²/Hz).

    `before_noise` belongs to the stage before (the room, before a microphone), `own_noise` to it.
    """

    voltage_v_rms: Spectrum
    own_noise_v2_per_hz: Spectrum = 0.0
    before_noise_v2_per_hz: Spectrum = 0.0


SHORT = Step(gain=0.0, impedance_seen=0.0)
"""A dead short across the line (a volume pot at zero): no signal, no noise, no impedance."""


def looking_into(branch: Branch, hz: FloatArray) -> tuple[Spectrum, Spectrum]:
    """Admittance that a branch puts across the line, and the noise current it sends back (A²/Hz).

    Nothing behind an active stage is seen.

    source: Norton along a ladder; a passive branch alone gives 4kT·Re Y (Nyquist 1928)
    """
    admittance: Spectrum = 0.0
    current: Spectrum = 0.0
    for inner in branch.branches:
        more, noise = looking_into(inner, hz)
        admittance, current = admittance + more, current + noise
    for stage in reversed(branch.stages):
        if isinstance(stage, Converter):
            # Its noise is what its data sheet says of the whole of it, and stays behind its terminals.
            admittance = admittance + 1.0 / stage.input_impedance_ohm
            continue
        for step in reversed(following_steps(stage, hz)):
            z1, z2, seen = step.z1_ohm, step.z2_ohm, step.impedance_seen
            factor = 1.0 / (1.0 + admittance * z2)
            thermal = 0.0 if step.z2_is_noiseless else FOUR_K_T * np.real(z2)
            current = (current + np.abs(admittance) ** 2 * thermal) * np.abs(factor) ** 2 * seen
            admittance = admittance * factor * seen + step.y_s
            current = current + FOUR_K_T * np.real(step.y_s) + step.current_noise_a2_per_hz
            factor = 1.0 / (1.0 + admittance * z1)
            current = current + np.abs(admittance) ** 2 * FOUR_K_T * np.real(z1)
            current = current * np.abs(factor) ** 2
            admittance = admittance * factor
    return admittance, current


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


def room_noise_v2_per_hz(sound: Sound, v_rms_a: float, hz: FloatArray) -> Spectrum:
    """Density of a room's noise whose A-weighted RMS over the band is given, as its microphone hears it.

    source: octave levels that fall by 5 dB are a density that falls by 8.01 dB per octave
    """
    room, from_octaves = _on_grid(hz)
    found: Spectrum = v_rms_a**2 * room
    if sound.room_noise_curve == "flat":
        found = flat_from_a_weighted(v_rms_a)
    if isinstance(sound, HeardSound) and any(sound.room_response_db):
        found = found * 10.0 ** (from_octaves @ np.asarray(sound.room_response_db) / 10.0)
    return found


def _on_grid(hz: FloatArray) -> tuple[FloatArray, FloatArray]:
    """A room's density whose A-weighted power is 1, and what turns values by octave into values at each frequency.

    shape: (n_freq,), (n_freq, 10)
    """
    for own_hz, room, from_octaves in _TABLES:
        if hz is own_hz:
            return room, from_octaves
    return _tabled(hz)


def _tabled(hz: FloatArray) -> tuple[FloatArray, FloatArray]:
    octaves = np.log2(hz / 1000.0) + _OCTAVE_OF_1_KHZ
    from_octaves = [np.interp(octaves, _OCTAVES, one) for one in np.eye(OCTAVES)]
    return room_curve(hz) / _ROOM_A_HZ, np.stack(from_octaves, axis=1)


def room_curve(hz: FloatArray) -> FloatArray:
    """How a room's noise is spread, as power: even up to 31.5 Hz, then falling by 8.01 dB per octave."""
    return np.asarray((np.maximum(hz, ROOM_CORNER_HZ) / ROOM_CORNER_HZ) ** _ROOM_SLOPE)


ROOM_CORNER_HZ: Final = 31.5
_ROOM_SLOPE: Final = -8.01 / (10.0 * float(np.log10(2.0)))
_OCTAVE_OF_1_KHZ: Final = 5.0
_OCTAVES: Final = np.arange(OCTAVES)
_ROOM_A_HZ: Final = float((room_curve(grid(4).hz) * grid(4).a_weights_hz).sum())
_TABLES: Final = tuple((grid(n).hz, *_tabled(grid(n).hz)) for n in range(3))
"""For the grids that nearly every line is solved on."""


def _microphone(
    sound: Sound, microphone: Microphone, hz: FloatArray
) -> tuple[Emf, tuple[Step, ...]]:
    """A microphone in front of its sound: E = s·p·H, both noises through the same pad and filter.

    source: derivation from the inverse distance law and the open-circuit sensitivity
    """
    sensitivity = microphone.sensitivity_mv_per_pa / 1000.0
    filtered = high_pass(hz, microphone.high_pass_hz, microphone.high_pass_order)
    filter_power = np.abs(filtered) ** 2
    pad = db_to_ratio(-microphone.pad_db)
    pressure = spl_to_pa_rms(sound.peak_spl_db) * sound.reference_distance_m / sound.distance_m
    room: Spectrum = 0.0
    own = 0.0
    if sound.room_noise_dba is not None:
        room_v_rms = spl_to_pa_rms(sound.room_noise_dba) * sensitivity * pad
        room = room_noise_v2_per_hz(sound, room_v_rms, hz)
    if microphone.self_noise_dba is not None:
        own = flat_from_a_weighted(spl_to_pa_rms(microphone.self_noise_dba) * sensitivity)
    emf = Emf(
        voltage_v_rms=sensitivity * pressure * pad * filtered,
        own_noise_v2_per_hz=own * filter_power,
        before_noise_v2_per_hz=room * filter_power,
    )
    is_noiseless = microphone.self_noise_dba is not None
    return emf, (Step(z2_ohm=microphone.output_impedance_ohm, z2_is_noiseless=is_noiseless),)


def _pickup(stage: Pickup, hz: FloatArray) -> tuple[Emf, tuple[Step, ...]]:
    omega = 2.0 * np.pi * hz
    across: Spectrum = 1j * omega * stage.capacitance_f
    if stage.tone_pot_ohm is not None and stage.tone_capacitor_f is not None:
        capacitor = 1j * omega * stage.tone_capacitor_f
        across = across + capacitor / (1.0 + capacitor * stage.tone_position * stage.tone_pot_ohm)
    coil = stage.dc_resistance_ohm + 1j * omega * stage.inductance_h
    emf = Emf(voltage_v_rms=stage.peak_emf_v / np.sqrt(2.0))
    if stage.volume_pot_ohm is None:
        return emf, (Step(z1_ohm=coil, y_s=across),)
    p = stage.volume_position
    upper = Step(z1_ohm=coil, y_s=across, z2_ohm=(1.0 - p) * stage.volume_pot_ohm)
    return emf, (upper, Step(y_s=1.0 / (p * stage.volume_pot_ohm)) if p > 0.0 else SHORT)


def source_circuit(
    stages: tuple[LadderStage, ...], index: int, hz: FloatArray
) -> tuple[Emf, tuple[Step, ...]]:
    """What a line begins with: its EMF and what stands behind it."""
    stage = stages[index]
    if isinstance(stage, Driver):
        step = Step(z2_ohm=stage.output_impedance_ohm, z2_is_noiseless=True)
        return Emf(voltage_v_rms=1.0), (step,)
    if isinstance(stage, Microphone):
        sound = stages[index - 1]
        assert isinstance(sound, Sound)
        return _microphone(sound, stage, hz)
    if isinstance(stage, Pickup):
        return _pickup(stage, hz)
    if isinstance(stage, Piezo):
        emf = Emf(voltage_v_rms=stage.peak_emf_v / float(np.sqrt(2.0)))
        return emf, (Step(z2_ohm=1.0 / (2j * np.pi * hz * stage.capacitance_f)),)
    assert isinstance(stage, LineSource)
    own = 0.0 if stage.noise_dbu is None else dbu_to_v_rms(stage.noise_dbu) ** 2 / BAND_HZ
    emf = Emf(voltage_v_rms=dbu_to_v_rms(stage.peak_dbu), own_noise_v2_per_hz=own)
    is_noiseless = stage.noise_dbu is not None
    return emf, (Step(z2_ohm=stage.output_impedance_ohm, z2_is_noiseless=is_noiseless),)


def _amplifier(stage: Amplifier, hz: FloatArray) -> Step:
    """An active stage: series noise voltage from its EIN less the test source's thermal noise.

    source: derivation, e² = EIN²/B − 4kT·Rs, never below zero; i² = 4kT/Rin + in²
    """
    series_noise = 0.0
    if stage.ein_dbu is not None:
        source = float(thermal_noise_v2_per_hz(stage.ein_source_ohm))
        series_noise = max(0.0, dbu_to_v_rms(stage.ein_dbu) ** 2 / BAND_HZ - source)
    admittance: Spectrum = 1.0 / stage.input_impedance_ohm
    if stage.input_capacitance_f:
        admittance = admittance + 2j * np.pi * hz * stage.input_capacitance_f
    return Step(
        y_s=admittance,
        gain=db_to_ratio(stage.gain_db) * high_pass(hz, stage.high_pass_hz, stage.high_pass_order),
        z2_ohm=stage.output_impedance_ohm,
        impedance_seen=0.0,
        current_noise_a2_per_hz=stage.current_noise_a_per_rthz**2,
        gain_noise_v2_per_hz=series_noise,
        z2_is_noiseless=True,
    )


def following_steps(stage: LadderStage, hz: FloatArray) -> tuple[Step, ...]:
    """The ladder of a stage that is no source, from its input to its output."""
    if isinstance(stage, Branch):
        admittance, current = looking_into(stage, hz)
        # What its resistors make is 4kT·Re Y already; active inputs in it make more, a converter none.
        extra = current - FOUR_K_T * np.real(admittance)
        return (Step(y_s=admittance, current_noise_a2_per_hz=extra),)
    if isinstance(stage, Cable):
        capacitance = stage.length_m * stage.capacitance_f_per_m
        loop_ohm = stage.length_m * stage.resistance_ohm_per_m
        return (Step(z1_ohm=loop_ohm, y_s=2j * np.pi * hz * capacitance),)
    if isinstance(stage, ResistivePad):
        return (Step(z1_ohm=stage.series_ohm, y_s=1.0 / stage.shunt_ohm),)
    if isinstance(stage, Transformer):
        across: Spectrum = 0.0
        if stage.primary_inductance_h is not None:
            across = 1.0 / (2j * np.pi * hz * stage.primary_inductance_h)
        return (
            Step(
                z1_ohm=stage.primary_resistance_ohm,
                y_s=across,
                gain=1.0 / stage.turns_ratio,
                z2_ohm=stage.secondary_resistance_ohm,
                impedance_seen=1.0 / stage.turns_ratio**2,
            ),
        )
    assert isinstance(stage, Amplifier)
    return (_amplifier(stage, hz),)


def quantisation_v2_per_hz(stage: Converter) -> float:
    """What rounding to its bits makes, with dither where it has some, as a flat density at its terminals.

    source: ideal quantisation 6.0206·bits + 1.7609 dB below a full-scale sine (step²/12); with triangular
    dither three times that power (Lipshitz, Wannamaker & Vanderkooy, JAES 40, 1992), to half the rate
    """
    full_scale_v2 = dbu_to_v_rms(stage.full_scale_dbu) ** 2
    ideal = full_scale_v2 * 10.0 ** (-(6.0206 * stage.bit_depth + 1.7609) / 10.0)
    if isinstance(stage, DitheredConverter):
        return float(3.0 * ideal / (stage.dither_rate_hz / 2.0))
    return float(ideal / BAND_HZ)


def quantisation_share(stage: Converter) -> float:
    """Part of a converter's own noise that rounding makes, 0…1."""
    return quantisation_v2_per_hz(stage) / converter_noise_v2_per_hz(stage)


def converter_noise_v2_per_hz(stage: Converter) -> float:
    """The converter's own noise as a flat density at its input terminals.

    source: dynamic range as A-weighted; quantisation as below
    """
    own = quantisation_v2_per_hz(stage)
    if stage.dynamic_range_dba is not None:
        own += flat_from_a_weighted(
            dbu_to_v_rms(stage.full_scale_dbu) * db_to_ratio(-stage.dynamic_range_dba)
        )
    return float(own)
