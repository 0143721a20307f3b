"""What a microphone hears while all play: levels of the bleed table, arrivals of the geometry, rooms that differ."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from verve.core.line import OCTAVE_CENTRES_HZ
from verve.core.measure import alignment_of
from verve.core.network import Column
from verve.core.sound import Played, Room
from verve.core.units import FloatArray

RATE_HZ = 48_000
FLAT = np.ones(10)


def noise(seed: int, seconds: float = 6.0) -> FloatArray:
    """Noise of equal power in every octave, of variance 1."""
    rng = np.random.default_rng(seed)
    count = round(seconds * RATE_HZ)
    spectrum = np.fft.rfft(rng.standard_normal(count))
    hz = np.fft.rfftfreq(count, 1.0 / RATE_HZ)
    shape = np.zeros(len(hz))
    for middle in OCTAVE_CENTRES_HZ:
        band = (hz >= middle / math.sqrt(2.0)) & (hz < middle * math.sqrt(2.0))
        shape[band] = 1.0 / math.sqrt(band.sum())
    found = np.fft.irfft(spectrum * shape, count)
    return np.asarray(found / found.std())


def column(source: str, power: float, delay_s: float = 0.001, *, is_room: bool = False) -> Column:
    return Column(
        source=source,
        name=source,
        delay_s=delay_s,
        powers=tuple([power / 10.0] * 10),
        is_room=is_room,
    )


def room(rt60_s: float = 0.8, *, seconds: float = 6.0) -> Room:
    played = {
        name: Played(cycle=noise(number, seconds), octaves=FLAT)
        for number, name in enumerate(("harp", "singer"))
    }
    return Room(played, RATE_HZ, rt60_s)


def level_db(sound: FloatArray) -> float:
    return 10.0 * math.log10(float(np.mean(sound**2)))


@settings(max_examples=10, deadline=None)
@given(st.floats(-30.0, 6.0), st.booleans())
def test_levels_are_those_of_the_columns(below_db: float, is_room: bool) -> None:
    power = 10.0 ** (below_db / 10.0)
    made = room().at((column("harp", power, is_room=is_room),), seed=3)
    assert level_db(made.following) == pytest.approx(below_db, abs=1.0)


def test_columns_of_different_origin_add_as_powers() -> None:
    columns = (column("harp", 0.5), column("singer", 0.3), column("singer", 0.2, is_room=True))
    made = room().at(columns, seed=3)
    assert level_db(made.following) == pytest.approx(0.0, abs=0.7)


@settings(max_examples=8, deadline=None)
@given(st.floats(0.0005, 0.03), st.floats(0.0005, 0.03))
def test_two_microphones_are_as_late_as_the_way(first_s: float, second_s: float) -> None:
    there = room(seconds=2.0)
    sounds = [there.at((column("harp", 1.0, late),), seed=1).first for late in (first_s, second_s)]
    found = alignment_of(sounds[0], sounds[1], RATE_HZ)
    assert found.delay_frames == pytest.approx((second_s - first_s) * RATE_HZ, abs=0.1)


def test_the_room_is_another_one_in_every_microphone() -> None:
    there = room()
    sounds = [there.at((column("harp", 1.0, is_room=True),), seed=seed).first for seed in (1, 2, 1)]
    assert abs(np.corrcoef(sounds[0], sounds[1])[0, 1]) < 0.1
    assert np.array_equal(sounds[0], sounds[2])


def test_what_rings_on_is_heard_in_the_next_cycle_and_not_before_the_first() -> None:
    played = noise(4, 2.0)
    played[: RATE_HZ // 2] = 0.0
    there = Room({"harp": Played(cycle=played, octaves=FLAT)}, RATE_HZ, 1.0)
    made = there.at((column("harp", 1.0, is_room=True),), seed=2)
    quiet = slice(0, RATE_HZ // 10)
    assert level_db(made.first[quiet]) < -60.0
    assert level_db(made.following[quiet]) > -20.0
    frames = np.arange(3 * RATE_HZ)
    both = np.concatenate([made.first, made.following])[: 3 * RATE_HZ]
    assert np.array_equal(made.stretch(frames), both)
    assert np.array_equal(made.stretch(frames[2 * RATE_HZ :]), made.following[:RATE_HZ])


def test_what_nobody_plays_and_what_is_far_below_is_left_out() -> None:
    made = room(seconds=1.0).at((column("tuba", 1.0), column("harp", 1e-9)), seed=1)
    assert not made.first.any()
