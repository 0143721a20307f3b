"""Comparing in the real window: ticked, matched, heard at a key, voted blind, logged."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from tests.app.conftest import finished
from tests.conftest import follow
from tests.core.check.test_compare import phrase
from tests.core.check.test_learning import take_of
from verve.app.hearing import SilentOutput
from verve.app.player import Player
from verve.app.views.check.compare import ComparePage
from verve.app.window import MainWindow
from verve.core.session import Session, add_take


@pytest.fixture
def page(window: MainWindow, tmp_path: Path) -> Iterator[ComparePage]:
    """Three takes of the voice, each with a file, and a player that nobody hears."""
    session: Session = follow(window.document.session)
    for number, dbfs in enumerate((-20.0, -12.0, -26.0), 1):
        candidate = phrase(tmp_path / f"{number}.wav", dbfs, 3.0)
        take = take_of(session, session, "voice", number=number)
        (track,) = take.tracks
        from dataclasses import replace

        take = take.model_copy(update={"tracks": (replace(track, file=str(candidate.path)),)})
        session = add_take(session, take)
    window.document.replace(session, None, is_saved=True)
    window._player = Player(window.tasks, lambda rate: SilentOutput(rate, is_instant=False))
    window.document.select_line("voice")
    window.go("check")
    window.check.turn_to("Compare")
    yield window.check.compare
    window.player.stop()


def test_ticked_recordings_are_matched_and_heard_from_the_same_place(
    qtbot: QtBot, window: MainWindow, page: ComparePage
) -> None:
    assert [one.name for one in page.chosen()] == ["Take 1", "Take 2"]
    entry = page.list.item(2)
    assert entry is not None
    entry.setCheckState(Qt.CheckState.Checked)
    assert not page.log_button.isEnabled()
    qtbot.mouseClick(page.begin_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(page.hear) == 3, timeout=20_000)
    assert window.player.is_playing
    assert page.hear[0].text() == "A sounds"
    assert "dB" in page._names[1].text()
    assert "as it is" in page._names[2].text()
    qtbot.waitUntil(lambda: page._at_s > 0.2, timeout=10_000)
    page.setFocus()
    qtbot.keyClick(page, Qt.Key.Key_B)
    assert page.hear[1].text() == "B sounds"
    request = window.player.request
    assert request is not None
    assert request.start_s > 0.2
    qtbot.keyClick(page, Qt.Key.Key_Escape)
    assert not window.player.is_playing
    entry.setCheckState(Qt.CheckState.Unchecked)
    assert page._matched == ()


def test_blind_votes_are_counted_and_told_only_afterwards(
    qtbot: QtBot, window: MainWindow, page: ComparePage
) -> None:
    page.begin()
    qtbot.waitUntil(lambda: len(page.hear) == 2, timeout=20_000)
    page.blind.setChecked(True)
    assert all(not name.text() for name in page._names)
    for _ in range(6):
        assert page._ballot is not None
        # Whoever hears which is which, prefers the second.
        letter = page._ballot.order.index(1)
        qtbot.mouseClick(page.vote[letter], Qt.MouseButton.LeftButton)
        assert page.told.text().startswith("Round")
    page.title.setText("Two places")
    page.reason.setText("Warmer.")
    qtbot.mouseClick(page.log_button, Qt.MouseButton.LeftButton)
    (logged,) = window.document.session.comparisons
    assert (logged.title, logged.is_blind, logged.chosen) == ("Two places", True, 1)
    assert [one.votes for one in logged.compared] == [0, 6]
    assert page.told.text().startswith("Take 1: 0; Take 2: 6.")
    assert page.past.count() == 1
    page.past.setCurrentRow(0)
    qtbot.mouseClick(page.remove_button, Qt.MouseButton.LeftButton)
    assert window.document.session.comparisons == ()
    window.document.undo()
    assert page.past.count() == 1


def test_a_recording_that_is_gone_is_told(window: MainWindow, page: ComparePage) -> None:
    page._candidates[0].path.unlink()
    page.begin()
    finished(window)
    assert "1.wav" in window.message()
    assert not page.log_button.isEnabled()


def test_another_signal_lists_other_recordings(window: MainWindow, page: ComparePage) -> None:
    window.document.select_line("harp_left")
    assert page.list.count() == 0
    assert not page.begin_button.isEnabled()
    assert "Record takes" in page.says._whole
