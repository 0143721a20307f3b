"""Sound in a room against independent methods: a sphere summed up, complex pressures, energy and power."""

from __future__ import annotations

import cmath
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from verve.core.acoustics import (
    Point,
    StereoPair,
    SumOfPaths,
    Surface,
    absorption_m2,
    absorption_of_m2,
    angle_between_deg,
    bearing_deg,
    critical_distance_m,
    diffuse_power,
    direction,
    distance_factor,
    distance_m,
    null_angle_deg,
    response,
    room_constant_m2,
    room_level,
    rt60_eyring_s,
    rt60_sabine_s,
    sum_of_powers_db,
)
from verve.core.errors import InputError
from verve.core.units import SPEED_OF_SOUND_M_PER_S

SHARES = st.floats(0.0, 1.0)
ANGLES = st.floats(-720.0, 720.0)


@given(SHARES)
def test_what_comes_from_all_around_is_the_mean_over_a_sphere(share: float) -> None:
    cosines = (np.arange(4000) + 0.5) / 2000.0 - 1.0
    mean = float(np.mean((share + (1.0 - share) * cosines) ** 2))
    assert diffuse_power(share) == pytest.approx(mean, rel=1e-5, abs=1e-6)
    assert distance_factor(share) == pytest.approx(1.0 / math.sqrt(mean), rel=1e-4)


@given(st.floats(0.0, 0.5))
def test_nothing_is_heard_at_the_null(share: float) -> None:
    angle = null_angle_deg(share)
    assert angle is not None
    assert abs(response(share, angle)) < 1e-7


@given(st.floats(0.01, 1.0), st.floats(10.0, 5000.0), st.floats(1.0, 20.0))
def test_where_the_room_is_as_loud_as_the_sound(share: float, volume: float, q: float) -> None:
    absorbing = absorption_of_m2(volume, 0.7)
    here = critical_distance_m(absorbing, q) * distance_factor(share)
    found = room_level(
        level_at_1m_db=90.0, distance_m=here, absorbing_m2=absorbing, directivity_q=q,
        pressure_share=share,
    )  # fmt: skip
    assert found.direct_to_reverberant_db == pytest.approx(0.0, abs=1e-9)
    assert found.total_db == pytest.approx((found.direct_db or 0.0) + 10.0 * math.log10(2.0))


def test_the_room_of_a_source_is_its_power_over_what_is_swallowed() -> None:
    """Power from the level on the axis, then energy density 4P/(cA): independent of the closed form's 16π."""
    q, absorbing, level = 2.5, 12.0, 85.0
    rho_c = 1.2 * SPEED_OF_SOUND_M_PER_S
    pressure2 = (20e-6) ** 2 * 10.0 ** (level / 10.0)
    power_w = pressure2 / rho_c * 4.0 * math.pi / q
    diffuse2 = 4.0 * power_w * rho_c / absorbing
    expected = 10.0 * math.log10(diffuse2 / (20e-6) ** 2)
    found = room_level(
        level_at_1m_db=level, distance_m=1.0, absorbing_m2=absorbing, directivity_q=q
    )
    assert found.reverberant_db == pytest.approx(expected, abs=1e-9)


@given(
    st.lists(st.tuples(st.floats(0.1, 100.0), st.floats(0.001, 0.999)), min_size=1, max_size=6),
    st.floats(1.0, 1e4),
)
def test_the_two_ways_to_ring_agree_in_hard_rooms(
    given_surfaces: list[tuple[float, float]], volume: float
) -> None:
    surfaces = [Surface(area_m2=area, absorption=alpha) for area, alpha in given_surfaces]
    sabine, eyring = rt60_sabine_s(volume, surfaces), rt60_eyring_s(volume, surfaces)
    assert sabine is not None
    assert eyring is not None
    assert eyring < sabine
    total = sum(area for area, _ in given_surfaces)
    mean = absorption_m2(surfaces) / total
    # ln(1 − x) lies between −x/(1 − x) and −x.
    assert eyring >= sabine * (1.0 - mean) * (1.0 - 1e-9)
    assert absorption_of_m2(volume, sabine) == pytest.approx(absorption_m2(surfaces))


def test_walls_cannot_swallow_more_than_meets_them() -> None:
    assert room_constant_m2(10.0, 100.0) == pytest.approx(100.0 / 9.0)
    with pytest.raises(InputError):
        room_constant_m2(100.0, 100.0)


