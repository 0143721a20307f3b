"""Predicted and measured in the real window: the ranking, and accepting it with one press."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from tests.app.conftest import finished
from tests.conftest import follow
from tests.core.check.test_learning import louder, take_of
from verve.app.dialogs.explain import ExplainDialog
from verve.app.window import MainWindow
from verve.core.session import Session, add_take


@pytest.fixture
def told(window: MainWindow) -> Session:
    """The mended demo with a take in which the singer was six decibels softer."""
    session = follow(window.document.session)
    take = take_of(session, louder(session, "singer_voice", -6.0), "voice", noise_db=0.0)
    session = add_take(session, take)
    window.document.replace(session, None, is_saved=True)
    return session


def test_the_likeliest_stands_first_and_is_accepted_with_one_press(
    qtbot: QtBot, window: MainWindow, told: Session
) -> None:
    dialog = ExplainDialog(window.document, told.takes[0], "voice", window.tasks, window)
    qtbot.addWidget(dialog)
    dialog.show()
    finished(window)
    assert "6.0 dB quieter" in dialog.says.text()
    assert "−14.0 dBFS" in dialog.says.text()
    assert dialog.found[0].kind == "source"
    assert dialog.found[0].share > 0.5
    qtbot.mouseClick(dialog.accepts[0], Qt.MouseButton.LeftButton)
    source = next(s for s in window.document.session.setup.sources if s.id == "singer_voice")
    name = source.figures.level_figure
    assert source.figures.origin_of(name) == "measured"
    assert source.figures.wordings[name].startswith("in Take 1, ")
    assert not dialog.accepts[0].isEnabled()
    assert window.undo_action.text() == "&Undo loudness of Voice as measured"
    dialog.close()


@pytest.mark.parametrize("place", ["takes", "check"])
def test_it_is_opened_from_a_take_and_from_a_rehearsal(
    window: MainWindow, told: Session, place: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    shown: list[str] = []
    monkeypatch.setattr(
        ExplainDialog, "exec", lambda dialog: shown.append(dialog.track.currentData())
    )
    if place == "takes":
        window.go("takes")
        window.takes.log.explain.click()
    else:
        window.go("check")
        window.check.turn_to("Rehearsal")
        window.check.rehearse.explain_button.click()
    assert shown == ["voice"]
    finished(window)


def test_a_track_without_figures_says_so_and_a_missing_file_is_no_fault(
    qtbot: QtBot, window: MainWindow, told: Session
) -> None:
    from dataclasses import replace

    (track,) = told.takes[0].tracks
    empty = replace(track, peak_dbfs=replace(track.peak_dbfs, measured=None))
    take = told.takes[0].model_copy(update={"tracks": (empty,)})
    dialog = ExplainDialog(window.document, take, "voice", window.tasks, window)
    qtbot.addWidget(dialog)
    assert "nothing to compare" in dialog.says.text()
    assert not Path(track.file).exists()
    dialog.close()
