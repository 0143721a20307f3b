"""The guided check from sound alone: silence, easy phrase, loudest passages, and when it ends."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from verve.core.check import (
    EASY_S,
    MOMENTS_PER_S,
    SILENCE_S,
    Guide,
    Levels,
    Moment,
    Signal,
)
from verve.core.errors import InputError
from verve.core.units import FloatArray

RATE_HZ = 48_000
SIGNALS = (
    Signal(line="voice", group=0, predicted_peak_dbfs=-8.0, spread_db=6.0),
    Signal(line="harp_left", group=1, predicted_peak_dbfs=-8.0, spread_db=6.0),
    Signal(line="harp_right", group=1, predicted_peak_dbfs=-8.0, spread_db=6.0),
)


def tone(seconds: float, dbfs: float, hz: float = 220.0) -> FloatArray:
    t = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    return np.asarray(10.0 ** (dbfs / 20.0) * np.sin(2.0 * np.pi * hz * t))


def sound(*parts: tuple[int, float, float]) -> FloatArray:
    """Who plays, for how long, how loud; −1 is nobody. Others hear it 25 dB softer, over a little noise."""
    rng = np.random.default_rng(4)
    found = []
    for who, seconds, dbfs in parts:
        block = 1e-4 * rng.standard_normal((3, round(seconds * RATE_HZ)))
        if who >= 0:
            for channel, signal in enumerate(SIGNALS):
                near = 0.0 if signal.group == who else -25.0
                block[channel] += tone(seconds, dbfs + near)
        found.append(block)
    return np.concatenate(found, axis=1)


def moments(samples: FloatArray, block: int = 1024) -> list[Moment]:
    levels = Levels(channels=len(samples), rate_hz=RATE_HZ)
    state = levels.start()
    found: list[Moment] = []
    for at in range(0, samples.shape[1], block):
        state, new = levels.fold(state, samples[:, at : at + block])
        found += new
    return found


def heard(*parts: tuple[int, float, float], begin: Guide | None = None) -> Guide:
    guide = begin or Guide.of(SIGNALS)
    for moment in moments(sound(*parts)):
        guide = guide.fold(moment)
    return guide


SILENT = (-1, SILENCE_S + 0.5, 0.0)
REST = (-1, 0.8, 0.0)


def test_it_begins_with_silence_and_then_waits_for_whoever_plays() -> None:
    guide = heard((-1, 1.0, 0.0))
    assert guide.phase == "silence"
    assert 0.2 < guide.silence_share < 0.5
    guide = heard(SILENT)
    assert guide.phase == "wait"
    assert guide.was_quiet
    assert guide.quiet_from_s == pytest.approx(0.0, abs=0.2)
    assert all(-75.0 < level < -60.0 for level in guide.quiet_peaks_dbfs)


def test_who_plays_while_it_should_be_quiet_is_waited_for_and_at_last_the_quietest_is_taken() -> (
    None
):
    guide = heard((0, 2.0, -20.0), (-1, 2.0, 0.0))
    assert guide.phase == "silence"
    guide = heard((0, 1.0, -20.0), (-1, 0.8, 0.0), *((0, 0.5, -20.0), (-1, 0.8, 0.0)) * 20)
    assert guide.phase != "silence"
    assert not guide.was_quiet
    assert guide.quiet_peaks_dbfs[0] < -55.0


def test_it_opens_on_what_sounds_and_both_sides_of_a_pair_together() -> None:
    guide = heard(SILENT, (1, 1.0, -20.0))
    assert guide.phase == "easy"
    assert guide.selected == (1, 2)
    guide = heard(SILENT, (0, 1.0, -20.0))
    assert guide.selected == (0,)


def test_after_the_easy_phrase_two_loud_passages_that_agree_end_it() -> None:
    guide = heard(SILENT, (0, EASY_S + 0.4, -20.0), REST, (0, 1.0, -9.0), REST)
    assert guide.phase == "loudest"
    assert guide.easy is not None
    assert guide.easy.peaks_dbfs[0] == pytest.approx(-20.0, abs=0.1)
    guide = heard((0, 1.0, -8.0), REST, begin=guide)
    assert guide.phase == "done"
    assert guide.hardest_dbfs(0) == pytest.approx(-8.0, abs=0.1)
    assert guide.done == {0}


def test_passages_that_differ_go_on_and_soft_ones_between_do_not_count() -> None:
    guide = heard(
        SILENT, (0, EASY_S + 0.4, -20.0), REST, (0, 1.0, -14.0), REST, (0, 1.0, -8.0), REST
    )
    assert guide.phase == "loudest", "six decibels apart"
    guide = heard((0, 1.0, -20.0), REST, (0, 1.0, -9.0), REST, begin=guide)
    assert guide.phase == "done"
    assert guide.hardest_dbfs(0) == pytest.approx(-8.0, abs=0.1)


def test_whoever_plays_on_without_a_rest_comes_to_an_end_as_well() -> None:
    guide = heard(SILENT, (0, EASY_S + 0.3, -20.0), (0, 16.5, -9.0))
    assert guide.phase == "done"


def test_the_next_one_needs_no_key_and_who_is_done_does_not_begin_again() -> None:
    first = heard(SILENT, (0, EASY_S + 0.4, -20.0), REST, *((0, 1.0, -8.0), REST) * 2)
    assert first.phase == "done"
    again = heard((0, 2.0, -8.0), begin=first)
    assert again.phase == "done"
    second = heard(REST, (1, 1.0, -15.0), begin=again)
    assert (second.phase, second.group) == ("easy", 1)
    assert heard((0, 1.0, -15.0), begin=first.again()).phase == "easy"


def test_somebody_else_takes_over_from_who_rests_for_long() -> None:
    guide = heard(SILENT, (0, 1.0, -20.0), (-1, 2.0, 0.0), (1, 1.0, -20.0))
    assert guide.group == 0, "a short rest is a breath"
    guide = heard(SILENT, (0, 1.0, -20.0), (-1, 4.5, 0.0), (1, 1.5, -20.0))
    assert guide.group == 1


def test_full_scale_is_noted() -> None:
    guide = heard(SILENT, (0, EASY_S + 0.4, -20.0), REST, *((0, 1.0, 0.0), REST) * 2)
    assert guide.phase == "done"
    assert guide.is_clipped(0)
    assert not guide.is_clipped(1)


def test_after_something_was_turned_the_easy_phrase_comes_once_more() -> None:
    guide = heard(SILENT, (0, EASY_S + 0.4, -20.0)).turn()
    assert guide.phase == "turn"
    guide = heard((0, 0.5, -20.0), begin=guide)
    assert guide.phase == "turn", "who has not stopped has not turned"
    guide = heard((-1, 1.5, 0.0), (0, 1.0, -32.0), begin=guide)
    assert (guide.phase, guide.turns) == ("easy", 1)
    moved = guide.turned(-12.0)
    assert moved.quiet_peaks_dbfs[0] == pytest.approx(guide.quiet_peaks_dbfs[0] - 12.0)
    assert moved.quiet_peaks_dbfs[1] == guide.quiet_peaks_dbfs[1]


def test_every_phase_can_be_gone_on_from_by_hand() -> None:
    guide = Guide.of(SIGNALS).skip()
    assert guide.phase == "wait"
    guide = guide.choose(1)
    assert guide.phase == "easy"
    guide = guide.skip()
    assert guide.phase == "loudest"
    assert guide.skip().phase == "wait", "nothing was heard of it"
    assert heard((1, 0.5, -10.0), begin=guide).skip().phase == "done"


def test_no_channel_is_refused() -> None:
    with pytest.raises(InputError, match="at least 1"):
        Levels(channels=0, rate_hz=RATE_HZ)


@settings(max_examples=15, deadline=None)
@given(st.lists(st.integers(1, 4000), min_size=1, max_size=30))
def test_moments_are_the_same_for_every_size_of_block(sizes: list[int]) -> None:
    rng = np.random.default_rng(1)
    samples = rng.uniform(-1.0, 1.0, (2, 30_000))
    levels = Levels(channels=2, rate_hz=RATE_HZ)
    state, at = levels.start(), 0
    found: list[Moment] = []
    for size in [*sizes, 30_000]:
        state, new = levels.fold(state, samples[:, at : at + size])
        found += new
        at += size
    whole = moments(samples, 30_000)
    assert len(found) == len(whole) == 30_000 * MOMENTS_PER_S // RATE_HZ
    for one, other in zip(found, whole, strict=True):
        assert one.at_s == other.at_s
        assert np.allclose(one.peaks, other.peaks)
        assert np.allclose(one.powers, other.powers)
