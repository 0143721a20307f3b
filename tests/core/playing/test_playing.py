"""Ahead, behind, sharp, flat: told of sounds that were made so, phrase by phrase."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.measure.test_onsets import RATE_HZ, plucked
from tests.core.mix.recorded import song_of_two_sections, with_take
from verve.core.playing import (
    compare_double,
    held_notes,
    look,
    overall_cents,
    overall_ms,
    phrases_of,
    pitch_by_phrase,
    place_text,
    played_against,
    plays_single_notes,
    worth_hearing,
)
from verve.core.session import Session, Song, add_double, set_song
from verve.core.units import FloatArray

SONG = Song(tempo_bpm=120.0)


def sung_notes(cents: tuple[float, ...], seconds: float = 0.6) -> FloatArray:
    """Held notes with a few partials, each so far above its own."""
    found = []
    for number, off in enumerate(cents):
        hz = 220.0 * 2.0 ** ((2 * (number % 4) * 100.0 + off) / 1200.0)
        at = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
        edge = np.minimum(1.0, np.minimum(at, seconds - at) / 0.02)
        found.append(0.2 * edge * sum(np.sin(2.0 * np.pi * hz * h * at) / h for h in (1, 2, 3, 4)))
    return np.concatenate(found)


@settings(max_examples=8)
@given(late_ms=st.floats(-45.0, 45.0), seed=st.integers(0, 99))
def test_how_late_a_take_is_against_the_click(late_ms: float, seed: int) -> None:
    rng = np.random.default_rng(seed)
    times = 0.5 + 0.5 * np.arange(14) + late_ms / 1000.0 + rng.normal(0.0, 0.004, 14)
    phrases = played_against(plucked(times, 8.5, seed), RATE_HZ, 0.0, SONG)
    assert len(phrases) == 1
    assert overall_ms(phrases) == pytest.approx(late_ms, abs=6.0)


def test_the_phrase_that_drags_is_told_apart_from_the_one_that_does_not() -> None:
    first = 0.5 + 0.25 * np.arange(8)
    second = 4.0 + 0.25 * np.arange(8) + 0.035
    phrases = played_against(plucked(np.concatenate([first, second]), 7.0), RATE_HZ, 10.0, SONG)
    assert [one.late_ms for one in phrases] == pytest.approx([0.0, 35.0], abs=9.0)
    assert phrases[1].start_s == pytest.approx(14.035, abs=0.02)


def test_without_a_tempo_it_is_held_against_what_is_heard_under_it() -> None:
    beats = np.cumsum(np.random.default_rng(2).uniform(0.35, 0.6, 12))
    phrases = played_against(plucked(beats + 0.04, 8.0), RATE_HZ, 0.0, Song(), beats)
    assert overall_ms(phrases) == pytest.approx(40.0, abs=6.0)
    assert played_against(plucked(beats, 8.0), RATE_HZ, 0.0, Song()) == ()


def test_a_rest_begins_another_phrase() -> None:
    assert phrases_of(np.array([0.0, 0.3, 0.5, 2.0, 2.2])) == [(0, 3), (3, 5)]
    assert phrases_of(np.zeros(0)) == []


@settings(max_examples=6)
@given(cents=st.floats(-40.0, 40.0))
def test_how_far_off_its_notes_a_voice_is(cents: float) -> None:
    notes = held_notes(sung_notes((cents,) * 4), RATE_HZ, 0.0, 440.0)
    assert len(notes) == 4
    assert overall_cents(notes) == pytest.approx(cents, abs=3.0)


def test_the_flat_phrase_is_told_with_its_worst_note() -> None:
    rest = np.zeros(RATE_HZ)
    samples = np.concatenate(
        [sung_notes((0.0, 2.0, -2.0)), rest, sung_notes((-25.0, -24.0, -38.0))]
    )
    first, second = pitch_by_phrase(held_notes(samples, RATE_HZ, 5.0, 440.0), 0.6)
    assert abs(first.off_cents) < 4.0
    assert second.off_cents == pytest.approx(-25.0, abs=3.0)
    assert second.worst.cents == pytest.approx(-38.0, abs=3.0)
    assert second.start_s > 7.5


def test_of_chords_nothing_is_told() -> None:
    at = np.arange(3 * RATE_HZ) / RATE_HZ
    chord = sum(
        np.sin(2.0 * np.pi * hz * h * at) / h
        for hz in (196.0, 246.9, 311.1, 370.0)
        for h in (1, 2, 3)
    )
    assert held_notes(0.1 * np.asarray(chord), RATE_HZ, 0.0, 440.0) == ()


def test_a_double_is_told_in_three_places_at_most() -> None:
    first = np.asarray(0.5 * np.arange(40), dtype=np.float64)
    double = first.copy()
    double[[4, 12, 13, 22, 34]] += np.array([0.04, 0.08, 0.09, -0.06, 0.049])
    places = worth_hearing(first, double, (), (), "natural")
    # The worst of neighbours, the farthest off first, in the order of the song.
    assert [round(place.at_s, 2) for place in places] == [6.59, 10.94, 17.05]
    assert [round(place.late_ms or 0.0) for place in places] == [90, -60, 49]
    assert [place_text(place) for place in places][1] == "0:10.9: the double is 60 ms ahead"
    assert worth_hearing(first, first, (), (), "tight") == ()
    assert len(worth_hearing(first, double, (), (), "loose")) == 2


def test_a_flat_note_of_a_double_is_worth_hearing() -> None:
    first = held_notes(sung_notes((0.0, 0.0, 0.0)), RATE_HZ, 0.0, 440.0)
    double = held_notes(sung_notes((0.0, 0.0, -42.0)), RATE_HZ, 0.0, 440.0)
    (place,) = worth_hearing(np.zeros(0), np.zeros(0), first, double, "natural")
    assert place.off_cents == pytest.approx(-42.0, abs=4.0)
    assert "flat" in place_text(place)


@pytest.fixture
def two(tmp_path: Path) -> Session:
    """A voice in time, and a double that drags in its second half."""
    session = song_of_two_sections()
    times = np.asarray(0.25 + 0.5 * np.arange(15), dtype=np.float64)
    session = with_take(session, tmp_path, 1, {"voice": plucked(times, 8.0)})
    doubled = add_double(session, "voice")
    late = np.asarray(times + np.where(times > 4.0, 0.045, 0.0), dtype=np.float64)
    return with_take(doubled, tmp_path, 2, {doubled.setup.lines[0].id: plucked(late, 8.0, 1)})


def test_takes_are_looked_at_from_their_files(two: Session) -> None:
    first, second = two.takes
    one = look(two, first, "voice")
    other = look(two, second, second.tracks[0].line)
    assert one is not None
    assert other is not None
    assert abs(one.late_ms or 0.0) < 8.0
    assert "In time." in one.text
    assert look(two, first, "harp_left") is None
    places = compare_double(two, (first, "voice"), (second, second.tracks[0].line), "natural")
    assert places
    assert all(place.at_s > 4.0 for place in places if place.late_ms is not None)


def test_a_take_of_a_section_is_looked_at_without_its_lead_in(tmp_path: Path) -> None:
    session = set_song(song_of_two_sections(), song_of_two_sections().song)
    # A count-in that nobody plays to, then a section from four to eight seconds.
    times = np.concatenate([[0.3, 0.9, 1.3], 2.0 + 0.5 * np.arange(8)])
    session = with_take(
        session, tmp_path, 1, {"voice": plucked(times, 6.5)}, start_s=2.0, section="chorus"
    )
    found = look(session, session.takes[0], "voice")
    assert found is not None
    assert found.late_ms == pytest.approx(0.0, abs=6.0)
    assert found.phrases[0].start_s == pytest.approx(4.0, abs=0.1)


def test_what_somebody_else_has_tuned_has_no_pitch_of_its_own(demo: Session) -> None:
    assert plays_single_notes(demo, "voice")
    assert plays_single_notes(demo, "cello_line")
    assert not plays_single_notes(demo, "organ_l")
    assert not plays_single_notes(demo, "nobody")
