"""Claps in rooms that are made: the decay is the one put in, and what cannot be read is not made up."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import butter, sosfilt

from verve.core.errors import InputError
from verve.core.measure import Clap, clap_of
from verve.core.units import FloatArray

RATE_HZ = 48_000


def clap(
    rt60_s: float,
    *,
    noise_db: float = -80.0,
    seed: int = 1,
    low_cut_hz: float = 0.0,
    flutter_ms: float = 0.0,
) -> FloatArray:
    """A burst and its decaying noise, half a second of the room before it."""
    rng = np.random.default_rng(seed)
    t = np.arange(3 * RATE_HZ) / RATE_HZ
    tail = rng.standard_normal(len(t)) * 10.0 ** (-3.0 * t / rt60_s)
    if low_cut_hz:
        tail = sosfilt(butter(4, low_cut_hz, btype="highpass", fs=RATE_HZ, output="sos"), tail)
    if flutter_ms:
        every = round(flutter_ms * RATE_HZ / 1000.0)
        for number in range(1, int(0.6 * RATE_HZ / every)):
            burst = rng.standard_normal(48) * 10.0 ** (-3.0 * number * every / RATE_HZ / rt60_s)
            tail[number * every : number * every + 48] += 4.0 * burst
    sound = np.concatenate([np.zeros(RATE_HZ // 2), tail]) * 0.2
    return np.asarray(sound + 10.0 ** (noise_db / 20.0) * rng.standard_normal(len(sound)))


def rt60(found: Clap, hz: float) -> float | None:
    return next(one.rt60_s for one in found.decays if one.hz == hz)


@pytest.mark.parametrize("rt60_s", [0.3, 0.6, 1.2, 2.0])
def test_the_decay_is_the_one_put_in(rt60_s: float) -> None:
    found = clap_of(clap(rt60_s), RATE_HZ)
    assert found.at_s == pytest.approx(0.5, abs=0.005)
    for hz in (500.0, 1000.0, 2000.0, 4000.0):
        assert rt60(found, hz) == pytest.approx(rt60_s, rel=0.15)
    assert found.middle_s == pytest.approx(rt60_s, rel=0.1)
    assert not found.is_clipped


@settings(max_examples=12, deadline=None)
@given(st.integers(0, 1000), st.floats(0.25, 1.5))
def test_before_and_after_are_told_apart(seed: int, rt60_s: float) -> None:
    bare, hung = (
        clap_of(clap(rt60_s, seed=seed), RATE_HZ),
        clap_of(clap(rt60_s * 0.6, seed=seed), RATE_HZ),
    )
    assert bare.middle_s is not None
    assert hung.middle_s is not None
    assert hung.middle_s < 0.8 * bare.middle_s


def test_bass_that_hands_do_not_send_is_not_read() -> None:
    found = clap_of(clap(0.8, low_cut_hz=700.0, noise_db=-60.0), RATE_HZ)
    assert rt60(found, 125.0) is None
    assert rt60(found, 250.0) is None
    assert rt60(found, 2000.0) == pytest.approx(0.8, rel=0.15)


def test_nothing_is_read_where_the_noise_is_near() -> None:
    found = clap_of(clap(0.8, noise_db=-50.0), RATE_HZ)
    assert all(one.range_db < 60.0 for one in found.decays)
    for one in found.decays:
        assert one.rt60_s is None or one.range_db >= 35.0


@pytest.mark.parametrize("flutter_ms", [12.0, 23.0, 41.0])
def test_flutter_is_named_by_its_spacing(flutter_ms: float) -> None:
    found = clap_of(clap(0.8, flutter_ms=flutter_ms), RATE_HZ)
    assert found.flutter_ms is not None
    # Twice the spacing is the same flutter, heard every second time.
    assert found.flutter_ms % flutter_ms == pytest.approx(0.0, abs=1.5) or (
        flutter_ms - found.flutter_ms % flutter_ms
    ) == pytest.approx(0.0, abs=1.5)


def test_a_smooth_decay_does_not_flutter() -> None:
    assert [
        s for s in range(40) if clap_of(clap(0.8, seed=s), RATE_HZ).flutter_ms is not None
    ] == []


def test_what_is_clipped_is_told() -> None:
    assert clap_of(np.clip(clap(0.8) * 20.0, -1.0, 1.0), RATE_HZ).is_clipped


@pytest.mark.parametrize(
    ("sound", "said"),
    [
        (np.zeros(100), "half a second"),
        (np.zeros(RATE_HZ), "silent"),
        (np.random.default_rng(1).standard_normal(RATE_HZ) * 0.1, "clap"),
        (clap(0.8)[RATE_HZ // 2 - 100 :], "before the clap"),
    ],
)
def test_what_is_no_clap_is_refused_in_words(sound: FloatArray, said: str) -> None:
    with pytest.raises(InputError, match=said):
        clap_of(sound, RATE_HZ)
