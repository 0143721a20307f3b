"""No signal, in the real window: from anywhere with one key, answered with one key, mended with one press."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.app.conftest import finished
from verve.app.dialogs.no_signal import TroubleDialog
from verve.app.window import MainWindow


@pytest.fixture
def dialog(qtbot: QtBot, window: MainWindow) -> TroubleDialog:
    """The search for the voice of the demo, which waits for phantom power."""
    made = TroubleDialog(window.document, "voice", window.tasks, window)
    qtbot.addWidget(made)
    made.show()
    return made


def test_keys_answer_and_each_answer_brings_another_question(
    qtbot: QtBot, window: MainWindow, dialog: TroubleDialog
) -> None:
    assert "level lamp" in dialog.question.text()
    first = dialog.question.text()
    qtbot.keyClick(dialog, Qt.Key.Key_N)
    assert dialog.question.text() != first
    assert dialog.trail.text() == f"{first} No."
    qtbot.mouseClick(dialog.back, Qt.MouseButton.LeftButton)
    assert dialog.question.text() == first
    qtbot.keyClick(dialog, Qt.Key.Key_Space)
    assert dialog.trail.text().endswith("Nobody knows.")
    dialog.answer(False)
    while dialog.found is not None and not dialog.found.is_found and dialog.found.question:
        dialog.answer(False)
    assert dialog.question.text().startswith("Look here first: ")
    assert not dialog.yes.isVisible()
    dialog.answer(True)
    finished(window)
    dialog.reject()


def test_what_the_session_knows_is_mended_and_asked_anew(
    qtbot: QtBot, window: MainWindow, dialog: TroubleDialog
) -> None:
    qtbot.keyClick(dialog, Qt.Key.Key_N)
    before = dialog.found
    assert dialog.remedies
    qtbot.mouseClick(dialog.remedies[0], Qt.MouseButton.LeftButton)
    assert window.undo_action.text() == "&Undo Switch phantom on"
    assert dialog.found is not before
    finished(window)
    dialog.reject()


def test_one_key_from_anywhere(window: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    shown: list[str] = []
    monkeypatch.setattr(TroubleDialog, "exec", lambda made: shown.append(made._line_id))
    (action,) = [a for a, name in window.beside.listed if name == "No signal?"]
    assert action.shortcut().toString() == "F9"
    for step in ("brief", "takes"):
        window.go(step)
        action.trigger()
    assert shown == ["voice", "voice"]
    QApplication.processEvents()
