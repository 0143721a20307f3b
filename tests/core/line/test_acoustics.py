"""Distance, direction and colour, against what the textbooks say."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verve.core.kind import Pattern
from verve.core.line import (
    PRESSURE_SHARE,
    broadband_change_db,
    diffuse_response_db,
    effective_distance_m,
    pattern_response_db,
    sum_bands_db,
)

PATTERNS = tuple(PRESSURE_SHARE)


@pytest.mark.parametrize("pattern", PATTERNS)
def test_far_away_and_in_front_every_pattern_hears_the_same(pattern: Pattern) -> None:
    found = pattern_response_db(pattern, hz=1000.0, distance_m=100.0)
    assert found == pytest.approx(0.0, abs=1e-3)


@pytest.mark.parametrize(
    ("pattern", "angle_deg", "expected_db"),
    [
        ("omni", 180.0, 0.0),
        ("cardioid", 90.0, -6.02),
        ("wide_cardioid", 180.0, -7.96),
        ("supercardioid", 180.0, -11.7),
        ("figure_eight", 180.0, 0.0),
        ("figure_eight", 60.0, -6.02),
    ],
)
def test_patterns_hear_around_themselves_as_the_textbooks_say(
    pattern: Pattern, angle_deg: float, expected_db: float
) -> None:
    found = pattern_response_db(pattern, hz=5000.0, distance_m=100.0, angle_deg=angle_deg)
    assert found == pytest.approx(expected_db, abs=0.03)


def test_a_cardioid_hears_nothing_behind_and_an_eight_nothing_beside_it() -> None:
    behind = pattern_response_db("cardioid", hz=5000.0, distance_m=1000.0, angle_deg=180.0)
    assert behind is not None
    assert behind < -90.0
    beside = pattern_response_db("figure_eight", hz=5000.0, distance_m=1000.0, angle_deg=90.0)
    assert beside is None or beside < -90.0


def test_an_omni_has_no_nearness() -> None:
    for hz in (31.25, 125.0, 1000.0):
        assert pattern_response_db("omni", hz=hz, distance_m=0.05) == pytest.approx(0.0, abs=1e-9)


def test_an_eight_gains_three_decibels_where_the_wave_is_as_curved_as_long() -> None:
    # k·r = 1: |1 + 1/j| = √2.
    hz = 343.0 / (2.0 * math.pi * 0.1)
    found = pattern_response_db("figure_eight", hz=hz, distance_m=0.1)
    assert found == pytest.approx(3.01, abs=0.01)


@given(hz=st.floats(30.0, 10_000.0), near=st.floats(0.02, 1.0), pattern=st.sampled_from(PATTERNS))
def test_nearer_is_never_less_bass(hz: float, near: float, pattern: Pattern) -> None:
    close = pattern_response_db(pattern, hz=hz, distance_m=near)
    far = pattern_response_db(pattern, hz=hz, distance_m=2.0 * near)
    assert close is not None
    assert far is not None
    assert close >= far - 1e-9


@pytest.mark.parametrize(
    ("pattern", "expected_db"),
    [
        ("omni", 0.0),
        ("cardioid", -4.77),
        ("figure_eight", -4.77),
        ("supercardioid", -5.70),
        ("wide_cardioid", -2.85),
    ],
)
def test_room_noise_from_all_around(pattern: Pattern, expected_db: float) -> None:
    assert diffuse_response_db(pattern) == pytest.approx(expected_db, abs=0.03)


@pytest.mark.parametrize("pattern", PATTERNS)
def test_room_noise_is_the_mean_over_all_directions(pattern: Pattern) -> None:
    steps = 2000
    total = 0.0
    for step in range(steps):
        # Even in cos θ is even over the sphere.
        cosine = (step + 0.5) / steps * 2.0 - 1.0
        total += (PRESSURE_SHARE[pattern] + (1.0 - PRESSURE_SHARE[pattern]) * cosine) ** 2
    assert diffuse_response_db(pattern) == pytest.approx(10.0 * math.log10(total / steps), abs=1e-3)


def test_a_point_falls_by_six_decibels_and_a_large_thing_by_less() -> None:
    assert effective_distance_m(0.5, 0.0) == 0.5
    near, far = effective_distance_m(0.1, 0.5), effective_distance_m(0.2, 0.5)
    assert 20.0 * math.log10(far / near) < 1.0
    assert effective_distance_m(20.0, 0.5) == pytest.approx(20.0, rel=1e-3)


def test_responses_add_by_octave() -> None:
    assert sum_bands_db((1.0,) * 10, (2.0,) * 10) == (3.0,) * 10
    with pytest.raises(ValueError, match="shorter"):
        sum_bands_db((1.0,) * 10, (2.0,) * 9)


def test_a_change_of_all_octaves_alike_is_that_change() -> None:
    assert broadband_change_db((0.0, -10.0), (3.0, 3.0)) == pytest.approx(3.0)
    assert broadband_change_db((0.0, -100.0), (0.0, 40.0)) == pytest.approx(0.0, abs=1e-4)
    assert broadband_change_db((0.0, 0.0), (0.0, -100.0)) == pytest.approx(-3.01, abs=0.01)
