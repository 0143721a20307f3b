"""A solved line against formulas that a student could write down."""

from __future__ import annotations

import math

import pytest

from verve.core.line import Reading, read_at, response_db, source_impedance_ohm
from verve.core.stages import (
    Amplifier,
    Cable,
    Converter,
    LineSource,
    Microphone,
    Pickup,
    Piezo,
    ResistivePad,
    Sound,
    Stage,
    Transformer,
)

K_T = 1.380649e-23 * 293.15
BAND_HZ = 19_980.0
DBU_V = math.sqrt(0.6)


def reading_of(*stages: Stage, hz: float = 1000.0, reference_hz: float = 1000.0) -> Reading:
    return read_at(stages, (hz, reference_hz))


def dbu(volts_rms: float) -> float:
    return 20.0 * math.log10(volts_rms / DBU_V)


def noise_dbu_of(resistance_ohm: float) -> float:
    return 10.0 * math.log10(4.0 * K_T * resistance_ohm * BAND_HZ / 0.6)


def test_a_line_output_is_divided_by_its_own_and_the_input_impedance() -> None:
    line = reading_of(
        LineSource(peak_dbu=4.0, output_impedance_ohm=600.0),
        Converter(full_scale_dbu=18.0, input_impedance_ohm=600.0),
    )
    assert line.peak_dbu(0) == pytest.approx(4.0 - 20.0 * math.log10(2.0))
    assert line.loss_db(0) == pytest.approx(20.0 * math.log10(2.0))
    assert line.peak_dbfs() == pytest.approx(4.0 - 20.0 * math.log10(2.0) - 18.0)


def test_an_open_output_loses_nothing() -> None:
    line = reading_of(LineSource(peak_dbu=-10.0, output_impedance_ohm=10_000.0))
    assert line.peak_dbu(0) == pytest.approx(-10.0)
    assert line.loss_db(0) == pytest.approx(0.0, abs=1e-12)


@pytest.mark.parametrize(
    ("spl_db", "distance_m", "sensitivity_mv", "expected_v_rms"),
    [
        (93.979400, 1.0, 1.0, 1e-3),
        (93.979400, 2.0, 1.0, 0.5e-3),
        (93.979400, 0.1, 1.0, 10e-3),
        (113.979400, 1.0, 20.0, 0.2),
        (73.979400, 0.5, 50.0, 0.01),
    ],
)
def test_a_microphone_turns_pascals_into_volts(
    spl_db: float, distance_m: float, sensitivity_mv: float, expected_v_rms: float
) -> None:
    line = reading_of(
        Sound(peak_spl_db=spl_db, distance_m=distance_m),
        Microphone(sensitivity_mv_per_pa=sensitivity_mv, output_impedance_ohm=150.0),
    )
    assert line.peak_dbu(1) == pytest.approx(dbu(expected_v_rms), abs=1e-5)


@pytest.mark.parametrize("resistance_ohm", [1.0, 150.0, 1e4, 1e6])
def test_a_resistor_alone_has_nyquist_noise(resistance_ohm: float) -> None:
    line = reading_of(LineSource(peak_dbu=0.0, output_impedance_ohm=resistance_ohm))
    assert line.noise_dbu(0) == pytest.approx(noise_dbu_of(resistance_ohm), abs=1e-6)


def test_two_resistors_across_each_other_have_the_noise_of_their_parallel() -> None:
    line = reading_of(
        LineSource(peak_dbu=0.0, output_impedance_ohm=1000.0),
        ResistivePad(series_ohm=0.0, shunt_ohm=3000.0),
    )
    assert line.noise_dbu(1) == pytest.approx(noise_dbu_of(750.0), abs=1e-6)


def test_a_capacitor_across_a_resistor_limits_its_noise_to_kt_over_c() -> None:
    # With a corner far below the band's top, all but the lowest of the noise is kT/C.
    resistance, capacitance = 1e6, 1e-9
    line = reading_of(
        LineSource(peak_dbu=0.0, output_impedance_ohm=resistance),
        Cable(length_m=1.0, capacitance_f_per_m=capacitance),
    )
    corner = 1.0 / (2.0 * math.pi * resistance * capacitance)
    share = (math.atan(20_000.0 / corner) - math.atan(20.0 / corner)) / (math.pi / 2.0)
    expected = 10.0 * math.log10(K_T / capacitance * share / 0.6)
    assert line.noise_dbu(1) == pytest.approx(expected, abs=0.005)


