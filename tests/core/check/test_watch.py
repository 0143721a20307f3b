"""Listening in: what happens is marked once, at its time, on its signal; what does not, is not."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests.core.check.test_guide import RATE_HZ, tone
from tests.core.check.test_learning import WELL, take_of
from verve.core.check import Mark, Watch, mark_text, reference_of
from verve.core.session import add_take, edit_take
from verve.core.units import FloatArray

BLOCK = 2048


def playing(seconds: float, dbfs: float = -15.0) -> FloatArray:
    """Two lines: a player with rests, and one that only hears a little of it."""
    t = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    rng = np.random.default_rng(3)
    own = (
        tone(seconds, dbfs) * (np.sin(2.0 * np.pi * t / 6.0) > -0.5) * (0.7 + 0.3 * np.sin(3.0 * t))
    )
    return np.asarray(np.stack([own, own * 0.03]) + 1e-4 * rng.standard_normal((2, len(t))))


def watched(samples: FloatArray, **more: object) -> tuple[Watch, list[Mark]]:
    watch = Watch(lines=("voice", "harp"), rate_hz=RATE_HZ, **more)  # type: ignore[arg-type]
    marks: list[Mark] = []
    for at in range(0, samples.shape[1], BLOCK):
        marks += watch.feed(samples[:, at : at + BLOCK])
    return watch, [*marks, *watch.end()]


def test_clean_playing_leaves_no_mark() -> None:
    watch, marks = watched(playing(40.0), references={"voice": ("Take 1", -14.0)})
    assert marks == []
    assert watch.seconds == pytest.approx(40.0)
    assert watch.has_played
    assert not watch.is_silent


def test_clipping_is_marked_once_where_it_was() -> None:
    samples = playing(30.0)
    samples[0, 12 * RATE_HZ : 12 * RATE_HZ + 4000] = np.clip(
        samples[0, 12 * RATE_HZ : 12 * RATE_HZ + 4000] * 60.0, -1.0, 1.0
    )
    _, marks = watched(samples)
    assert [(one.line, one.kind) for one in marks if one.kind == "clipped"] == [
        ("voice", "clipped")
    ]
    assert marks[0].at_s == pytest.approx(12.0, abs=0.1)


@pytest.mark.parametrize("at_s", [3.0, 9.99, 10.5, 21.0])
def test_a_drop_out_is_found_wherever_it_lies_and_once(at_s: float) -> None:
    samples = playing(30.0)
    samples[:, :] = np.stack([tone(30.0, -15.0), tone(30.0, -45.0)])
    begin = round(at_s * RATE_HZ)
    samples[0, begin : begin + 700] = 0.0
    _, marks = watched(samples)
    gaps = [one for one in marks if one.kind == "dropout"]
    assert len(gaps) == 1
    assert gaps[0].at_s == pytest.approx(at_s, abs=0.01)
    assert gaps[0].amount == pytest.approx(700, abs=8)


def test_hum_that_begins_is_marked_and_hum_that_was_there_is_not() -> None:
    samples = playing(60.0)
    hum = 0.004 * np.sin(2.0 * np.pi * 50.0 * np.arange(samples.shape[1]) / RATE_HZ)
    later = samples.copy()
    later[0, 30 * RATE_HZ :] += hum[30 * RATE_HZ :]
    _, marks = watched(later)
    (mark,) = [one for one in marks if one.kind == "hum"]
    assert mark.amount == 50.0
    assert 20.0 <= mark.at_s <= 45.0
    _, marks = watched(samples + hum * np.array([[1.0], [0.0]]))
    assert [one for one in marks if one.kind == "hum"] == []


def test_levels_are_held_against_the_last_good_take() -> None:
    _, marks = watched(playing(30.0), references={"voice": ("Take 3", -22.0)})
    (mark,) = marks
    assert (mark.kind, mark.line) == ("louder", "voice")
    assert mark.amount >= 4.0
    _, marks = watched(playing(30.0), references={"voice": ("Take 3", -6.0)})
    (mark,) = marks
    assert mark.kind == "quieter"
    assert mark.amount == pytest.approx(9.0, abs=1.0)


def test_nothing_but_zeros_is_silence_and_a_rest_is_none() -> None:
    watch = Watch(lines=("voice", "harp"), rate_hz=RATE_HZ)
    watch.feed(playing(5.0))
    assert not watch.has_stopped_playing
    watch.feed(1e-4 * np.random.default_rng(1).standard_normal((2, 3 * RATE_HZ)))
    assert watch.has_stopped_playing
    assert not watch.is_silent
    watch.feed(np.zeros((2, 4 * RATE_HZ)))
    assert watch.is_silent
    watch.feed(playing(1.0))
    assert not watch.is_silent
    (lost,) = watch.lost()
    assert lost.kind == "lost"


def test_the_last_good_take_is_the_one_that_is_rated_so() -> None:
    assert reference_of(WELL, "voice") is None
    session = WELL
    for number in (1, 2, 3):
        session = add_take(session, take_of(WELL, WELL, "voice", number=number))
    assert (reference_of(session, "voice") or ("",))[0] == "Take 3"
    session = edit_take(session, "take_2", rating=4)
    assert (reference_of(session, "voice") or ("",))[0] == "Take 2"
    (track,) = session.takes[1].tracks
    clipped = session.takes[1].model_copy(update={"tracks": (replace(track, clipped_frames=3),)})
    session = session.model_copy(update={"takes": (session.takes[0], clipped, session.takes[2])})
    assert (reference_of(session, "voice") or ("",))[0] == "Take 3"


def test_marks_are_sentences_with_their_time() -> None:
    for mark, said in (
        (Mark(at_s=75.2, line="voice", kind="clipped"), "1:15  Voice clipped."),
        (
            Mark(at_s=5.0, line="voice", kind="dropout", amount=700),
            "0:05  Voice has a drop-out of 700 samples.",
        ),
        (
            Mark(at_s=5.0, line="voice", kind="hum", amount=50.0),
            "0:05  Voice hums with 50 Hz since then.",
        ),
        (
            Mark(at_s=0.0, line="voice", kind="louder", amount=6.2),
            "0:00  Voice is 6 dB louder than in Take 3.",
        ),
    ):
        assert mark_text(mark, "Voice", ("Take 3", -8.0)) == said
