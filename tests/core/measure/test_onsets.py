"""Where notes begin, and how fast the beat goes, of sounds that were made so."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from verve.core.errors import InputError
from verve.core.measure import onsets_of, tapped_bpm, tempo_of
from verve.core.units import FloatArray

RATE_HZ = 48_000


def plucked(times: FloatArray, seconds: float, seed: int = 0, hz: float = 220.0) -> FloatArray:
    """Notes that begin at those times and die away, over a little noise."""
    rng = np.random.default_rng(seed)
    found = 1e-3 * rng.standard_normal(round(seconds * RATE_HZ))
    for number, time in enumerate(times):
        begin = round(time * RATE_HZ)
        at = np.arange(len(found) - begin) / RATE_HZ
        pitch = hz * 2.0 ** ((number % 5) / 12.0)
        tone = np.sin(2.0 * np.pi * pitch * at) + 0.4 * np.sin(4.0 * np.pi * pitch * at)
        found[begin:] += 0.3 * tone * np.exp(-at / 0.25) * np.minimum(1.0, at / 0.003)
    return found


@settings(max_examples=10)
@given(seed=st.integers(0, 999))
def test_notes_are_found_to_a_few_milliseconds(seed: int) -> None:
    rng = np.random.default_rng(seed)
    times = np.cumsum(rng.uniform(0.25, 0.7, 12))
    found = onsets_of(plucked(times, times[-1] + 1.0, seed), RATE_HZ)
    assert len(times) - 1 <= len(found) <= len(times) + 1
    # They rise over three milliseconds, into what still sounds of the ones before.
    far = np.array([np.abs(found - time).min() for time in times])
    assert np.median(far) < 0.003
    assert np.quantile(far, 0.8) < 0.01


@settings(max_examples=8)
@given(bpm=st.floats(64.0, 180.0), first=st.floats(0.1, 0.6))
def test_a_steady_tempo_is_found(bpm: float, first: float) -> None:
    beat_s = 60.0 / bpm
    times = np.asarray(first + beat_s * np.arange(int(20.0 / beat_s)), dtype=np.float64)
    found = tempo_of(plucked(times, 21.0), RATE_HZ)
    assert found is not None
    ratio = found.tempo_bpm / bpm
    # Half or twice as fast is the same beat, counted otherwise.
    assert min(abs(ratio - one) for one in (0.5, 1.0, 2.0)) < 0.004
    nearest = np.abs((times - found.first_beat_s) % (beat_s / 2.0))
    assert np.minimum(nearest, beat_s / 2.0 - nearest).max() < 0.08


def test_noise_and_silence_have_no_tempo() -> None:
    rng = np.random.default_rng(3)
    assert tempo_of(np.zeros(10 * RATE_HZ), RATE_HZ) is None
    assert tempo_of(0.1 * rng.standard_normal(10 * RATE_HZ), RATE_HZ) is None
    assert len(onsets_of(np.zeros(RATE_HZ), RATE_HZ)) == 0


def test_a_tempo_is_tapped() -> None:
    assert tapped_bpm((0.0, 0.5, 1.0)) is None
    assert tapped_bpm((0.0, 0.5, 1.0, 1.5)) == pytest.approx(120.0)
    # After a pause it begins anew.
    assert tapped_bpm((0.0, 0.5, 9.0, 10.0, 11.0, 12.0)) == pytest.approx(60.0)
    assert tapped_bpm((0.0, 0.51, 0.99, 1.5, 2.01, 2.5)) == pytest.approx(120.0, rel=0.01)
    with pytest.raises(InputError, match="must rise"):
        tapped_bpm((1.0, 0.5))