@pytest.mark.parametrize("hz", [100.0, 1000.0, 5305.16, 20_000.0])
def test_a_cable_on_a_resistive_source_is_a_low_pass(hz: float) -> None:
    resistance, capacitance = 10_000.0, 3e-9
    line = reading_of(
        LineSource(peak_dbu=0.0, output_impedance_ohm=resistance),
        Cable(length_m=30.0, capacitance_f_per_m=capacitance / 30.0),
        hz=hz,
    )
    ratio = 2.0 * math.pi * hz * resistance * capacitance
    assert line.peak_dbu(1) == pytest.approx(-10.0 * math.log10(1.0 + ratio**2), abs=1e-6)


@pytest.mark.parametrize("hz", [20.0, 133.0, 1000.0, 10_000.0])
def test_a_piezo_into_a_resistance_is_a_high_pass(hz: float) -> None:
    capacitance, resistance = 1.2e-9, 1e6
    line = reading_of(
        Piezo(peak_emf_v=1.0, capacitance_f=capacitance),
        Amplifier(input_impedance_ohm=resistance),
        hz=hz,
    )
    ratio = 2.0 * math.pi * hz * resistance * capacitance
    expected = dbu(1.0 / math.sqrt(2.0)) + 20.0 * math.log10(ratio / math.hypot(1.0, ratio))
    assert line.peak_dbu(0) == pytest.approx(expected, abs=1e-6)


def test_a_piezo_loses_level_evenly_to_the_capacitance_of_its_cable() -> None:
    line = reading_of(
        Piezo(peak_emf_v=1.0, capacitance_f=1e-9),
        Cable(length_m=10.0, capacitance_f_per_m=1e-10),
        hz=3000.0,
    )
    assert line.peak_dbu(1) == pytest.approx(dbu(0.5 / math.sqrt(2.0)), abs=1e-6)


def test_a_transformer_of_ten_to_one_lowers_to_a_tenth_and_impedance_to_a_hundredth() -> None:
    line = reading_of(
        LineSource(peak_dbu=0.0, output_impedance_ohm=15_000.0),
        Transformer(turns_ratio=10.0),
    )
    assert line.peak_dbu(1) == pytest.approx(-20.0)
    junction = line.junction(1)
    assert source_impedance_ohm(junction, len(line.band.hz)) == pytest.approx(150.0)
    assert line.noise_dbu(1) == pytest.approx(noise_dbu_of(150.0), abs=1e-6)


def test_a_transformer_reflects_its_load_with_the_square_of_its_ratio() -> None:
    # 1500 Ω behind 10:1 looks like 150 kΩ: equal to the source, so half the voltage.
    line = reading_of(
        LineSource(peak_dbu=0.0, output_impedance_ohm=150_000.0),
        Transformer(turns_ratio=10.0),
        Amplifier(input_impedance_ohm=1500.0),
    )
    assert line.peak_dbu(1) == pytest.approx(-20.0 - 20.0 * math.log10(2.0))


def test_a_primary_inductance_takes_the_bass_of_a_high_source() -> None:
    resistance, inductance, hz = 10_000.0, 20.0, 40.0
    line = reading_of(
        LineSource(peak_dbu=0.0, output_impedance_ohm=resistance),
        Transformer(turns_ratio=1.0, primary_inductance_h=inductance),
        hz=hz,
    )
    ratio = 2.0 * math.pi * hz * inductance / resistance
    expected = 20.0 * math.log10(ratio / math.hypot(1.0, ratio))
    assert line.peak_dbu(1) == pytest.approx(expected, abs=1e-6)


