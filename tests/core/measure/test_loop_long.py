"""Long loop-backs: at a sixteenth of the rate first, and still true to a tenth of a frame."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from verve.core.measure import loopback_of
from verve.core.measure._clocks import delayed
from verve.core.measure._loop_long import long_loopback
from verve.core.units import FloatArray

RATE_HZ = 44_100
SECONDS = 13


def made(seed: int) -> FloatArray:
    rng = np.random.default_rng(seed)
    return np.asarray(rng.standard_normal((2, SECONDS * RATE_HZ)) * 0.05)


def late(sound: FloatArray, frames: float, ppm: float, more: int = 30_000) -> FloatArray:
    at = np.arange(len(sound) + more, dtype=np.float64)
    return delayed(sound, np.asarray((at - frames) / (1.0 + ppm * 1e-6)))


SENT = made(1)


@settings(max_examples=5, deadline=None)
@given(
    st.floats(0.0, 20_000.0),
    st.sampled_from([0.0, 0.0, 35.0, -180.0, 500.0]),
    st.floats(10.0, 35.0),
    st.booleans(),
)
def test_the_invented_truth_is_found(
    frames: float, ppm: float, snr_db: float, swapped: bool
) -> None:
    order = (1, 0) if swapped else (0, 1)
    gains = (-0.5, 0.3)
    back = np.stack([late(SENT[n], frames, ppm) * g for n, g in zip(order, gains, strict=True)])
    noise = np.random.default_rng(2).standard_normal(back.shape)
    back += noise * 0.3 * 0.05 * 10.0 ** (-snr_db / 20.0)
    found = long_loopback(SENT, back, RATE_HZ)
    assert found is not None
    assert found.delay_frames == pytest.approx(frames, abs=0.1)
    assert found.clock_difference_ppm == pytest.approx(ppm, abs=1.0)
    assert found.clock_differs == (abs(ppm) > 20.0)
    assert found.channel_map == order
    assert found.channels_inverted == (True, False)
    gain = gains[order.index(0)]
    assert found.level_db == pytest.approx(20.0 * np.log10(abs(gain)), abs=0.2)
    assert found.snr_db == pytest.approx(snr_db + 20.0 * np.log10(abs(gain) / 0.3), abs=1.0)
    assert found.polarity_inverted == (gain < 0.0)
    assert found.is_complete


def test_the_whole_door_uses_it_and_agrees_with_what_is_short() -> None:
    back = np.stack([late(SENT[0], 777.25, 0.0)])
    whole = loopback_of(SENT[:1], back, RATE_HZ)
    short = loopback_of(SENT[:1, : 5 * RATE_HZ], back[:, : 6 * RATE_HZ], RATE_HZ)
    assert whole.delay_frames == pytest.approx(777.25, abs=0.05)
    assert short.delay_frames == pytest.approx(777.25, abs=0.05)


def test_a_second_way_is_told_where_it_is() -> None:
    back = late(SENT[0], 500.0, 0.0)
    both = back + 0.4 * np.roll(back, 240)
    found = long_loopback(SENT[:1], both[None], RATE_HZ)
    assert found is not None
    (other,) = found.other_arrivals
    assert other.delay_frames == pytest.approx(740.0, abs=0.5)
    assert other.level_db == pytest.approx(20.0 * np.log10(0.4), abs=1.0)


def test_what_is_cut_off_is_not_complete() -> None:
    back = late(SENT[0], 500.0, 0.0)[: 10 * RATE_HZ]
    found = loopback_of(SENT[:1], back[None], RATE_HZ)
    assert found.found
    assert not found.is_complete
    assert found.delay_frames == pytest.approx(500.0, abs=0.1)


def test_what_is_unrelated_or_has_no_bass_is_left_to_the_whole() -> None:
    assert long_loopback(SENT, made(9), RATE_HZ) is None
    assert long_loopback(np.zeros_like(SENT), SENT, RATE_HZ) is None
    tone = np.sin(2.0 * np.pi * 440.0 * np.arange(SENT.shape[1]) / RATE_HZ)[None] * 0.1
    assert long_loopback(tone, tone, RATE_HZ) is None