@given(st.floats(0.01, 20.0), st.floats(-40.0, 40.0), st.booleans(), st.floats(20.0, 20_000.0))
def test_a_sum_lies_between_its_peak_and_its_dip(
    delay: float, difference: float, inverted: bool, hz: float
) -> None:
    found = SumOfPaths(delay_ms=delay, level_difference_db=difference, polarity_inverted=inverted)
    weaker = 10.0 ** (-abs(difference) / 20.0) * (-1.0 if inverted else 1.0)
    here = abs(1.0 + weaker * cmath.exp(-2j * math.pi * hz * delay / 1000.0))
    answer = found.response_db(hz)
    assert answer is None or answer == pytest.approx(20.0 * math.log10(here), abs=1e-6)
    assert found.peak_db is not None
    low = -math.inf if found.dip_db is None else found.dip_db
    assert answer is None or low - 1e-6 <= answer <= found.peak_db + 1e-6
    assert found.first_null_hz is not None
    assert found.first_peak_hz is not None
    null_db = found.response_db(found.first_null_hz)
    assert (
        (null_db is None or null_db < -120)
        if found.dip_db is None
        else null_db == pytest.approx(low)
    )
    assert found.response_db(found.first_peak_hz) == pytest.approx(found.peak_db)


@given(SHARES, st.floats(0.0, 180.0), st.floats(0.0, 1.0), ANGLES, st.floats(0.6, 30.0))
def test_a_pair_is_the_same_in_a_mirror(
    share: float, opening: float, spacing: float, angle: float, far_m: float
) -> None:
    pair = StereoPair(
        technique="spaced", pressure_share=share, opening_deg=opening, spacing_m=spacing
    )
    here, there = pair.hears(angle, far_m), pair.hears(-angle, far_m)
    assert here.left == pytest.approx(there.right, abs=1e-9)
    assert here.time_difference_ms == pytest.approx(-there.time_difference_ms, abs=1e-9)


@given(SHARES, st.floats(0.0, 180.0), st.floats(0.0, 1.0), ANGLES)
def test_what_is_far_is_what_comes_nearer_from_far_away(
    share: float, opening: float, spacing: float, angle: float
) -> None:
    pair = StereoPair(
        technique="near_coincident", pressure_share=share, opening_deg=opening, spacing_m=spacing
    )
    far, near = pair.hears(angle), pair.hears(angle, 1e6)
    assert near.left == pytest.approx(far.left, abs=1e-5)
    assert near.time_difference_ms == pytest.approx(far.time_difference_ms, abs=1e-5)


def test_middle_and_side_is_a_crossed_pair() -> None:
    """M of A + B·cos and S of sin, added: two first-order microphones turned to both sides."""
    pair = StereoPair(technique="middle_side", pressure_share=0.5)
    for angle in range(-180, 181, 15):
        heard = pair.hears(angle)
        turned = math.degrees(math.atan2(1.0, 0.5))
        scale = 0.5 + math.hypot(0.5, 1.0)
        virtual = response(0.5 / scale, angle - turned) * scale
        assert heard.right == pytest.approx(virtual, abs=1e-9)
        assert heard.left + heard.right == pytest.approx(2.0 * response(0.5, angle), abs=1e-9)


COORDINATES = st.floats(-20.0, 20.0)


@given(COORDINATES, COORDINATES, COORDINATES, ANGLES)
def test_turning_the_microphone_to_a_source_brings_it_to_the_front(
    x: float, y: float, z: float, aim: float
) -> None:
    here, there = Point(0.3, -0.4, 1.2), Point(x, y, z)
    if distance_m(here, there) < 1e-3 or math.hypot(x - 0.3, y + 0.4) < 1e-3:
        return
    tilt = math.degrees(math.asin((z - 1.2) / distance_m(here, there)))
    found = angle_between_deg(direction(bearing_deg(here, there), tilt), here.to(there))
    assert found == pytest.approx(0.0, abs=1e-5)
    one = angle_between_deg(direction(aim), here.to(there))
    assert one == pytest.approx(angle_between_deg(direction(aim + 360.0), here.to(there)), abs=1e-6)
    assert one + angle_between_deg(direction(aim + 180.0), here.to(there)) == pytest.approx(180.0)


def test_a_source_in_the_microphone_has_no_direction() -> None:
    with pytest.raises(InputError, match="must not be in the microphone"):
        angle_between_deg(direction(0.0), (0.0, 0.0, 0.0))


@given(st.lists(st.floats(-100.0, 200.0), min_size=1, max_size=9))
def test_levels_add_as_powers(levels: list[float]) -> None:
    expected = 10.0 * math.log10(sum(10.0 ** (level / 10.0) for level in levels))
    assert sum_of_powers_db([*levels, None]) == pytest.approx(expected, abs=1e-9)
    assert sum_of_powers_db([None]) is None
