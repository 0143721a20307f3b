"""Plans, targets and dials: what is promised is what a full computation gives."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from verve.core.assess import assess
from verve.core.demo import demo_session
from verve.core.engine import Engine
from verve.core.gain import (
    FIRST_HOUR,
    HOURS,
    TARGETS,
    curve,
    dial_hour,
    dial_range,
    dial_words,
    fitted_bend,
    window,
)
from verve.core.kind import Control, PlayingRange
from verve.core.session import Change, apply_changes, set_control
from verve.core.stage import GainJudge


@given(gain_db=st.floats(0.0, 60.0).map(lambda v: round(v * 2) / 2))
def test_a_plan_leads_where_it_says(gain_db: float) -> None:
    session = set_control(
        demo_session(),
        Change(owner="interface", channel="in.1", name="gain_db", value=gain_db),
    )
    item = assess(session).line("voice")
    assert item is not None
    judge = GainJudge(session, Engine())
    found = judge.best("voice")
    assert found is not None
    after = assess(apply_changes(session, judge.changes("voice"))).line("voice")
    assert after is not None
    assert after.state.peak_dbfs == pytest.approx(found.peak_dbfs, abs=0.01)
    assert after.target.lowest_dbfs <= found.peak_dbfs <= after.target.highest_dbfs


def test_the_preamp_of_a_mixer_line_stays_and_the_trim_moves() -> None:
    session = set_control(
        demo_session(), Change(owner="mixer", channel="in.3", name="gain_db", value=0.0)
    )
    item = assess(session).line("organ_l")
    assert item is not None
    unequal = next(f for f in item.findings if f.rule == "pair_unequal")
    assert unequal.remedy is not None
    assert {change.owner for change in unequal.remedy.changes} == {"mixer"}
    assert "trim" in unequal.advice


PLAYING = PlayingRange(softest_db=70.0, typical_db=86.0, hardest_db=100.0)


@pytest.mark.parametrize("level_target", TARGETS)
def test_every_target_has_a_window_below_full_scale(level_target: str) -> None:
    found = window(level_target, PLAYING, 14.0)  # type: ignore[arg-type]
    assert found.lowest_dbfs < found.target_dbfs <= found.highest_dbfs < 0.0


def test_the_average_target_puts_typical_playing_at_eighteen() -> None:
    # Hardest aim = −18 RMS + 10 crest, as typical playing peaks; + 4 dB to the hardest: −4.
    playing = PlayingRange(softest_db=60.0, typical_db=80.0, hardest_db=84.0)
    found = window("average", playing, 10.0)
    assert found.target_dbfs == pytest.approx(-4.0)
    typical_rms_dbfs = found.target_dbfs - 4.0 - 10.0
    assert typical_rms_dbfs == pytest.approx(-18.0)


def test_the_average_target_never_aims_above_three_below_the_top() -> None:
    assert window("average", PLAYING, 24.0).target_dbfs == -3.0


@given(crest_db=st.floats(6.0, 24.0), softest=st.floats(1.0, 20.0), spread_db=st.floats(1.0, 20.0))
def test_who_sets_by_the_average_is_content_with_room_above(
    crest_db: float, softest: float, spread_db: float
) -> None:
    """Judged by the average and the room above it: typical at −20 and hardest at −8 is never too low."""
    playing = PlayingRange(softest_db=80.0 - softest, typical_db=80.0, hardest_db=80.0 + spread_db)
    found = window("average", playing, crest_db)
    assert found.lowest_dbfs <= -10.0
    assert found.lowest_dbfs < found.target_dbfs <= found.highest_dbfs <= -1.0
    if crest_db + spread_db >= 7.0:
        assert found.highest_dbfs >= -8.0


@pytest.mark.parametrize(
    ("level_target", "low", "high"),
    [("peaks", -16.0, -10.0), ("hot", -6.0, -3.0), ("ceiling", -12.0, -6.0)],
)
def test_windows_are_those_that_people_practise(level_target: str, low: float, high: float) -> None:
    found = window(level_target, PLAYING, 14.0)  # type: ignore[arg-type]
    assert (found.lowest_dbfs, found.highest_dbfs) == (low, high)


def test_every_target_says_whom_it_suits_and_what_it_risks() -> None:
    for said in TARGETS.values():
        assert said.suits.endswith(".")
        assert said.risks.endswith(".")


DIAL = Control(
    owner="o",
    channel="c",
    name="gain_db",
    label="Gain",
    kind="range",
    value=0.0,
    effect="x",
    unit="dB",
    minimum=0.0,
    maximum=60.0,
    is_dial=True,
)


@pytest.mark.parametrize(
    ("gain_db", "words"),
    [
        (0.0, "about 7 o’clock, a guess"),
        (30.0, "between 12 and 1 o’clock, a guess"),
        (60.0, "about 5 o’clock, a guess"),
        (48.0, "between 3 and half past 3, a guess"),
        (-5.0, "about 7 o’clock, a guess"),
        (99.0, "about 5 o’clock, a guess"),
    ],
)
def test_a_gain_is_an_hour_on_the_dial(gain_db: float, words: str) -> None:
    assert dial_words(DIAL, gain_db) == words


def test_of_an_unknown_knob_a_range_is_told_between_straight_and_bent() -> None:
    assert dial_hour(DIAL, 0.0) == 7.0
    assert dial_hour(DIAL, 60.0) == 17.0
    low, high = dial_range(DIAL, 15.0)
    assert low == pytest.approx(9.5)
    assert 10.0 < high < 11.5
    # The bent one has 20 dB in its last quarter.
    assert dial_range(DIAL, 40.0)[1] == pytest.approx(14.5, abs=0.05)


@given(
    bend=st.floats(0.0, 0.9), first=st.floats(7.5, 12.0), by=st.floats(1.0, 4.5),
    span_db=st.floats(30.0, 75.0),
)  # fmt: skip
def test_two_positions_teach_a_knob_its_curve(
    bend: float, first: float, by: float, span_db: float
) -> None:
    hours, gains = zip(*curve(0.0, span_db, bend), strict=True)
    second = first + by
    apart = float(np.interp(second, hours, gains) - np.interp(first, hours, gains))
    found = curve(0.0, span_db, fitted_bend(span_db, [(first, second, apart)]))
    # Where both positions lie so that bending moves both alike, nothing follows from them.
    turned = [(h - FIRST_HOUR) / HOURS for h in (first, second)]
    slope = (turned[1] ** 3 - turned[1]) - (turned[0] ** 3 - turned[0])
    if abs(slope) > 0.05:
        for (_, was), (_, now) in zip(curve(0.0, span_db, bend), found, strict=True):
            assert now == pytest.approx(was, abs=1.0)
    assert all(b > a for (_, a), (_, b) in pairwise(found))