def test_a_pickup_resonates_where_its_coil_and_the_cable_say() -> None:
    inductance, capacitance = 3.0, 500e-12
    resonance_hz = 1.0 / (2.0 * math.pi * math.sqrt(inductance * capacitance))

    def level(hz: float) -> float:
        line = reading_of(
            Pickup(peak_emf_v=0.1, dc_resistance_ohm=7000.0, inductance_h=inductance),
            Cable(length_m=5.0, capacitance_f_per_m=100e-12),
            Amplifier(input_impedance_ohm=1e6),
            hz=hz,
        )
        found = line.peak_dbu(1)
        assert found is not None
        return found

    assert level(resonance_hz) > level(resonance_hz * 0.8)
    assert level(resonance_hz) > level(resonance_hz * 1.25)


def test_a_volume_pot_at_half_is_half_and_at_zero_is_silence() -> None:
    def level(position: float) -> float | None:
        return reading_of(
            Pickup(
                peak_emf_v=1.0,
                dc_resistance_ohm=0.0,
                inductance_h=0.0,
                volume_pot_ohm=250_000.0,
                volume_position=position,
            )
        ).peak_dbu(0)

    full, half = level(1.0), level(0.5)
    assert full is not None
    assert half is not None
    assert full - half == pytest.approx(20.0 * math.log10(2.0))
    assert level(0.0) is None


def test_a_tone_pot_turned_down_takes_treble() -> None:
    def response(position: float) -> float:
        line = reading_of(
            Pickup(
                peak_emf_v=1.0,
                dc_resistance_ohm=7000.0,
                inductance_h=3.0,
                tone_pot_ohm=250_000.0,
                tone_capacitor_f=47e-9,
                tone_position=position,
            ),
            Amplifier(input_impedance_ohm=1e6),
            hz=3000.0,
            reference_hz=200.0,
        )
        points = len(line.band.hz)
        found = response_db(line.junction(0), points, points + 1)
        assert found is not None
        return found

    assert response(0.0) < response(1.0) - 12.0


@pytest.mark.parametrize("order", [1, 2, 3, 4])
def test_a_butterworth_high_pass_is_three_db_down_at_its_corner(order: int) -> None:
    line = reading_of(
        LineSource(peak_dbu=0.0, output_impedance_ohm=1.0),
        Amplifier(input_impedance_ohm=1e9, high_pass_hz=100.0, high_pass_order=order),
        hz=100.0,
    )
    assert line.peak_dbu(1) == pytest.approx(-10.0 * math.log10(2.0), abs=1e-5)


@pytest.mark.parametrize(("order", "fall_db"), [(1, 6.0206), (2, 12.0412), (3, 18.0618)])
def test_far_below_its_corner_it_falls_by_six_db_an_octave_and_order(
    order: int, fall_db: float
) -> None:
    def level(hz: float) -> float:
        line = reading_of(
            LineSource(peak_dbu=0.0, output_impedance_ohm=1.0),
            Amplifier(input_impedance_ohm=1e9, high_pass_hz=5000.0, high_pass_order=order),
            hz=hz,
        )
        found = line.peak_dbu(1)
        assert found is not None
        return found

    assert level(80.0) - level(40.0) == pytest.approx(fall_db, abs=0.01)


def test_an_amplifier_with_its_test_source_has_its_data_sheet_noise() -> None:
    line = reading_of(
        LineSource(peak_dbu=0.0, output_impedance_ohm=150.0),
        Amplifier(input_impedance_ohm=1e12, gain_db=60.0, ein_dbu=-128.0),
    )
    assert line.noise_dbu(1) == pytest.approx(-128.0 + 60.0, abs=1e-4)


def test_an_ein_below_the_thermal_noise_of_its_source_leaves_only_that() -> None:
    line = reading_of(
        LineSource(peak_dbu=0.0, output_impedance_ohm=150.0),
        Amplifier(input_impedance_ohm=1e12, gain_db=40.0, ein_dbu=-140.0),
    )
    assert line.noise_dbu(1) == pytest.approx(noise_dbu_of(150.0) + 40.0, abs=1e-4)


