"""Remembering in the window: a take dialled in again, the log exported, all of it in one folder."""

from __future__ import annotations

from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from tests.app.conftest import Answers, finished
from tests.core.mix.recorded import sung_with_a_double
from tests.core.recordings.test_collected import with_contents
from verve.app.dialogs.recall import RecallDialog
from verve.app.window import MainWindow
from verve.core.session import Change, save, set_control


@pytest.fixture
def recorded(window: MainWindow, tmp_path: Path) -> MainWindow:
    """Two takes, and a gain that was turned since."""
    session = with_contents(sung_with_a_double(tmp_path / "takes"))
    window.document.replace(session, None, is_saved=True)
    gain = Change(owner="interface", channel="in.1", name="gain_db", value=10.0)
    window.document.edit("gain", lambda now: set_control(now, gain))
    window.go("takes")
    return window


def test_a_take_is_dialled_in_again_and_put_on_paper(
    qtbot: QtBot, recorded: MainWindow, tmp_path: Path
) -> None:
    window = recorded
    log = window.takes.log
    log.list.setCurrentRow(1)
    log.recall.click()
    (dialog,) = window.takes.findChildren(RecallDialog)
    left = [i for i, item in enumerate(dialog.items) if not item.is_same]
    assert "still differ" in dialog._said.text()
    gain = next(i for i in left if "gain +26 dB" in dialog.items[i].words)
    assert not dialog.boxes[gain].isChecked()
    dialog.boxes[gain].click()
    assert dialog.boxes[gain].isChecked()
    window.undo_action.trigger()
    assert not dialog.boxes[gain].isChecked()
    dialog.all.click()
    assert dialog.boxes[gain].isChecked()
    for name in ("sheet.pdf", "sheet.html", "sheet.csv"):
        dialog.put_on_paper(tmp_path / name)
    finished(window)
    assert "☑" in (tmp_path / "sheet.html").read_text()
    assert (tmp_path / "sheet.pdf").read_bytes().startswith(b"%PDF")
    dialog.accept()


def test_the_log_is_exported_in_four_forms(recorded: MainWindow, tmp_path: Path) -> None:
    for name in ("log.pdf", "log.html", "log.md", "log.csv"):
        recorded.takes.log.put_on_paper(tmp_path / name)
    finished(recorded)
    assert (tmp_path / "log.md").read_text().startswith("# Evening in the weaving shed: takes")
    assert (tmp_path / "log.csv").read_text().startswith("take,recorded at")
    assert "<h2>Take 1</h2>" in (tmp_path / "log.html").read_text()
    assert (tmp_path / "log.pdf").exists()


def test_the_session_is_collected_and_lost_takes_are_found_when_it_is_opened(
    qtbot: QtBot, recorded: MainWindow, tmp_path: Path
) -> None:
    window = recorded
    window.gathering.collect(tmp_path / "collected")
    finished(window)
    assert "sound files beside it" in window.message()
    (file,) = (tmp_path / "collected").glob("*.verve.json")
    (tmp_path / "collected" / "Take 1").rename(tmp_path / "collected" / "moved")
    window.document.replace(window.document.session, None, is_saved=True)
    window.files.open_file(file)
    finished(window)
    finished(window)
    assert "found again in" in window.message()
    assert all(
        Path(track.file).exists() for take in window.document.session.takes for track in take.tracks
    )
    for lost in (tmp_path / "collected" / "moved").glob("*.wav"):
        lost.unlink()
    window.document.replace(window.document.session, None, is_saved=True)
    window.files.open_file(file)
    finished(window)
    finished(window)
    assert window.message().startswith("Missing: ")


def test_another_session_is_compared_in_words(
    recorded: MainWindow, answers: Answers, tmp_path: Path
) -> None:
    path = tmp_path / "other.verve.json"
    save(sung_with_a_double(tmp_path / "takes"), path)
    answers.will_be("Close")
    recorded.gathering.compare(path)
    finished(recorded)
    assert "In other one thing is different." in answers.asked[-1]
