"""The tuner: a cent where that can be told, and nothing where no single note sounds."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.measure.made import RATE_HZ, rng, sine, tone, with_noise
from verve.core.measure import note_of, pitch_of
from verve.core.units import FloatArray

PITCHES = st.floats(math.log2(28.0), math.log2(4_100.0)).map(lambda octaves: 2.0**octaves)


def off_cents(samples: FloatArray, expected_hz: float) -> float:
    found = pitch_of(samples, RATE_HZ).pitch_hz
    assert found is not None
    return abs(1200.0 * math.log2(found / expected_hz))


@settings(max_examples=12)
@given(PITCHES, st.integers(0, 99), st.sampled_from([0.3, 1.0, 2.0]))
def test_a_steady_note_is_told_to_a_cent(hz: float, seed: int, fall: float) -> None:
    assert off_cents(tone(hz, fall=fall, seed=seed), hz) < 1.0
    assert off_cents(with_noise(tone(hz, fall=fall, seed=seed), 40.0, seed), hz) < 1.0
    assert off_cents(with_noise(tone(hz, fall=fall, seed=seed), 10.0, seed), hz) < 3.0


@settings(max_examples=8)
@given(PITCHES.filter(lambda hz: hz < 600.0), st.integers(0, 99))
def test_the_pitch_is_the_common_spacing_whichever_partials_are_there(hz: float, seed: int) -> None:
    assert off_cents(tone(hz, lowest=2, seed=seed), hz) < 1.0
    assert off_cents(tone(hz, lowest=3, seed=seed), hz) < 1.0
    assert off_cents(tone(hz, only_odd=True, seed=seed), hz) < 1.0
    assert off_cents(sine(hz, -12.0, 1.0), hz) < 1.0


@pytest.mark.parametrize(("stiffness", "cents"), [(1e-5, 1.0), (5e-5, 2.0), (3e-4, 5.0)])
@pytest.mark.parametrize("hz", [41.2, 82.4, 110.0, 196.0, 440.0])
def test_of_a_stiff_string_the_first_partial_is_told(
    hz: float, stiffness: float, cents: float
) -> None:
    assert off_cents(tone(hz, stiffness=stiffness), hz * math.sqrt(1.0 + stiffness)) < cents


@pytest.mark.parametrize("hz", [98.0, 220.0, 440.0, 880.0])
def test_of_a_vibrato_the_middle_is_told(hz: float) -> None:
    assert off_cents(tone(hz, 3.0, vibrato_cents=30.0), hz) < 5.0


def test_a_pluck_is_what_is_left_when_it_has_settled() -> None:
    t = np.arange(2 * RATE_HZ) / RATE_HZ
    sharp = 2.0 ** (12.0 / 1200.0 * np.exp(-t / 0.06))
    phase = 2.0 * np.pi * 110.0 * np.cumsum(sharp) / RATE_HZ
    wave = sum(np.sin(h * phase) / h for h in range(1, 12)) * np.exp(-2.0 * t)
    assert off_cents(np.asarray(0.2 * wave), 110.0) < 1.5


def test_of_two_notes_the_much_louder_one_is_told_and_never_a_third() -> None:
    loud, soft = tone(110.0, seed=1), tone(164.81, seed=2)
    assert off_cents(loud + 0.1 * soft, 110.0) < 2.0
    for other in (123.47, 130.81, 138.59, 146.83, 164.81, 174.61, 220.0):
        found = pitch_of(loud + tone(other, seed=3), RATE_HZ).pitch_hz
        near = [
            found is not None and abs(1200 * math.log2(found / hz)) < 10 for hz in (110.0, other)
        ]
        assert found is None or any(near), (other, found)


@pytest.mark.parametrize("kind", ["white", "red", "knock", "silence", "low", "high", "short"])
def test_nothing_is_told_where_there_is_no_note(kind: str) -> None:
    random = rng(4)
    made = {
        "white": 0.1 * random.standard_normal(RATE_HZ),
        "red": np.cumsum(random.standard_normal(RATE_HZ)) * 1e-3,
        "knock": np.exp(-np.arange(RATE_HZ) / 300.0) * random.standard_normal(RATE_HZ),
        "silence": np.zeros(RATE_HZ),
        "low": tone(20.0),
        "high": sine(5_000.0, -12.0, 1.0),
        "short": tone(220.0)[:400],
    }[kind]
    found = pitch_of(np.asarray(made), RATE_HZ)
    assert (found.pitch_hz, found.note, found.cents, found.confidence) == (None, None, None, 0.0)


def test_notes_are_named_from_the_reference() -> None:
    assert note_of(440.0) == ("A4", 0.0)
    assert note_of(261.6256)[0] == "C4"
    assert note_of(82.4069)[0] == "E2"
    name, cents = note_of(440.0, 442.0)
    assert name == "A4"
    assert cents == pytest.approx(-7.85, abs=0.01)
    assert note_of(466.1638)[0] == "A#4"