def test_current_noise_matters_through_a_high_source() -> None:
    line = reading_of(
        LineSource(peak_dbu=0.0, output_impedance_ohm=100_000.0),
        Amplifier(input_impedance_ohm=1e12, current_noise_a_per_rthz=1e-12),
    )
    thermal = 4.0 * K_T * 100_000.0
    current = (1e-12 * 100_000.0) ** 2
    expected = 10.0 * math.log10((thermal + current) * BAND_HZ / 0.6)
    assert line.noise_dbu(1) == pytest.approx(expected, abs=1e-4)


@pytest.mark.parametrize(("bits", "floor_dbfs"), [(16, -98.0905), (24, -146.2553)])
def test_an_ideal_converter_has_only_its_steps(bits: int, floor_dbfs: float) -> None:
    line = reading_of(
        LineSource(peak_dbu=0.0, output_impedance_ohm=0.0),
        Converter(full_scale_dbu=18.0, bit_depth=bits),
    )
    assert line.noise_dbfs() == pytest.approx(floor_dbfs, abs=1e-3)


def test_a_dynamic_range_is_weighted_and_the_unweighted_noise_is_two_db_higher() -> None:
    line = reading_of(
        LineSource(peak_dbu=0.0, output_impedance_ohm=0.0),
        Converter(full_scale_dbu=18.0, dynamic_range_dba=100.0, bit_depth=40),
    )
    weighted, flat = line.noise_dbfs_a(), line.noise_dbfs()
    assert weighted == pytest.approx(-100.0, abs=1e-4)
    assert flat is not None
    assert weighted is not None
    assert flat - weighted == pytest.approx(2.05, abs=0.01)


def test_self_noise_is_the_sound_level_that_would_give_it() -> None:
    line = reading_of(
        Sound(peak_spl_db=94.0),
        Microphone(sensitivity_mv_per_pa=20.0, output_impedance_ohm=100.0, self_noise_dba=14.0),
    )
    at_sound_dbu = dbu(0.02 * 20e-6 * 10 ** (14.0 / 20.0))
    assert line.noise_dba(1) == pytest.approx(at_sound_dbu, abs=1e-6)
    assert line.snr_db(1) == pytest.approx(80.0, abs=1e-3)


def test_a_pad_in_the_microphone_leaves_its_own_noise_and_raises_its_ceiling() -> None:
    def line(pad_db: float) -> Reading:
        return reading_of(
            Sound(peak_spl_db=120.0),
            Microphone(
                sensitivity_mv_per_pa=20.0,
                output_impedance_ohm=100.0,
                self_noise_dba=14.0,
                max_spl_db=130.0,
                pad_db=pad_db,
            ),
        )

    assert line(0.0).noise_dba(1) == pytest.approx(line(10.0).noise_dba(1))
    assert line(0.0).headroom_db(1) == pytest.approx(10.0)
    assert line(10.0).headroom_db(1) == pytest.approx(20.0)


def test_room_noise_and_self_noise_add_as_powers() -> None:
    line = reading_of(
        Sound(peak_spl_db=94.0, room_noise_dba=20.0),
        Microphone(sensitivity_mv_per_pa=20.0, output_impedance_ohm=100.0, self_noise_dba=20.0),
    )
    assert line.snr_db(1) == pytest.approx(94.0 - 20.0 - 10.0 * math.log10(2.0), abs=1e-3)
    shares = line.noise_shares()
    assert shares is not None
    assert shares[0] == pytest.approx(0.5)
    assert shares[1] == pytest.approx(0.5)


def test_the_first_to_clip_is_the_earliest_of_equals() -> None:
    line = reading_of(
        LineSource(peak_dbu=10.0, output_impedance_ohm=0.0),
        Amplifier(input_impedance_ohm=1e6, max_input_dbu=20.0, max_output_dbu=20.0),
        Converter(full_scale_dbu=20.0),
    )
    assert line.first_to_clip() == 1
    assert line.headroom_db(1) == pytest.approx(10.0)


def test_a_line_without_limits_has_no_first_to_clip() -> None:
    line = reading_of(LineSource(peak_dbu=10.0, output_impedance_ohm=100.0))
    assert line.first_to_clip() is None
    assert line.headroom_db(0) is None
