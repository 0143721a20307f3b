"""Sound through the air against the bleed table: levels within a decibel, arrivals within a tenth of a frame."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from verve.core.air import Hearing, hearing_of, positions_of, source_powers
from verve.core.demo import demo_session
from verve.core.line import OCTAVE_CENTRES_HZ
from verve.core.measure import alignment_of
from verve.core.session import Aim, Stand, place_microphone, place_source, set_room
from verve.core.sound import as_played, heard_through, levelled
from verve.core.units import FloatArray

RATE_HZ = 48_000


def placed(apart_m: float = 2.5, right_m: float = 0.9, rt60_s: float = 1.4) -> Hearing:
    session = demo_session()
    session = set_room(session, session.setup.room.model_copy(update={"reverberation_s": rt60_s}))
    session = place_source(
        session, "singer_voice", Stand(x_m=4.0, y_m=4.6, height_m=1.5, facing_deg=165.0)
    )
    session = place_source(
        session, "harp", Stand(x_m=4.0 + apart_m, y_m=4.7, height_m=0.9, facing_deg=195.0)
    )
    session = place_microphone(
        session, "harp_mic_right:capsule", Aim(bearing_deg=-20.0), distance_m=right_m
    )
    return hearing_of(positions_of(session.setup))


def noise_of(hearing: Hearing, source: int, seconds: float = 12.0, seed: int = 1) -> FloatArray:
    """Noise with the octaves of a source, of its power at a metre."""
    rng = np.random.default_rng(seed)
    count = round(seconds * RATE_HZ)
    spectrum = np.fft.rfft(rng.standard_normal(count))
    hz = np.fft.rfftfreq(count, 1.0 / RATE_HZ)
    found = np.zeros(len(hz))
    for middle, power in zip(
        OCTAVE_CENTRES_HZ, source_powers(hearing.positions.sources[source]), strict=True
    ):
        band = (hz >= middle / np.sqrt(2.0)) & (hz < middle * np.sqrt(2.0))
        found[band] = np.sqrt(power / max(1, band.sum()) * len(hz))
    return np.asarray(np.fft.irfft(spectrum * found, count))


def level_db(sound: FloatArray) -> float:
    inside = sound[4 * RATE_HZ :]
    return 10.0 * float(np.log10(np.mean(inside**2)))


def test_what_is_rendered_has_the_levels_of_the_table() -> None:
    hearing = placed()
    for microphone in range(3):
        levels = []
        for source in range(2):
            sound = noise_of(hearing, source, seed=source)
            found = level_db(heard_through(hearing, microphone, {source: sound}, RATE_HZ, seed=7))
            expected = 10.0 * np.log10(hearing.total_power[microphone, source])
            assert found == pytest.approx(expected, abs=1.0)
            levels.append(found)
        own = hearing.wanted[microphone][0]
        other = 1 - own
        assert levels[own] - levels[other] == pytest.approx(
            hearing.bleed_db[microphone, other], abs=1.0
        )


@settings(max_examples=8, deadline=None)
@given(st.floats(1.0, 5.0), st.floats(0.35, 2.0))
def test_arrivals_in_free_field_are_those_of_the_geometry(apart: float, right: float) -> None:
    hearing = placed(apart, right)
    rng = np.random.default_rng(5)
    sound = rng.standard_normal(2 * RATE_HZ) * 0.1
    left, other = (
        heard_through(hearing, microphone, {1: sound}, RATE_HZ, has_room=False)
        for microphone in (1, 2)
    )
    expected = (hearing.distance_m[2, 1] - hearing.distance_m[1, 1]) / 343.0 * RATE_HZ
    found = alignment_of(left, other, RATE_HZ)
    assert found.delay_frames == pytest.approx(float(expected), abs=0.1)


def test_arrivals_in_a_room_are_within_a_frame() -> None:
    hearing = placed(right_m=1.0, rt60_s=0.6)
    sound = np.random.default_rng(6).standard_normal(4 * RATE_HZ) * 0.1
    left, right = (heard_through(hearing, m, {1: sound}, RATE_HZ, seed=3) for m in (1, 2))
    expected = (hearing.distance_m[2, 1] - hearing.distance_m[1, 1]) / 343.0 * RATE_HZ
    assert alignment_of(left, right, RATE_HZ).delay_frames == pytest.approx(
        float(expected), abs=1.0
    )


def test_together_is_the_sum_of_each_alone_and_the_same_each_time() -> None:
    hearing = placed()
    sounds = {0: noise_of(hearing, 0, 1.0), 1: noise_of(hearing, 1, 1.0)}
    both = heard_through(hearing, 1, sounds, RATE_HZ, seed=2)
    alone = [heard_through(hearing, 1, {s: sounds[s]}, RATE_HZ, seed=2) for s in (0, 1)]
    assert both == pytest.approx(alone[0] + alone[1])
    assert np.array_equal(both, heard_through(hearing, 1, sounds, RATE_HZ, seed=2))


def test_what_is_played_has_the_level_of_its_source_and_can_be_listened_to() -> None:
    hearing = placed()
    made = as_played(np.sin(np.arange(RATE_HZ) * 0.05), hearing, 1)
    power = float(source_powers(hearing.positions.sources[1]).sum())
    assert float(np.mean(made**2)) == pytest.approx(power, rel=0.05)
    quiet = levelled(made * 1e-6)
    assert 20.0 * np.log10(np.sqrt(2.0 * np.mean(quiet**2))) == pytest.approx(-23.0, abs=0.1)
    spiky = np.zeros(RATE_HZ)
    spiky[0] = 1.0
    assert np.abs(levelled(spiky)).max() <= 0.9
    assert not levelled(np.zeros(8)).any()
