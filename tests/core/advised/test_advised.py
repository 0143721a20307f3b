"""Somebody else's advice: what is read from it, and what it means for one signal."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verve.core.advised import BODY_M, Meaning, meanings_of, understood
from verve.core.assess import assess
from verve.core.demo import demo_session
from verve.core.gain import gain_of_hour, windows_of
from verve.core.hunt import practice_session
from verve.core.network import line_states
from verve.core.session import Session, apply_changes


@pytest.fixture(scope="module")
def right() -> Session:
    return practice_session(demo_session())


def one(session: Session, text: str, line: str = "voice") -> Meaning:
    return meanings_of(session, line, text)[0]


@pytest.mark.parametrize(
    ("text", "what", "value"),
    [
        ("−18 on the meter", "level", -18.0),
        ("keep it around -18", "level", -18.0),
        ("peaks at 12", "level", -12.0),
        ("never above -6 dB", "level", -6.0),
        ("half past three", "hour", 15.5),
        ("at 3 o’clock", "hour", 15.0),
        ("quarter past ten", "hour", 10.25),
        ("quarter to two", "hour", 13.75),
        ("10:30", "hour", 10.5),
        ("at noon", "hour", 12.0),
        ("half way up", "hour", 12.0),
        ("all the way up", "hour", 17.0),
        ("three quarters", "hour", 14.5),
        ("one fist away", "distance", 0.10),
        ("two fists", "distance", 0.20),
        ("a hand’s span", "distance", 0.20),
        ("three fingers from the grille", "distance", 0.06),
        ("30 cm", "distance", 0.30),
        ("0,5 m", "distance", 0.50),
        ("six inches", "distance", 0.1524),
        ("just touching the yellow lamp", "lamp", -12.0),
        ("never in the red", "lamp", -4.0),
        ("128 samples", "buffer", 128.0),
        ("a buffer of 64", "buffer", 64.0),
        ("gain at 30", "gain", 30.0),
        ("40 dB of gain", "gain", 40.0),
        ("pad in", "pad", 1.0),
        ("take the pad out", "pad", 0.0),
    ],
)
def test_what_people_say_is_read(text: str, what: str, value: float) -> None:
    found = understood(text)
    assert found is not None
    if text == "take the pad out":
        assert found.what == "pad"
        return
    assert found.what == what
    assert found.value == pytest.approx(value)


@pytest.mark.parametrize("text", ["", "hello", "make it warmer", "six o’clock"])
def test_what_means_nothing_here_is_said_so(right: Session, text: str) -> None:
    assert understood(text) is None
    assert "Try “" in one(right, text).verdict


@given(st.text(max_size=60))
def test_any_text_is_read_without_falling_over(text: str) -> None:
    found = understood(text)
    assert found is None or found.said


def test_minus_18_is_two_different_things(right: Session) -> None:
    peaks, average = meanings_of(right, "voice", "−18 on the meter")
    state = next(s for s in line_states(right.setup) if s.line.id == "voice")
    over = state.crest_db + state.playing.hardest_db - state.playing.typical_db
    assert peaks.peak_dbfs == pytest.approx(-18.0, abs=0.1)
    assert not peaks.suits
    assert any(f"{-18.0 + over:+.0f} dBFS" in said for said in average.says)
    assert average.suits is False


def test_through_a_mixer_its_own_meter_is_a_third_thing(right: Session) -> None:
    found = meanings_of(right, "organ_l", "−6 on the meter")
    assert len(found) == 3
    assert found[2].taken.startswith("Taken as the meter of Small mixer")
    louder = meanings_of(right, "organ_l", "0 on the meter")[2]
    assert louder.peak_dbfs is not None
    assert found[2].peak_dbfs is not None
    assert louder.peak_dbfs - found[2].peak_dbfs == pytest.approx(6.0, abs=0.1)


def test_what_is_said_of_a_level_is_so_when_it_is_set(right: Session) -> None:
    for text, line in (("peaks at -12", "voice"), ("peaks at -8", "baritone_line")):
        found = one(right, text, line)
        after = assess(apply_changes(right, found.changes)).line(line)
        assert after is not None
        assert after.state.peak_dbfs == pytest.approx(found.peak_dbfs, abs=0.1)
        window = windows_of([after.state], right.setup)[line]
        fits = window.lowest_dbfs - 0.5 <= (found.peak_dbfs or 0.0) <= window.highest_dbfs + 0.5
        assert found.suits == fits


def test_an_hour_is_the_gain_of_this_knob(right: Session) -> None:
    found = one(right, "half past three")
    (change,) = found.changes
    state = next(s for s in line_states(right.setup) if s.line.id == "voice")
    control = state.level_control()
    assert control is not None
    assert change.value == pytest.approx(gain_of_hour(control, 15.5))
    assert found.suits is False
    assert "clips" in found.verdict
    assert "a guess" in found.says[0]


def test_the_same_hour_suits_one_signal_and_not_another(right: Session) -> None:
    verdicts = {
        line.id: one(right, "quarter past nine", line.id).suits for line in right.setup.lines
    }
    assert len(set(verdicts.values())) > 1


def test_a_fist_is_told_in_centimetres_as_typical(right: Session) -> None:
    found = one(right, "one fist away")
    assert f"{BODY_M['fist'] * 100:.0f} cm (typical" in found.says[0]
    assert found.suits
    near = one(right, "two fingers")
    assert near.suits is False
    assert "p and b thump" in near.verdict


def test_a_distance_means_nothing_for_what_goes_by_wire(right: Session) -> None:
    assert "no microphone" in one(right, "one fist away", "baritone_line").verdict


def test_a_buffer_is_judged_by_who_hears_and_what_the_computer_bears(right: Session) -> None:
    assert one(right, "a buffer of 16").verdict != one(right, "128 samples").verdict
    assert one(right, "128 samples").suits


def test_a_pad_that_is_not_there_is_said_so(right: Session) -> None:
    assert one(right, "pad in").verdict == "Voice has no pad."
    padded = one(right, "pad in", "baritone_line")
    assert padded.peak_dbfs is not None
    now = next(s for s in line_states(right.setup) if s.line.id == "baritone_line").peak_dbfs
    assert now is not None
    assert padded.peak_dbfs == pytest.approx(now - 20.0, abs=1.6)
