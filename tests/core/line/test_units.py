"""Decibels and their references, against figures from standards and textbooks."""

from __future__ import annotations

import math
import re
from pathlib import Path

import numpy as np
import pytest
import scipy.constants
from hypothesis import given
from hypothesis import strategies as st

import verve.core.line as line
from verve.core import units


def test_constants_are_those_of_the_library_that_knows_them() -> None:
    assert scipy.constants.k == units.BOLTZMANN_J_PER_K
    assert scipy.constants.convert_temperature(20.0, "C", "K") == pytest.approx(units.TEMPERATURE_K)
    assert scipy.constants.foot == pytest.approx(units.METRES_PER_FOOT)


@pytest.mark.parametrize(
    ("ratio", "level_db"), [(10.0, 20.0), (2.0, 6.0206), (1.0, 0.0), (0.1, -20.0), (0.001, -60.0)]
)
def test_a_ratio_of_ten_to_one_is_twenty_decibels(ratio: float, level_db: float) -> None:
    assert units.ratio_to_db(ratio) == pytest.approx(level_db, abs=1e-4)
    assert units.db_to_ratio(level_db) == pytest.approx(ratio, rel=1e-4)


def test_nothing_has_no_level() -> None:
    assert units.ratio_to_db(0.0) is None
    assert units.power_to_db(0.0) is None
    assert units.v_rms_to_dbu(0.0) is None


@pytest.mark.parametrize(
    ("level_dbu", "volts"), [(0.0, 0.774597), (4.0, 1.227653), (-20.0, 0.0774597), (18.0, 6.152796)]
)
def test_zero_dbu_is_three_quarters_of_a_volt(level_dbu: float, volts: float) -> None:
    assert units.dbu_to_v_rms(level_dbu) == pytest.approx(volts, rel=1e-5)
    assert units.v_rms_to_dbu(volts) == pytest.approx(level_dbu, abs=1e-4)


def test_dbv_is_two_decibels_below_dbu() -> None:
    assert units.dbu_to_dbv(0.0) == pytest.approx(-2.2185, abs=1e-4)
    assert units.dbu_to_dbv(2.2185) == pytest.approx(0.0, abs=1e-4)


def test_ninety_four_decibels_are_one_pascal() -> None:
    assert units.spl_to_pa_rms(93.9794) == pytest.approx(1.0, rel=1e-5)


def test_a_kilohm_makes_four_nanovolts_per_root_hertz() -> None:
    density = math.sqrt(float(units.thermal_noise_v2_per_hz(1000.0)))
    assert density == pytest.approx(4.02e-9, rel=5e-3)
    current = math.sqrt(float(units.thermal_noise_a2_per_hz(1e-3)))
    assert current == pytest.approx(density / 1000.0)


@pytest.mark.parametrize(
    ("hz", "weight_db"),
    [
        # IEC 61672-1, table 3.
        (31.5, -39.4),
        (63.0, -26.2),
        (125.0, -16.1),
        (250.0, -8.6),
        (500.0, -3.2),
        (1000.0, 0.0),
        (2000.0, 1.2),
        (4000.0, 1.0),
        (8000.0, -1.1),
        (16000.0, -6.6),
    ],
)
def test_a_weighting_is_that_of_the_standard(hz: float, weight_db: float) -> None:
    exact = 1000.0 * 10.0 ** (round(10.0 * math.log10(hz / 1000.0)) / 10.0)
    power = units.a_weighting_power(np.array([exact]))[0]
    assert 10.0 * math.log10(power) == pytest.approx(weight_db, abs=0.06)


@given(level=st.floats(-150.0, 60.0))
def test_levels_survive_the_way_through_volts(level: float) -> None:
    assert units.v_rms_to_dbu(units.dbu_to_v_rms(level)) == pytest.approx(level, abs=1e-9)


def test_the_grid_integrates_flat_noise_exactly_and_a_slope_closely() -> None:
    band = line.grid()
    assert band.weights_hz.sum() == pytest.approx(units.BAND_HZ)
    # The integral of f over the band is (f2² − f1²)/2.
    assert float(band.hz @ band.weights_hz) == pytest.approx((20_000.0**2 - 20.0**2) / 2, rel=1e-5)


@pytest.mark.parametrize("halvings", [-1, 8])
def test_a_grid_too_coarse_or_too_fine_is_refused(halvings: int) -> None:
    with pytest.raises(ValueError, match="halvings: must be 0 to 7"):
        line.grid(halvings)


@pytest.mark.parametrize("power", range(12))
def test_the_rule_of_seven_points_is_exact_for_powers_up_to_eleven(power: int) -> None:
    # Over one panel, in x = ln f: the integral of x^p is known.
    band = line.grid(0)
    x = np.log(band.hz[7:14])
    low, high = math.log(1000.0 * 2.0**-4.5), math.log(1000.0 * 2.0**-3.5)
    middle, radius = (low + high) / 2.0, (high - low) / 2.0
    share = band.octave_shares[7:14, 0]
    mean = float((((x - middle) / radius) ** power) @ share)
    assert mean == pytest.approx(0.0 if power % 2 else 1.0 / (power + 1), abs=1e-12)


def test_no_constant_is_typed_again_elsewhere() -> None:
    core = Path(units.__file__).parent
    retyped = re.compile(r"0\.7746|0\.77459|20e-6|2e-5|1\.38\d*e-23|293\.15|343\.0")
    for path in core.rglob("*.py"):
        if path.name == "units.py":
            continue
        assert not retyped.search(path.read_text()), path


def test_nothing_is_faked_by_a_tiny_or_huge_number() -> None:
    core = Path(units.__file__).parent / "line"
    for path in core.rglob("*.py"):
        assert not re.search(r"\beps\b|1e-12|1e99", path.read_text()), path
