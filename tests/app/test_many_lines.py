"""Sessions with many lines and many takes: what is advised comes a moment later, what is left is let go of."""

from __future__ import annotations

import gc
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.app.conftest import finished, open_file
from tests.big_session import big_session, with_takes
from verve.app.window import MainWindow
from verve.core.demo import demo_session
from verve.core.session import Session, save
from verve.core.sheets import NOT_YET

_ADVICE = 7


@pytest.fixture
def many(window: MainWindow) -> MainWindow:
    """A window with more lines than are advised at once, and takes of all of them."""
    window.document.replace(with_takes(big_session(24), 2), None, is_saved=True)
    return window


def test_the_next_thing_of_many_lines_comes_when_it_is_proven(
    many: MainWindow, qtbot: QtBot
) -> None:
    document = many.document
    assert many.next_bar.sentence.text() != document.assessment.next.sentence
    qtbot.mouseClick(many.next_bar.button, Qt.MouseButton.LeftButton)
    many.next_bar.why_button.click()
    assert not document.history.done, "a press before it is proven does nothing"
    qtbot.waitUntil(lambda: not many.tasks.is_busy("advice"), timeout=10_000)
    finished(many)
    thing = document.assessment.next
    assert many.next_bar.sentence.text() == thing.sentence
    assert many.next_bar.button.text() == thing.button
    qtbot.mouseClick(many.next_bar.button, Qt.MouseButton.LeftButton)
    assert len(document.history.done) == 1


def test_a_long_take_says_line_by_line_what_to_change(many: MainWindow, qtbot: QtBot) -> None:
    many.go("check")
    many.check.turn_to("Rehearsal")
    table = many.check.rehearse.table

    def advice() -> list[str]:
        cells = [table.item(row, _ADVICE) for row in range(table.rowCount())]
        return [cell.text() for cell in cells if cell is not None]

    assert NOT_YET in advice()
    qtbot.waitUntil(lambda: NOT_YET not in advice(), timeout=20_000)
    assert len(advice()) == 24
    assert all(advice())


def test_a_session_that_is_left_is_let_go_of(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "many.verve.json"
    save(with_takes(demo_session(), 5, owner="interface"), path)

    def held() -> int:
        QApplication.processEvents()
        finished(window)
        gc.unfreeze()
        # What a finding works out later knows the lines that remember the finding: a circle, which is collected.
        gc.collect()
        return sum(isinstance(thing, Session) for thing in gc.get_objects())

    assert open_file(window, path)
    before = held()
    for _ in range(3):
        assert open_file(window, path)
    assert held() <= before
