"""The whole patch on one page: sockets, keeping a line, moving it, asking why, what is wrong, paper."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.app.conftest import finished
from verve.app.dialogs.move_input import MoveInputDialog
from verve.app.dialogs.no_signal import TroubleDialog
from verve.app.window import MainWindow
from verve.core.session import Session

LONG_MS = 30_000


@pytest.fixture
def patched(qtbot: QtBot, window: MainWindow) -> MainWindow:
    """The demo with the way in that was found for its songs."""
    window.suggest_connections("evening")
    qtbot.waitUntil(lambda: not window.tasks.is_busy("connections"), timeout=LONG_MS)
    assert window.step == "patch"
    return window


def cells(window: MainWindow, column: int) -> list[str]:
    table = window.patch.page.table
    return [table.item(r, column).text() for r in range(table.rowCount())]  # type: ignore[union-attr]


def choose(window: MainWindow, name: str) -> None:
    window.patch.page.table.asked.emit(cells(window, 1).index(name))


def test_the_way_that_was_found_is_shown_whole(patched: MainWindow) -> None:
    page = patched.patch.page
    assert page.isVisible()
    assert [int(n) for n in cells(patched, 0)] == sorted(int(n) for n in cells(patched, 0))
    assert "Voice" in cells(patched, 1)
    assert any("→" in way for way in cells(patched, 3))
    said = page.sockets.accessibleDescription()
    assert "Interface" in said
    assert "free" in said
    page.sockets.grab()
    assert patched.undo_action.text() == "&Undo connections for The songs"


def test_a_row_pressed_says_why_it_goes_this_way(patched: MainWindow) -> None:
    choose(patched, "Voice")
    assert patched.document.line is not None
    assert patched.document.line.line.name == "Voice"
    rows = [row for row in patched.reason._asked._rows if not row.isHidden()]
    assert len(rows) >= 2
    assert "above the noise" in rows[0].accessibleDescription()
    assert "not taken" in rows[1].accessibleDescription()
    assert patched.patch.page._says.text().startswith("Voice:")


def test_a_kept_line_stays_when_a_way_is_sought_again(qtbot: QtBot, patched: MainWindow) -> None:
    choose(patched, "Voice")
    qtbot.mouseClick(patched.patch.page.buttons["Lock"], Qt.MouseButton.LeftButton)
    line = next(x for x in patched.document.session.setup.lines if x.name == "Voice")
    assert line.is_fixed
    assert "locked" in cells(patched, 5)
    qtbot.mouseClick(patched.patch.page.buttons["Suggest connections"], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not patched.tasks.is_busy("connections"), timeout=LONG_MS)
    again = next(x for x in patched.document.session.setup.lines if x.name == "Voice")
    assert again == line


def test_a_line_is_moved_to_another_socket_with_its_consequence(
    qtbot: QtBot, patched: MainWindow
) -> None:
    choose(patched, "Baritone guitar")
    before = patched.document.session
    seen: list[str] = []

    def move() -> None:
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, MoveInputDialog)
        while not dialog.is_ready:
            QApplication.processEvents()
        for row in range(dialog.table.rowCount()):
            where, what = dialog.table.item(row, 0), dialog.table.item(row, 1)
            assert where is not None
            assert what is not None
            seen.append(f"{where.text()}: {what.text()}")
        dialog.table.setCurrentCell(dialog.table.rowCount() - 1, 0)
        dialog.take.click()

    QTimer.singleShot(0, move)
    patched.patch.page.buttons["Move to another input…"].click()
    assert seen
    assert all(" line" in one or " microphone" in one or " instrument" in one for one in seen)
    assert any(" line: ⚠" in one for one in seen), "a pickup into a line input is told what it does"
    assert any("treble" in one for one in seen)
    assert patched.document.session != before
    patched.document.undo()
    assert patched.document.session == before


def test_no_signal_lists_causes_and_mends_what_the_session_knows(
    qtbot: QtBot, window: MainWindow
) -> None:
    window.go("patch")
    window.patch.tabs.setCurrentIndex(1)
    choose(window, "Voice")
    texts: list[str] = []

    def look() -> None:
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, TroubleDialog)
        qtbot.waitUntil(lambda: "delivers" in dialog.verdict.text(), timeout=LONG_MS)
        texts.append(dialog.verdict.text())
        dialog.remedies[0].click()
        qtbot.waitUntil(
            lambda: "delivers" in dialog.verdict.text() and dialog.verdict.text() != texts[0],
            timeout=LONG_MS,
        )
        texts.append(dialog.verdict.text())
        dialog.accept()

    QTimer.singleShot(0, look)
    window.patch.page.buttons["No signal?"].click()
    assert "nothing" in texts[0]
    assert "dBFS" in texts[1]
    assert window.undo_action.text() == "&Undo Switch phantom on"


def test_the_patch_on_paper_and_the_tracks_as_a_table(patched: MainWindow, tmp_path: Path) -> None:
    page = patched.patch.page
    for name in ("patch.csv", "patch.html", "patch.pdf"):
        page.put_on_paper(tmp_path / name)
        finished(patched)
    assert (tmp_path / "patch.pdf").read_bytes().startswith(b"%PDF")
    assert "☐" in (tmp_path / "patch.html").read_text(encoding="utf-8")
    rows = list(csv.reader((tmp_path / "patch.csv").read_text(encoding="utf-8").splitlines()))
    assert len(rows) > 7
    page.write_tracks(tmp_path / "tracks.csv")
    page.write_tracks(tmp_path / "tracks.txt")
    tracks = list(csv.reader((tmp_path / "tracks.csv").read_text(encoding="utf-8").splitlines()))
    assert tracks[0][:3] == ["track", "name", "colour"]
    assert "Voice" in (tmp_path / "tracks.txt").read_text(encoding="utf-8")
    (tmp_path / "folder.csv").mkdir()
    page.put_on_paper(tmp_path / "folder.csv")
    finished(patched)
    assert "cannot be written" in patched.message()
    page.put_on_paper(tmp_path / "patch.csv" / "below.pdf")
    finished(patched)
    assert patched.message()


def test_a_way_in_can_be_called_off(qtbot: QtBot, window: MainWindow) -> None:
    before = window.document.session
    window.suggest_connections("evening")
    window.patch.tabs.setCurrentIndex(1)
    window.patch.page.stop.click()
    assert not window.tasks.is_busy("connections")
    qtbot.wait(300)
    assert window.document.session == before


def test_a_change_meanwhile_is_not_overwritten(qtbot: QtBot, window: MainWindow) -> None:
    window.suggest_connections("evening")
    window.next_bar.button.click()
    changed = window.document.session
    qtbot.waitUntil(lambda: not window.tasks.is_busy("connections"), timeout=LONG_MS)
    assert window.document.session == changed
    assert "meanwhile" in window.message()


def test_without_a_brief_there_is_nothing_to_find(window: MainWindow) -> None:
    window.document.replace(Session(), None, is_saved=True)
    window.suggest_connections("")
    assert not window.tasks.is_busy("connections")


def test_pressing_the_whole_page_needs_no_brief(window: MainWindow) -> None:
    window.go("patch")
    window.patch.tabs.setCurrentIndex(1)
    choose(window, "Harp left")
    rows = [row for row in window.reason._asked._rows if not row.isHidden()]
    assert rows
    assert window.patch.page._says.isHidden()


def test_where_there_is_space_the_signal_and_the_whole_page_stand_side_by_side(
    qtbot: QtBot, window: MainWindow
) -> None:
    window.go("patch")
    view = window.patch
    assert view._full.isVisible()
    assert not view.page.isVisible()
    window.resize(2400, 1200)
    qtbot.waitUntil(view.page.isVisible)
    assert view._full.isVisible()
    assert not view.tabs.isVisible()
    assert view.page.table.rowCount() == len(window.document.assessment.lines)
    window.resize(1280, 800)
    qtbot.waitUntil(lambda: not view.page.isVisible())
    assert view.tabs.isVisible()
    assert view._full.isVisible()
