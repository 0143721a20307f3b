"""A take is dialled in again by hand, and the log tells all of them."""

from __future__ import annotations

import csv
import io
from pathlib import Path

import pytest

from tests.core.mix.recorded import sung, sung_with_a_double, with_take
from tests.core.session.test_edits import take_of
from verve.core.session import (
    Audio,
    Change,
    Session,
    add_take,
    apply_changes,
    edit_take,
    move_input,
    restore_take,
    set_audio,
    set_control,
    set_hour,
    set_song,
)
from verve.core.sheets import (
    LOG_HEAD,
    compared_sessions,
    log_csv,
    log_html,
    log_markdown,
    recall_csv,
    recall_html,
    recall_items,
)

GAIN = Change(owner="interface", channel="in.1", name="gain_db", value=10.0)


@pytest.fixture
def recorded(demo: Session) -> Session:
    return add_take(demo, take_of(demo))


def test_everything_is_ticked_while_nothing_has_changed(recorded: Session) -> None:
    items = recall_items(recorded.takes[0], recorded)
    assert [item.words for item in items if not item.is_same] == [
        "Play the phrase: the loudest of Voice was −8.1 dBFS"
    ]
    words = [item.words for item in items]
    assert any("Inline preamp into Interface, input 1, 10 m" in one for one in words)
    assert any("gain +26 dB, about " in one or "gain +26 dB, between " in one for one in words)
    assert any("distance 12 cm" in one for one in words)
    assert "buffer 1024 samples" in words
    assert len({item.key for item in items}) == len(items)


def test_what_differs_is_set_back_one_by_one(recorded: Session) -> None:
    take = recorded.takes[0]
    moved = set_control(recorded, GAIN)
    moved = set_control(
        moved, Change(owner="voice_mic", channel="capsule", name="distance_m", value=0.3)
    )
    moved = set_audio(moved, Audio(buffer_frames=64))
    left = [item for item in recall_items(take, moved) if not item.is_same]
    assert {item.now for item in left} >= {"now +10 dB", "now 30 cm", "now 64 samples"}
    for item in left:
        if item.change is not None:
            moved = apply_changes(moved, (item.change,))
    words = [item.words for item in recall_items(take, moved) if not item.is_same]
    assert words == ["buffer 1024 samples", "Play the phrase: the loudest of Voice was −8.1 dBFS"]
    back = restore_take(moved, take.id)
    assert [x.words for x in recall_items(take, back) if not x.is_same][-1].startswith("Play")


def test_an_hour_that_was_read_is_told_as_it_was(demo: Session) -> None:
    session = set_hour(demo, "interface", "in.1", 13.5)
    session = add_take(session, take_of(session))
    words = [item.words for item in recall_items(session.takes[0], session)]
    assert any("gain +26 dB, at half past 1" in one for one in words)


def test_another_input_is_told_as_a_cable(recorded: Session) -> None:
    moved = move_input(recorded, "voice", "in.5", "microphone")
    left = [item for item in recall_items(recorded.takes[0], moved) if not item.is_same]
    assert any(item.now == "not plugged so" for item in left)
    assert all(item.change is None for item in left if item.now == "gone")


def test_the_level_of_the_phrase_says_that_it_is_as_it_was(demo: Session, tmp_path: Path) -> None:
    session = with_take(demo, tmp_path, 1, {"voice": sung(3.0)})
    alike = with_take(session, tmp_path, 2, {"voice": sung(3.0) * 0.95})
    assert recall_items(session.takes[0], alike)[-1].is_same
    softer = with_take(session, tmp_path, 2, {"voice": sung(3.0) * 0.4})
    item = recall_items(session.takes[0], softer)[-1]
    assert item.now.startswith("Take 2: −18.")
    assert item.now.endswith("−8.0 dB")


def test_the_sheet_goes_on_paper_and_into_a_table(recorded: Session) -> None:
    take = edit_take(recorded, "take_1", notes="Mind the <door>").takes[0]
    moved = set_control(recorded, GAIN)
    page = recall_html(take, moved)
    assert "☑" in page
    assert "☐" in page
    assert "now +10 dB" in page
    assert "Mind the &lt;door&gt;" in page
    rows = list(csv.reader(io.StringIO(recall_csv(take, moved))))
    assert rows[0] == ["as it was", "signal", "what", "now"]
    assert len(rows) == len(recall_items(take, moved)) + 1


def test_the_log_tells_every_take_in_every_form(tmp_path: Path) -> None:
    session = edit_take(
        sung_with_a_double(tmp_path), "take_2", notes="a | b\n# no heading", rating=4
    )
    rows = list(csv.reader(io.StringIO(log_csv(session))))
    assert tuple(rows[0]) == LOG_HEAD
    assert [row[0] for row in rows[1:]] == ["Take 1"] * 3 + ["Take 2"]
    assert rows[-1][2] == "Voice double"
    text = log_markdown(session)
    assert text.count("## Take") == 2
    assert "> \\# no heading" in text
    assert "a \\| b" in text
    page = log_html(session)
    assert page.count("<h2>") == 2
    assert "4 of 5" in page


def test_the_log_tells_what_was_changed_before_a_take(recorded: Session) -> None:
    moved = set_control(recorded, GAIN)
    again = add_take(moved, take_of(moved, 2))
    assert "- Interface 1: gain +10 dB, was +26 dB" in log_markdown(again)


def test_two_sessions_are_compared_in_words(recorded: Session) -> None:
    assert compared_sessions(recorded, recorded) == ()
    other = set_song(
        set_control(recorded, GAIN), recorded.song.model_copy(update={"tempo_bpm": 92.0})
    )
    other = add_take(other, take_of(other, 2))
    told = compared_sessions(recorded, other)
    assert "Interface 1: gain +10 dB, was +26 dB" in told
    assert "tempo 92 bpm, was none" in told
    assert "1 takes more: Take 2" in told
