"""Rehearsals and what is kept of them."""

from __future__ import annotations

from pathlib import Path

import pytest
import soundfile
from PyQt6.QtCore import QPoint, Qt
from pytestqt.qtbot import QtBot

from tests.app.conftest import open_file
from tests.conftest import follow
from tests.core.session.test_snapshots import broken_file
from verve.app.window import MainWindow


@pytest.fixture
def ready(window: MainWindow) -> MainWindow:
    """The mended demo, in Check, with two lines chosen and short takes."""
    window.document.replace(follow(window.document.session), None, is_saved=True)
    window.go("check")
    window.check.turn_to("Rehearsal")
    for box in window.check.rehearse.boxes:
        if box.text() not in {"Voice", "Harp left"}:
            box.click()
    window.check.rehearse.seconds.setValue(3)
    return window


def record(qtbot: QtBot, window: MainWindow) -> None:
    with qtbot.waitSignal(window.rehearsal.recorded, timeout=60_000):
        qtbot.mouseClick(window.check.rehearse.record_button, Qt.MouseButton.LeftButton)


def test_only_the_chosen_lines_play(ready: MainWindow) -> None:
    assert ready.check.rehearse.chosen_lines() == ("voice", "harp_left")


def test_without_a_chosen_line_nothing_can_be_recorded(ready: MainWindow) -> None:
    for box in ready.check.rehearse.boxes:
        if box.isChecked():
            box.click()
    assert not ready.check.rehearse.record_button.isEnabled()
    assert not ready.check.rehearse.listen_button.isEnabled()


def test_a_take_is_measured_compared_and_logged(qtbot: QtBot, ready: MainWindow) -> None:
    record(qtbot, ready)
    (take,) = ready.document.session.takes
    assert [track.name for track in take.tracks] == ["Voice", "Harp left"]
    table = ready.check.rehearse.table
    assert table.rowCount() == 2
    cells = [table.item(0, column).text() for column in range(table.columnCount())]  # type: ignore[union-attr]
    assert cells[0] == "Voice"
    assert float(cells[1].replace("−", "-")) == pytest.approx(-7.8, abs=1.0)
    assert cells[6] == "0"
    assert cells[7] == "Nothing: it is as computed."
    assert ready.check.rehearse.grains[0].highest_dbfs == pytest.approx(-7.8, abs=1.0)
    assert ready.check.rehearse.grains[3].highest_dbfs is None
    assert ready.undo_action.text() == "&Undo log of Take 1"


def test_takes_lie_beside_the_session_once_it_has_a_file(
    qtbot: QtBot, ready: MainWindow, tmp_path: Path
) -> None:
    ready.document.save(tmp_path / "evening.verve.json")
    record(qtbot, ready)
    (take,) = ready.document.session.takes
    assert Path(take.tracks[0].file) == tmp_path / "evening takes" / "Take 1" / "Voice.wav"


def test_a_recording_shows_progress_and_can_be_stopped(
    qtbot: QtBot, ready: MainWindow, own_home: Path
) -> None:
    ready.rehearsal._is_paced = True
    ready.check.rehearse.seconds.setValue(60)
    with qtbot.waitSignal(ready.rehearsal.progressed, timeout=30_000):
        qtbot.mouseClick(ready.check.rehearse.record_button, Qt.MouseButton.LeftButton)
    assert ready.check.rehearse.progress.isVisible()
    assert not ready.check.rehearse.record_button.isEnabled()
    assert ready.check.rehearse.stop_button.isEnabled()
    with qtbot.waitSignal(ready.rehearsal.recorded, timeout=10_000):
        qtbot.mouseClick(ready.check.rehearse.stop_button, Qt.MouseButton.LeftButton)
    assert ready.rehearsal.state == "idle"
    assert not ready.check.rehearse.progress.isVisible()
    (take,) = ready.document.session.takes
    assert take.ended == "stopped"
    assert 0.0 < take.seconds < 30.0
    for track in take.tracks:
        assert soundfile.info(track.file).duration == pytest.approx(take.seconds)
    ready.go("takes")
    assert "stopped after" in ready.takes.log._when.text()


def test_watching_shows_levels_and_follows_a_gain(qtbot: QtBot, ready: MainWindow) -> None:
    ready.check.rehearse.play.setCurrentIndex(ready.check.rehearse.play.findData("hardest"))
    qtbot.mouseClick(ready.check.rehearse.listen_button, Qt.MouseButton.LeftButton)
    grain = ready.check.rehearse.grains[0]
    qtbot.waitUntil(lambda: grain.highest_dbfs is not None, timeout=30_000)
    item = ready.document.assessment.line("voice")
    assert item is not None
    control = item.state.level_control()
    assert control is not None
    first = ready.rehearsal.current
    ready.document.set_control("gain", control, float(control.value or 0.0) - 6.0)
    assert ready.rehearsal.current > first, "a moved gain begins the watching anew"
    assert ready.rehearsal.state == "listening"
    qtbot.keyClick(ready, Qt.Key.Key_Escape)
    assert ready.rehearsal.state == "idle"


