"""A recording belongs to the session it was started from, and leaving it in mid-take asks."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.app.conftest import Answers, finished, open_file
from tests.conftest import follow
from tests.devices.test_lost_recordings import _killed
from verve.app.window import MainWindow
from verve.core.demo import demo_session
from verve.core.session import Session, load, rename_session, save

DOORS: dict[str, Callable[[MainWindow, Path], object]] = {
    "new": lambda window, _: window.files.new(),
    "open": lambda window, path: window.files.open_file(path),
    "demo": lambda window, _: window.files.open_demo(),
    "close": lambda window, _: window.close(),
}
"""Every way out of the open session."""


@pytest.fixture
def evening(window: MainWindow, tmp_path: Path) -> Path:
    """The file of the session that is open, mended."""
    path = tmp_path / "evening.verve.json"
    save(rename_session(follow(demo_session()), "Evening"), path)
    assert open_file(window, path)
    return path


@pytest.fixture
def recording(qtbot: QtBot, window: MainWindow, evening: Path) -> MainWindow:
    """A window in the middle of a long take."""
    window.rehearsal._is_paced = True
    window.go("check")
    window.check.rehearse.seconds.setValue(20)
    for box in window.check.rehearse.boxes:
        if box.isChecked() != (box.text() == "Voice"):
            box.click()
    with qtbot.waitSignal(window.rehearsal.progressed, timeout=30_000):
        window.check.rehearse.start_recording()
    return window


@pytest.fixture
def other(tmp_path: Path) -> Path:
    """Another session's file."""
    path = tmp_path / "other.verve.json"
    save(rename_session(Session(), "Other"), path)
    return path


@pytest.mark.parametrize("door", sorted(DOORS))
def test_leaving_in_mid_take_can_go_on(
    recording: MainWindow, answers: Answers, other: Path, door: str
) -> None:
    answers.will_be("Keep recording")
    DOORS[door](recording, other)
    assert answers.asked == ["A take is being recorded."]
    assert recording.rehearsal.state == "recording"
    assert recording.document.session.title == "Evening"
    assert recording.isVisible()


@pytest.mark.parametrize("door", sorted(DOORS))
def test_leaving_in_mid_take_can_keep_it(
    qtbot: QtBot, recording: MainWindow, answers: Answers, evening: Path, other: Path, door: str
) -> None:
    answers.will_be("Stop and keep")
    DOORS[door](recording, other)
    # The take makes the session unsaved: that is asked about next.
    answers.will_be("Save")
    qtbot.waitUntil(lambda: len(answers.asked) == 2, timeout=10_000)
    (take,) = load(evening).takes
    assert take.ended == "stopped"
    for track in take.tracks:
        assert Path(track.file).is_file()
    if door == "close":
        qtbot.waitUntil(lambda: not recording.isVisible())
    else:
        qtbot.waitUntil(lambda: recording.document.session.title != "Evening")
        assert recording.document.session.takes == ()


@pytest.mark.parametrize("door", sorted(DOORS))
def test_leaving_in_mid_take_can_discard_it(
    qtbot: QtBot, recording: MainWindow, answers: Answers, evening: Path, other: Path, door: str
) -> None:
    answers.will_be("Discard")
    DOORS[door](recording, other)
    finished(recording)
    assert load(evening).takes == ()
    assert not list(evening.parent.rglob("*.wav*"))
    if door == "close":
        qtbot.waitUntil(lambda: not recording.isVisible())
    else:
        assert recording.document.session.title != "Evening"


def test_a_take_never_goes_into_another_session(
    qtbot: QtBot, recording: MainWindow, evening: Path
) -> None:
    recording.document.replace(Session(), None, is_saved=True)
    with qtbot.waitSignal(recording.rehearsal.recorded, timeout=10_000):
        recording.rehearsal.stop()
    assert recording.document.session.takes == ()
    assert "belongs to a session that is no longer open" in recording.message()
    assert list(evening.parent.rglob("*.wav"))


def test_it_is_offered_where_it_belongs(
    qtbot: QtBot, recording: MainWindow, answers: Answers, evening: Path
) -> None:
    recording.document.replace(Session(), None, is_saved=True)
    with qtbot.waitSignal(recording.rehearsal.recorded, timeout=10_000):
        recording.rehearsal.stop()
    answers.will_be("Keep")
    assert open_file(recording, evening)
    qtbot.waitUntil(lambda: len(recording.document.session.takes) == 1, timeout=10_000)
    (take,) = recording.document.session.takes
    assert take.ended == "stopped"


def test_what_a_killed_program_recorded_is_offered(
    qtbot: QtBot, window: MainWindow, answers: Answers, evening: Path
) -> None:
    folder = evening.parent / "evening takes"
    _killed(load(evening), folder, 25)
    answers.will_be("Not now")
    assert open_file(window, evening)
    qtbot.waitUntil(lambda: len(answers.asked) == 1)
    finished(window)
    assert not window.document.session.takes
    answers.will_be("Keep")
    assert open_file(window, evening)
    qtbot.waitUntil(lambda: len(window.document.session.takes) == 1, timeout=10_000)
    assert window.document.session.takes[0].ended == "cut_off"
    assert "Verve ended unexpectedly" in window.message()
    finished(window)
    assert window.files.save()
    asked = len(answers.asked)
    assert open_file(window, evening)
    finished(window)
    assert len(answers.asked) == asked


def test_stopping_right_after_the_start_holds_nobody_up(
    qtbot: QtBot, window: MainWindow, evening: Path
) -> None:
    window.go("check")
    window.check.rehearse.seconds.setValue(3)
    for box in window.check.rehearse.boxes[1:]:
        if box.isChecked():
            box.click()
    window.check.rehearse.start_recording()
    window.rehearsal.stop()
    assert window.rehearsal.state == "recording", "it ends beside the window"
    qtbot.waitUntil(lambda: window.rehearsal.state == "idle", timeout=10_000)
    QApplication.processEvents()
    assert window.check.rehearse.record_button.isEnabled()
