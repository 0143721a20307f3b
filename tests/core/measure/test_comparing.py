"""Loop-backs and alignments against delays that were put in."""

from __future__ import annotations

import numpy as np
import pytest

from tests.core.measure.made import RATE_HZ, in_a_room, late, melody, rng, sine, sweep, with_noise
from verve.core.measure import Loopback, alignment_of, loopback_of
from verve.core.sheets import alignment_text, loopback_text
from verve.core.units import FloatArray

SWEEP = sweep()
NOISE = 0.2 * rng(5).standard_normal(round(1.5 * RATE_HZ))


def looped(sent: FloatArray, returned: FloatArray) -> Loopback:
    return loopback_of(sent[None], returned[None], RATE_HZ)


@pytest.mark.parametrize("sent", [SWEEP, NOISE], ids=["sweep", "noise"])
@pytest.mark.parametrize(("snr_db", "frames"), [(30.0, 0.1), (10.0, 0.3), (0.0, 1.0)])
def test_the_delay_is_told_through_noise(sent: FloatArray, snr_db: float, frames: float) -> None:
    back = with_noise(0.5 * late(sent, 417.3), snr_db, 77)
    found = looped(sent, back)
    assert found.delay_frames == pytest.approx(417.3, abs=frames)
    assert found.delay_ms == pytest.approx(1000.0 * 417.3 / RATE_HZ, abs=frames / 48.0)
    assert found.level_db == pytest.approx(-6.02, abs=0.3)
    assert found.clock_difference_ppm == pytest.approx(0.0, abs=5.0)
    assert not found.clock_differs
    assert found.is_complete
    assert not found.polarity_inverted


@pytest.mark.parametrize("ppm", [-180.0, 50.0, 100.0])
@pytest.mark.parametrize("gain", [0.5, -0.5])
def test_clocks_that_differ_are_told(ppm: float, gain: float) -> None:
    found = looped(SWEEP, with_noise(gain * late(SWEEP, 312.4, ppm=ppm), 30.0, 3))
    assert found.polarity_inverted == (gain < 0.0)
    assert found.delay_frames == pytest.approx(312.4, abs=0.5)
    assert found.clock_difference_ppm == pytest.approx(ppm, abs=5.0)
    assert found.clock_differs


def test_in_a_room_the_direct_sound_is_the_answer() -> None:
    found = looped(SWEEP, in_a_room(late(SWEEP, 500.7), 8))
    assert found.delay_frames == pytest.approx(500.7, abs=0.5)


def test_the_first_of_two_ways_is_the_answer_though_it_is_weaker() -> None:
    both = 0.5 * late(NOISE, 300.0) + 1.0 * late(NOISE, 1_452.0)
    found = looped(NOISE, both)
    assert found.delay_frames == pytest.approx(300.0, abs=0.1)
    assert [round(one.delay_frames) for one in found.other_arrivals] == [1_452]
    assert found.other_arrivals[0].level_db == pytest.approx(6.02, abs=0.2)
    assert "Once more 1152.0 samples after that, +6.0 dB" in loopback_text(found)


def test_polarity_what_is_missing_and_channels_are_told() -> None:
    inverted = looped(NOISE, -late(NOISE, 40.0))
    assert inverted.polarity_inverted
    assert "polarity is inverted" in loopback_text(inverted)
    cut = looped(NOISE, late(NOISE, 40.0)[:50_000])
    assert cut.found
    assert not cut.is_complete
    other = 0.2 * rng(9).standard_normal(len(NOISE))
    swapped = loopback_of(
        np.stack([NOISE, other]), np.stack([-late(other, 90.0), late(NOISE, 90.0)]), RATE_HZ
    )
    assert swapped.channel_map == (1, 0)
    assert swapped.channels_inverted == (True, False)
    assert "swapped" in loopback_text(swapped)
    right = loopback_of(NOISE[None], np.stack([0.0 * NOISE, NOISE]), RATE_HZ)
    assert right.channel == 1
    assert right.channel_map == (None, 0)


@pytest.mark.parametrize("seed", [1])
def test_noise_and_other_notes_are_no_loopback(seed: int) -> None:
    others = [
        0.1 * rng(seed).standard_normal(2 * RATE_HZ),
        np.cumsum(rng(seed).standard_normal(2 * RATE_HZ)) * 1e-3,
        melody(seed),
    ]
    for sent in (SWEEP, NOISE, melody(seed + 50)):
        for back in others:
            found = looped(sent, back)
            assert not found.found
            assert (found.delay_frames, found.level_db, found.polarity_inverted) == (
                None,
                None,
                None,
            )
            assert loopback_text(found).startswith("Not found")


def test_what_cannot_be_sent_is_refused() -> None:
    periodic = looped(sine(440.0, -6.0, 1.0), sine(440.0, -6.0, 1.0))
    assert (periodic.found, periodic.reason) == (False, "ambiguous")
    assert looped(np.zeros(4_800), NOISE).reason == "the sent file is silent"
    assert looped(NOISE, np.zeros(4_800)).reason == "the returned file is silent"


# ── alignment ─────────────────────────────────────────────────────────────────────────────────
@pytest.mark.parametrize("bowed", [False, True], ids=["plucked", "bowed"])
@pytest.mark.parametrize("delay", [-130.4, 0.0, 76.97, 611.25])
def test_two_tracks_of_an_instrument_are_aligned(bowed: bool, delay: float) -> None:
    pickup = melody(3, bowed=bowed)
    microphone = late(pickup, max(0.0, delay))[: len(pickup)]
    pickup = late(pickup, max(0.0, -delay))[: len(pickup)]
    bleed = 0.25 * melody(40, bowed=bowed)
    rough = with_noise(-in_a_room(microphone, 6)[: len(pickup)] + bleed, 20.0, 2)
    found = alignment_of(with_noise(pickup, 20.0, 1), rough, RATE_HZ)
    # With everything at once: bleed, reverberation as strong as the direct sound, and noise on both.
    assert found.delay_frames == pytest.approx(delay, abs=0.8)
    assert found.polarity_inverted
    assert found.shift is not None
    assert found.shift.frames == pytest.approx(abs(delay), abs=0.8)
    if abs(delay) > 1.0:
        assert found.shift.track == ("second" if delay > 0.0 else "first")
        assert (found.distance_m is None) == (delay < 0.0)
    assert "opposite polarity" in alignment_text(found)


@pytest.mark.parametrize("seed", range(6))
def test_tracks_that_are_not_related_are_not_aligned(seed: int) -> None:
    found = alignment_of(melody(seed), melody(seed + 90, bowed=seed % 2 == 0), RATE_HZ)
    assert (found.found, found.delay_frames, found.shift) == (False, None, None)
    assert "not related" in alignment_text(found)


def test_a_silent_or_very_short_track_is_told() -> None:
    assert alignment_of(np.zeros(48_000), melody(1), RATE_HZ).reason == "the first track is silent"
    assert alignment_of(melody(1), np.zeros(48_000), RATE_HZ).reason == "the second track is silent"
    assert alignment_of(NOISE[:500], NOISE[:500], RATE_HZ).reason == "the tracks are too short"
