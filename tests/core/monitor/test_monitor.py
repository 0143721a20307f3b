"""Delays, headphones, exposure, two paths, phantom: against hand-made figures."""

from __future__ import annotations

import math

import pytest

from verve.core.acoustics import (
    delay_ms,
    first_null_hz,
    ripple_db,
    spacing_level_difference_db,
)
from verve.core.monitor import (
    RoundTrip,
    allowed_hours,
    fitted_round_trip_ms,
    headphone_spl_db,
    monitoring_ms,
    round_trip_ms,
)
from verve.core.power import is_within_budget, total_current_ma, voltage_at_microphone_v
from verve.core.session import Audio


@pytest.mark.parametrize(
    ("trip", "expected_ms"),
    [
        ({"sample_rate_hz": 48000.0, "buffer_frames": 128}, 256 / 48.0),
        ({"sample_rate_hz": 48000.0, "buffer_frames": 0}, 0.0),
        ({"sample_rate_hz": 44100.0, "buffer_frames": 64, "fixed_ms": 1.5}, 1.5 + 128 / 44.1),
        (
            {"sample_rate_hz": 96000.0, "buffer_frames": 32, "converter_in_frames": 40.0},
            104 / 96.0,
        ),
        ({"sample_rate_hz": 48000.0, "buffer_frames": 0, "air_m": 3.43}, 10.0),
        (
            {
                "sample_rate_hz": 48000.0,
                "buffer_frames": 64,
                "input_buffers": 2,
                "output_buffers": 3,
            },
            320 / 48.0,
        ),
        ({"sample_rate_hz": 48000.0, "buffer_frames": 0, "plugin_frames": 480.0}, 10.0),
    ],
)
def test_a_round_trip_is_the_sum_of_its_delays(trip: dict[str, float], expected_ms: float) -> None:
    made = RoundTrip(**trip)  # type: ignore[arg-type]
    assert round_trip_ms(made) == pytest.approx(expected_ms)


def test_monitoring_counts_the_buffers_there_and_back() -> None:
    assert monitoring_ms(Audio(buffer_frames=64)) == pytest.approx(128 / 48.0)


def test_a_fit_through_exact_points_predicts_the_next() -> None:
    measured = [(n, 2.25 + 2000.0 * n / 48000.0) for n in (32, 64, 256)]
    assert fitted_round_trip_ms(48000.0, measured, 1024) == pytest.approx(2.25 + 2048 / 48.0)


def test_a_fit_takes_the_mean_of_what_differs() -> None:
    measured = [(64, 2.0 + 128 / 48.0), (64, 3.0 + 128 / 48.0)]
    assert fitted_round_trip_ms(48000.0, measured, 64) == pytest.approx(2.5 + 128 / 48.0)


def test_a_milliwatt_gives_the_data_sheet_level() -> None:
    # 1 mW in 32 Ω is 178.9 mV.
    drive_dbu = 20.0 * math.log10(math.sqrt(0.032) / math.sqrt(0.6))
    found = headphone_spl_db(
        sensitivity_db_per_mw=98.0,
        impedance_ohm=32.0,
        output_impedance_ohm=0.0,
        drive_dbu=drive_dbu,
    )
    assert found == pytest.approx(98.0)


def test_an_output_as_high_as_the_headphone_costs_six_decibels() -> None:
    common = {"sensitivity_db_per_mw": 98.0, "impedance_ohm": 64.0, "drive_dbu": 0.0}
    low = headphone_spl_db(output_impedance_ohm=0.0, **common)
    equal = headphone_spl_db(output_impedance_ohm=64.0, **common)
    assert low - equal == pytest.approx(20.0 * math.log10(2.0))


@pytest.mark.parametrize(
    ("level_dba", "hours"), [(85.0, 8.0), (88.0, 4.0), (94.0, 1.0), (82.0, 16.0), (100.0, 0.25)]
)
def test_three_decibels_halve_the_time(level_dba: float, hours: float) -> None:
    found = allowed_hours(
        level_dba=level_dba, criterion_dba=85.0, criterion_hours=8.0, exchange_db=3.0
    )
    assert found == pytest.approx(hours)


def test_sound_takes_three_milliseconds_a_metre() -> None:
    assert delay_ms(1.0) == pytest.approx(1000.0 / 343.0)
    assert delay_ms(0.0) == 0.0


def test_the_first_null_is_where_the_delay_is_half_a_period() -> None:
    assert first_null_hz(1.0) == pytest.approx(500.0)
    assert first_null_hz(0.0) is None


@pytest.mark.parametrize(
    ("difference_db", "ripple"), [(20.0, 1.743), (9.54, 6.02), (6.0206, 9.542)]
)
def test_the_comb_is_as_deep_as_the_levels_are_close(difference_db: float, ripple: float) -> None:
    assert ripple_db(difference_db) == pytest.approx(ripple, abs=0.01)
    assert ripple_db(-difference_db) == pytest.approx(ripple, abs=0.01)


def test_two_equal_paths_cancel_without_limit() -> None:
    assert ripple_db(0.0) is None


def test_three_times_as_far_is_nine_and_a_half_decibels() -> None:
    assert spacing_level_difference_db(0.3, 0.9) == pytest.approx(9.542, abs=1e-3)


@pytest.mark.parametrize(
    ("current_ma", "volts"), [(0.0, 48.0), (2.0, 48.0 - 6.81), (10.0, 48.0 - 34.05)]
)
def test_phantom_voltage_falls_over_the_feed_resistors(current_ma: float, volts: float) -> None:
    found = voltage_at_microphone_v(
        supply_v=48.0, feed_resistance_ohm=6810.0, current_ma=current_ma
    )
    assert found == pytest.approx(volts)


def test_a_budget_holds_up_to_itself() -> None:
    assert total_current_ma(current_ma=2.5, microphones=4) == 10.0
    assert is_within_budget(10.0, 10.0)
    assert not is_within_budget(10.1, 10.0)
    assert is_within_budget(1e6, None)
