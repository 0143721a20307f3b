"""A room's noise as rooms have it: what falls by 5 dB per octave, and what a microphone makes of it."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import follow
from verve.core.assess import assess
from verve.core.demo import demo_session
from verve.core.line import read_at
from verve.core.network import microphone_response_db
from verve.core.session import Change, Session, apply_changes
from verve.core.stages import Amplifier, HeardSound, Microphone, Sound, Stage

OCTAVES = np.arange(10)


def a_weighting_db(hz: np.ndarray) -> np.ndarray:
    """IEC 61672-1 by its poles, written anew here."""
    f2 = hz**2
    over = f2**2 * 12194.217**2
    under = (f2 + 20.598997**2) * (f2 + 12194.217**2)
    under = under * np.sqrt((f2 + 107.65265**2) * (f2 + 737.86223**2))
    return 20.0 * np.log10(over / under) + 2.0


def heard(sound: Sound, *, high_pass_hz: float | None = None) -> list[Stage]:
    """A noiseless microphone of 0 Ω into an input that loads nothing."""
    return [
        sound,
        Microphone(
            sensitivity_mv_per_pa=10.0,
            output_impedance_ohm=0.0,
            self_noise_dba=-100.0,
            high_pass_hz=high_pass_hz,
        ),
        Amplifier(input_impedance_ohm=1e9),
    ]


def noise_db(stages: list[Stage]) -> tuple[float, float]:
    """Noise at its microphone, unweighted and A-weighted, dBu."""
    reading = read_at(stages, [1000.0])
    flat, weighted = reading.noise_dbu(1), reading.noise_dba(1)
    assert flat is not None
    assert weighted is not None
    return flat, weighted


def room(curve: str = "room", dba: float = 40.0) -> Sound:
    return Sound(peak_spl_db=100.0, room_noise_dba=dba, room_noise_curve=curve)  # type: ignore[arg-type]


def test_its_a_weighted_level_is_the_one_stated_and_its_bass_is_above_that() -> None:
    flat_dbu, weighted_dbu = noise_db(heard(room()))
    # 40 dB SPL on 10 mV/Pa.
    expected = 20.0 * math.log10(0.01 * 20e-6 * 10 ** (40.0 / 20.0) / 0.7745967)
    assert weighted_dbu == pytest.approx(expected, abs=0.02)
    hz = np.geomspace(20.0, 20_000.0, 40_001)
    density = np.where(hz < 31.5, 1.0, 10.0 ** (-0.801 * np.log2(np.maximum(hz, 31.5) / 31.5)))
    whole = np.trapezoid(density, hz)
    a_part = np.trapezoid(density * 10.0 ** (a_weighting_db(hz) / 10.0), hz)
    assert flat_dbu - weighted_dbu == pytest.approx(10.0 * math.log10(whole / a_part), abs=0.05)


def test_a_low_cut_helps_against_a_room_and_hardly_against_flat_noise() -> None:
    for curve, least_db, most_db in (("room", 8.0, 20.0), ("flat", 0.0, 0.1)):
        without, _ = noise_db(heard(room(curve)))
        cut, _ = noise_db(heard(room(curve), high_pass_hz=100.0))
        assert least_db <= without - cut <= most_db


@given(by_db=st.floats(-30.0, 10.0))
def test_a_response_that_is_even_moves_the_room_by_as_much(by_db: float) -> None:
    shaped = HeardSound(
        peak_spl_db=100.0,
        room_noise_dba=40.0,
        room_noise_curve="room",
        room_response_db=(by_db,) * len(OCTAVES),
    )
    for one, other in zip(noise_db(heard(shaped)), noise_db(heard(room())), strict=True):
        assert one - other == pytest.approx(by_db, abs=0.01)


def test_a_microphone_without_bass_hears_less_of_a_rooms_rumble() -> None:
    no_bass = HeardSound(
        peak_spl_db=100.0,
        room_noise_dba=40.0,
        room_noise_curve="room",
        room_response_db=(-20.0, -12.0, -6.0) + (0.0,) * 7,
    )
    flat_dbu, weighted_dbu = noise_db(heard(no_bass))
    even_flat_dbu, even_weighted_dbu = noise_db(heard(room()))
    assert even_flat_dbu - flat_dbu > 6.0
    assert even_weighted_dbu - weighted_dbu < 2.0


def _moved(session: Session, line_id: str, distance_m: float) -> tuple[float, ...]:
    line = assess(session).line(line_id)
    assert line is not None
    step = line.route.steps[0]
    change = Change(owner=step.owner, channel=step.in_port, name="distance_m", value=distance_m)
    moved = assess(apply_changes(session, (change,))).line(line_id)
    assert moved is not None
    return microphone_response_db(moved.route.source, moved.route.steps[0])


def test_what_is_large_is_never_very_near() -> None:
    session = follow(demo_session())
    line = assess(session).line("voice")
    assert line is not None
    figures = line.route.source.figures
    large = figures.model_copy(update={"extent_m": 0.3})
    setup = session.setup
    sources = tuple(
        s.model_copy(update={"figures": large}) if s.id == line.route.source.id else s
        for s in setup.sources
    )
    wide = session.model_copy(update={"setup": setup.model_copy(update={"sources": sources})})
    # At 3 cm of something 30 cm to its edge, the bass is that of a point at 30 cm.
    near, at_extent = _moved(wide, "voice", 0.03), _moved(session, "voice", math.hypot(0.03, 0.3))
    assert near == pytest.approx(at_extent, abs=0.2)
    assert _moved(session, "voice", 0.03)[1] > near[1] + 8.0
