"""Gains set by hand: the song is harder than the test, and the score is against the exact optimum."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verve.core.demo import demo_session
from verve.core.gain import all_changes, dial_hour, gain_of_hour, optimum
from verve.core.hand import (
    Exercise,
    exercise_of,
    knobs_of,
    played,
    settable_lines,
    shown_in_test,
    turned,
)
from verve.core.hunt import practice_session
from verve.core.kind import Control
from verve.core.session import Change, Session, set_playing, to_json


@pytest.fixture(scope="module")
def right() -> Session:
    return practice_session(demo_session())


def gain(exercise: Exercise, line: str) -> Control:
    return next(one.control for one in knobs_of(exercise, line) if one.control.name == "gain_db")


def to(exercise: Exercise, control: Control, value: object) -> Exercise:
    return turned(
        exercise,
        Change(owner=control.owner, channel=control.channel, name=control.name, value=value),  # type: ignore[arg-type]
    )


def put_right(exercise: Exercise, lines: tuple[str, ...]) -> Exercise:
    """Distances and pads as they were, and the gains that the solver would set, knowing the song."""
    song = exercise.right
    for source in song.setup.sources:
        over = exercise.over_db.get(source.id)
        if over is not None:
            old = source.figures.playing()
            louder = old.model_copy(update={"hardest_db": old.hardest_db + over})
            song = set_playing(song, source.id, louder, "in the song")
    wanted = {(c.owner, c.channel, c.name): c.value for c in all_changes(optimum(song, lines))}
    before = exercise_of(exercise.right, lines, 1)
    assert before.right == exercise.right
    for line in lines:
        for knob in knobs_of(exercise, line):
            control = knob.control
            key = (control.owner, control.channel, control.name)
            usual = next(
                k.control.value
                for k in knobs_of(
                    Exercise(session=exercise.right, right=exercise.right, lines=lines, over_db={}),
                    line,
                )
                if (k.control.owner, k.control.channel, k.control.name) == key
            )
            exercise = to(exercise, control, wanted.get(key, usual))
    return exercise


def test_everything_is_turned_away_in_a_copy(right: Session) -> None:
    before = to_json(right)
    exercise = exercise_of(right, ("voice", "harp_left"), 3)
    assert to_json(right) == before
    assert gain(exercise, "voice").value == gain(exercise, "voice").minimum
    assert exercise_of(right, ("voice",), 3).session == exercise_of(right, ("voice",), 3).session


def test_the_gains_of_the_solver_that_knows_the_song_are_right(right: Session) -> None:
    lines = ("voice", "baritone_line")
    score = played(put_right(exercise_of(right, lines, 5), lines))
    assert not score.lost
    assert score.is_right
    assert score.grade == 3
    for one in score.results:
        assert one.worse_db == pytest.approx(0.0, abs=0.1)
        assert one.peak_dbfs == pytest.approx(one.best_peak_dbfs, abs=0.1)


def test_a_gain_that_only_just_fits_the_test_loses_the_song(right: Session) -> None:
    exercise = put_right(exercise_of(right, ("baritone_line",), 2), ("baritone_line",))
    now = exercise
    while True:
        control = gain(now, "baritone_line")
        now = to(now, control, float(control.value or 0.0) + 1.0)
        now, shown = shown_in_test(now)
        if shown[0].is_over:
            break
        exercise = now
    exercise, shown = shown_in_test(exercise)
    assert not shown[0].is_over
    assert shown[0].peak_dbfs is not None
    assert shown[0].peak_dbfs >= -2.0
    score = played(exercise)
    assert score.lost == 1
    assert score.results[0].says.startswith("Lost: it clips by")
    assert score.results[0].harder.startswith("Baritone guitar played")
    assert score.grade == 1


def test_a_gain_left_down_is_kept_and_near_the_noise(right: Session) -> None:
    score = played(exercise_of(right, ("baritone_line",), 2))
    assert not score.lost
    assert not score.is_right
    assert score.results[0].worse_db > 4.0
    assert "nearer to the noise" in score.results[0].says
    assert score.grade == 2


def test_the_song_is_as_much_harder_as_it_says(right: Session) -> None:
    exercise = put_right(exercise_of(right, ("baritone_line",), 4), ("baritone_line",))
    control = gain(exercise, "baritone_line")
    exercise = to(exercise, control, control.minimum)
    _, shown = shown_in_test(exercise)
    result = played(exercise).results[0]
    assert shown[0].peak_dbfs is not None
    assert result.peak_dbfs is not None
    # The meter is read to the decibel.
    over = exercise.over_db["baritone"]
    assert result.peak_dbfs - shown[0].peak_dbfs == pytest.approx(over, abs=0.6)
    assert 2.0 <= over <= 9.0


def test_every_signal_that_arrives_can_be_set(right: Session) -> None:
    lines = [key for key, _ in settable_lines(right)]
    assert "voice" in lines
    assert "organ_l" in lines
    assert settable_lines(Session()) == ()


def test_knobs_are_told_as_a_person_reads_them(right: Session) -> None:
    said = {
        one.control.name: one.says for one in knobs_of(exercise_of(right, ("voice",), 1), "voice")
    }
    assert said["gain_db"] == "about 7 o’clock"
    assert said["distance_m"].endswith(" cm")


@given(st.floats(7.0, 17.0), st.floats(20.0, 70.0), st.floats(-20.0, 0.0))
def test_the_gain_of_an_hour_is_told_as_that_hour(hour: float, span: float, low: float) -> None:
    control = Control(
        owner="a", channel="in", name="gain_db", label="Gain", kind="range", value=low, effect="",
        minimum=low, maximum=low + span, is_dial=True,
    )  # fmt: skip
    assert dial_hour(control, gain_of_hour(control, hour)) == pytest.approx(hour, abs=0.02)
