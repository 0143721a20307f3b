"""The test of a loop-back: soft, faded in, found again; and the guard that stops it."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from verve.core.measure import TEST_DBFS, LoopGuard, Stopped, loop_signal, loopback_of
from verve.core.units import FloatArray

RATE_HZ = 48_000


def watched(samples: FloatArray, block: int = 4096) -> Stopped | None:
    guard = LoopGuard(rate_hz=RATE_HZ)
    for begin in range(0, samples.shape[1], block):
        why = guard.feed(samples[:, begin : begin + block])
        if why is not None:
            return why
    return None


@pytest.mark.parametrize("rate_hz", [44_100, 48_000, 96_000])
def test_it_is_soft_and_fades_in_and_its_sides_are_two(rate_hz: int) -> None:
    signal = loop_signal(rate_hz)
    assert signal.shape[0] == 2
    later = signal[:, 2 * rate_hz :]
    for side in later:
        level = 10.0 * float(np.log10(2.0 * np.mean(side**2)))
        assert level == pytest.approx(TEST_DBFS, abs=0.5)
    assert np.abs(signal).max() < 10.0 ** (-20.0 / 20.0)
    assert not signal[:, : rate_hz // 4].any()
    first = np.mean(signal[:, round(0.6 * rate_hz) : round(0.7 * rate_hz)] ** 2)
    assert first < 0.1 * np.mean(later**2)
    assert abs(np.corrcoef(later[0], later[1])[0, 1]) < 0.05


@settings(max_examples=4, deadline=None)
@given(st.floats(10.0, 9000.0), st.floats(0.02, 1.0), st.booleans())
def test_its_delay_is_found_to_a_tenth_of_a_frame(
    frames: float, gain: float, inverted: bool
) -> None:
    sent = loop_signal(RATE_HZ)
    size = 1 << 19
    turn = np.exp(-2j * np.pi * np.arange(size // 2 + 1) * frames / size)
    late = np.fft.irfft(np.fft.rfft(sent, size) * turn, size)[:, : sent.shape[1] + 12_000]
    noise = np.random.default_rng(1).standard_normal(late.shape) * 3e-5
    found = loopback_of(sent, late * (-gain if inverted else gain) + noise, RATE_HZ)
    assert found.found
    assert found.delay_frames == pytest.approx(frames, abs=0.1)
    assert found.polarity_inverted == inverted


def test_what_comes_back_as_it_should_is_let_be() -> None:
    signal = loop_signal(RATE_HZ)
    for gain in (0.01, 1.0, 10.0):
        assert watched(signal * gain) is None
    assert watched(np.zeros((2, RATE_HZ))) is None
    assert LoopGuard(rate_hz=RATE_HZ).feed(np.zeros((2, 0))) is None


def test_it_stops_above_its_limit_and_at_anything_that_is_no_number() -> None:
    signal = loop_signal(RATE_HZ)
    assert watched(signal * 60.0) == "too loud"
    broken = signal.copy()
    broken[0, RATE_HZ] = np.nan
    assert watched(broken) == "too loud"


@settings(max_examples=20, deadline=None)
@given(st.integers(64, 9000), st.floats(15.0, 60.0))
def test_it_stops_when_it_gets_louder_unasked(block: int, db_per_s: float) -> None:
    signal = loop_signal(RATE_HZ) * 0.05
    seconds = np.arange(signal.shape[1]) / RATE_HZ
    # A circle that closes after three seconds, and rises.
    risen = signal * 10.0 ** (np.clip(seconds - 3.0, 0.0, None) * db_per_s / 20.0)
    assert watched(risen, block) in {"rises", "too loud"}
