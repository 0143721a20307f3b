"""Tuning live: how soon, how exact, and what is no note."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import butter, sosfilt

from verve.core.errors import InputError
from verve.core.measure import Heard, Reading, Tuner
from verve.core.units import FloatArray

RATE_HZ = 48_000
BLOCK = 480
"""10 ms: as a real interface gives it."""
QUIET_S = 0.37
"""No multiple of what the tuner looks at."""


def tone(hz: float, seconds: float, *, decay_per_s: float = 0.0, partials: int = 12) -> FloatArray:
    t = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    wave = np.zeros(len(t))
    for h in range(1, partials + 1):
        if h * hz < 9_000.0:
            wave += (
                np.sin(2.0 * np.pi * h * hz * t + h * h)
                * np.exp(-decay_per_s * (1 + h / 2) * t)
                / h
            )
    return np.asarray(0.2 * wave / np.abs(wave).max())


def after_quiet(sound: FloatArray, noise_db: float = -90.0) -> FloatArray:
    whole = np.concatenate([np.zeros(round(QUIET_S * RATE_HZ)), sound])
    return np.asarray(
        whole + 10.0 ** (noise_db / 20.0) * np.random.default_rng(1).standard_normal(len(whole))
    )


def readings(
    sound: FloatArray, block: int = BLOCK, a4_hz: float = 440.0
) -> list[tuple[float, Reading]]:
    """By the time at which the block ends that gave it."""
    tuner = Tuner(rate_hz=RATE_HZ, a4_hz=a4_hz)
    state = tuner.start()
    found = []
    for at in range(0, len(sound), block):
        state = tuner.fold(state, sound[at : at + block])
        if state.reading is not None:
            found.append(((at + block) / RATE_HZ, state.reading))
    return found


def cents(hz: float, true_hz: float) -> float:
    return 1200.0 * math.log2(hz / true_hz)


@pytest.mark.parametrize("hz", [27.5, 31.0, 41.2, 79.0, 82.4, 196.0, 440.0, 4186.0])
@pytest.mark.parametrize("decay_per_s", [0.0, 1.5])
def test_the_first_answer_comes_in_time_and_is_right(hz: float, decay_per_s: float) -> None:
    """Within 100 ms above 80 Hz, three periods and 60 ms below."""
    found = readings(after_quiet(tone(hz, 0.7, decay_per_s=decay_per_s)))
    first_s, first = found[0]
    limit_s = 0.1 if hz > 80.0 else 3.0 / hz + 0.06
    assert first_s - QUIET_S <= limit_s
    assert abs(cents(first.pitch_hz, hz)) < 10.0
    settled = [one for _, one in found if one.is_settled]
    assert len(settled) > 5
    assert max(abs(cents(one.pitch_hz, hz)) for one in settled) < 1.0
    assert all(abs(cents(one.pitch_hz, hz)) < 30.0 for _, one in found), "never an octave instead"


def test_a_note_in_noise_is_still_read_within_three_cents() -> None:
    found = readings(after_quiet(tone(146.83, 1.0), noise_db=-37.0))
    assert found[0][0] - QUIET_S <= 0.15
    assert max(abs(cents(one.pitch_hz, 146.83)) for _, one in found if one.is_settled) < 3.0


def test_a_string_struck_after_another_is_read_as_itself() -> None:
    both = np.concatenate([tone(110.0, 0.8, decay_per_s=2.0), tone(146.83, 0.8, decay_per_s=2.0)])
    found = readings(after_quiet(both))
    begin_s = QUIET_S + 0.8
    later = [(at, one) for at, one in found if at > begin_s + 0.02 and one.note == "D3"]
    assert later[0][0] - begin_s <= 0.1
    assert {one.note for _, one in found} == {"A2", "D3"}
    assert all(abs(one.cents) < 10.0 for _, one in found)


NOISES = {
    "white": lambda w: 0.02 * w,
    "rumble": lambda w: 0.5 * sosfilt(butter(2, [30, 120], "band", fs=RATE_HZ, output="sos"), w),
    "digital zero": lambda w: 0.0 * w,
    "knocks": lambda w: np.where(np.arange(len(w)) % 24_000 < 300, 0.3 * w, 0.0),
}


@pytest.mark.parametrize("kind", NOISES)
def test_what_is_no_note_is_read_as_none(kind: str) -> None:
    noise = np.random.default_rng(4).standard_normal(4 * RATE_HZ)
    assert readings(np.asarray(NOISES[kind](noise))) == []


@pytest.mark.parametrize("hz", [20.0, 5_200.0])
def test_pitches_out_of_range_are_none_and_no_octave(hz: float) -> None:
    assert readings(after_quiet(tone(hz, 0.8))) == []


SOUND = after_quiet(np.concatenate([tone(98.0, 0.5, decay_per_s=1.0), tone(220.0, 0.4)]))


@settings(max_examples=8, deadline=None)
@given(st.lists(st.integers(1, len(SOUND) - 1), max_size=12, unique=True))
def test_the_state_is_the_same_for_every_size_of_block(cuts: list[int]) -> None:
    tuner = Tuner(rate_hz=RATE_HZ)

    def at_end(places: list[int]) -> Heard:
        state = tuner.start()
        edges = [0, *sorted(places), len(SOUND)]
        for first, last in itertools.pairwise(edges):
            state = tuner.fold(state, SOUND[first:last])
        return state

    one, other = at_end(cuts), at_end([])
    assert one.reading == other.reading
    assert one.frames == other.frames
    assert np.array_equal(one.tail, other.tail)


def test_notes_are_told_from_the_reference_pitch() -> None:
    (_, reading), *_ = readings(after_quiet(tone(440.0, 0.5)), a4_hz=415.0)
    assert reading.note == "A#4"
    assert reading.cents == pytest.approx(cents(440.0, 415.0) - 100.0, abs=2.0)


@pytest.mark.parametrize(("rate_hz", "a4_hz"), [(100, 440.0), (48_000, 200.0), (48_000, 700.0)])
def test_a_tuner_that_cannot_be_is_refused(rate_hz: int, a4_hz: float) -> None:
    with pytest.raises(InputError, match="must be"):
        Tuner(rate_hz=rate_hz, a4_hz=a4_hz)