def test_a_disk_that_refuses_is_told(qtbot: QtBot, ready: MainWindow, tmp_path: Path) -> None:
    blocked = tmp_path / "blocked"
    blocked.write_text("")
    ready.check.rehearse._take_folder = lambda: blocked
    with qtbot.waitSignal(ready.rehearsal.failed, timeout=30_000):
        qtbot.mouseClick(ready.check.rehearse.record_button, Qt.MouseButton.LeftButton)
    assert "cannot be written" in ready.message()
    assert ready.rehearsal.state == "idle"
    assert ready.document.session.takes == ()


def test_the_recorder_can_be_set_and_set_back(ready: MainWindow) -> None:
    index = ready.check.rehearse.buffer.findData(512)
    ready.check.rehearse.buffer.setCurrentIndex(index)
    ready.check.rehearse.buffer.activated.emit(index)
    assert ready.document.session.setup.audio.buffer_frames == 512
    assert "21.3 ms" in ready.check.rehearse._round_trip.accessibleName()
    rules = [f.rule for f in ready.document.assessment.findings if f.severity != "know"]
    assert rules == ["buffer_large"]
    ready.undo_action.trigger()
    assert ready.check.rehearse.buffer.currentData() == 64


def test_takes_are_listed_newest_first_with_what_differs(qtbot: QtBot, ready: MainWindow) -> None:
    record(qtbot, ready)
    item = ready.document.assessment.line("voice")
    assert item is not None
    control = item.state.level_control()
    assert control is not None
    ready.document.set_control("gain", control, float(control.value or 0.0) + 2.0)
    record(qtbot, ready)
    ready.go("takes")
    assert ready.takes.log.list.count() == 2
    assert ready.takes.log.list.item(0).text().startswith("Take 2")  # type: ignore[union-attr]
    assert "gain +14 dB, was +12 dB" in ready.takes.log.before.text()
    assert ready.takes.log.now.text() == "Nothing: all is as it was."
    ready.takes.log.list.setCurrentRow(1)
    assert "gain +14 dB, was +12 dB" in ready.takes.log.now.text()
    assert not ready.takes.log.before.isVisible()
    qtbot.mouseClick(ready.takes.log.restore, Qt.MouseButton.LeftButton)
    assert ready.undo_action.text() == "&Undo settings of Take 1"
    assert ready.takes.log.now.text() == "Nothing: all is as it was."
    assert len(ready.document.session.takes) == 2


def test_a_take_is_named_rated_and_annotated(qtbot: QtBot, ready: MainWindow) -> None:
    record(qtbot, ready)
    ready.go("takes")
    takes = ready.takes.log
    takes.notes.setFocus()
    qtbot.keyClicks(takes.notes, "Rain on the roof")
    takes.name.setFocus()
    takes._leave_notes()
    takes.name.selectAll()
    qtbot.keyClicks(takes.name, "The one")
    qtbot.keyClick(takes.name, Qt.Key.Key_Return)
    takes.rating.activated.emit(5)
    (take,) = ready.document.session.takes
    assert (take.name, take.notes, take.rating) == ("The one", "Rain on the roof", 5)
    labels = [step.label for step in ready.document.history.done]
    assert labels[-3:] == ["notes of Take 1", "name of Take 1", "rating of The one"]


def test_a_take_off_the_list_keeps_its_files(qtbot: QtBot, ready: MainWindow) -> None:
    record(qtbot, ready)
    ready.go("takes")
    (take,) = ready.document.session.takes
    qtbot.mouseClick(ready.takes.log.remove, Qt.MouseButton.LeftButton)
    assert ready.document.session.takes == ()
    assert Path(take.tracks[0].file).exists()
    assert ready.takes.log.go_button.isVisible()
    ready.undo_action.trigger()
    assert ready.document.session.takes == (take,)


def test_without_takes_the_page_leads_to_check(qtbot: QtBot, window: MainWindow) -> None:
    window.go("takes")
    qtbot.mouseClick(window.takes.log.go_button, Qt.MouseButton.LeftButton)
    assert window.step == "check"


def test_a_line_that_is_not_connected_cannot_be_chosen(window: MainWindow) -> None:
    session = window.document.session
    links = tuple(link for link in session.setup.links if link.id != "di_cable")
    setup = session.setup.model_copy(update={"links": links})
    window.document.replace(session.model_copy(update={"setup": setup}), None, is_saved=True)
    window.go("check")
    window.check.turn_to("Rehearsal")
    box = next(box for box in window.check.rehearse.boxes if box.text() == "Baritone guitar")
    assert not box.isEnabled()
    assert "baritone_line" not in window.check.rehearse.chosen_lines()
    assert not window.check.rehearse.grab(
        window.check.rehearse.rect().adjusted(0, 0, 0, 0)
    ).isNull()
    assert box.mapTo(window, QPoint(0, 0)).y() > 0


def test_a_take_whose_settings_nobody_can_read_is_told_and_shown(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    path = tmp_path / "night.verve.json"
    path.write_text(broken_file("no piece")[0], encoding="utf-8")
    told: list[str] = []
    window.files.told.connect(told.append)
    assert open_file(window, path)
    qtbot.waitUntil(lambda: bool(told), timeout=5000)
    assert told[0].startswith("What was set for Take 2 cannot be read")
    window.go("takes")
    assert window.takes.log.list.count() == 3
    window.takes.log.list.setCurrentRow(1)
    assert "cannot be read" in window.takes.log.now.text()
    assert not window.takes.log.restore.isEnabled()
    window.takes.log.list.setCurrentRow(2)
    assert "cannot be read" not in window.takes.log.now.text()
