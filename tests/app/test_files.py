"""Files: open, save, recent, dropped, kept aside, taken up after a crash; nothing is ever lost."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from tests.app.conftest import Answers
from verve.app.recovery import Recovery
from verve.app.settings import Settings
from verve.app.window import MainWindow
from verve.core.demo import demo_session
from verve.core.session import Session, load, rename_session, save


def change_title(window: MainWindow, title: str = "Changed") -> None:
    window.document.edit("title", lambda session: rename_session(session, title))


def test_the_title_shows_name_file_and_whether_it_is_saved(
    window: MainWindow, tmp_path: Path
) -> None:
    assert not window.isWindowModified()
    change_title(window)
    assert window.windowTitle() == "Changed (not saved yet)[*] · Verve"
    assert window.isWindowModified()
    assert "not saved" in window._status.text()
    assert window.document.save(tmp_path / "night.verve.json")
    assert window.windowTitle() == "Changed (night)[*] · Verve"
    assert not window.isWindowModified()


def test_undoing_to_what_was_saved_is_saved_again(window: MainWindow, tmp_path: Path) -> None:
    window.document.save(tmp_path / "night.verve.json")
    change_title(window)
    assert window.isWindowModified()
    window.undo_action.trigger()
    assert not window.isWindowModified()


def test_saving_asks_for_a_file_once_and_adds_the_ending(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    asked = []

    def answer(*_: object) -> tuple[str, str]:
        asked.append(1)
        return str(tmp_path / "night"), ""

    monkeypatch.setattr(QFileDialog, "getSaveFileName", answer)
    change_title(window)
    assert window.files.save()
    change_title(window, "Again")
    assert window.files.save()
    assert len(asked) == 1
    assert load(tmp_path / "night.verve.json").title == "Again"


def test_leaving_the_file_dialog_saves_nothing(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: ("", ""))
    change_title(window)
    assert not window.files.save()
    assert window.isWindowModified()


def test_a_place_that_cannot_be_written_is_told(window: MainWindow, tmp_path: Path) -> None:
    (tmp_path / "file").write_text("")
    change_title(window)
    assert not window.files.save_to(tmp_path / "file" / "x.verve.json")
    assert "cannot be written" in window.message()
    assert window.isWindowModified()


@pytest.mark.parametrize(
    ("content", "said"),
    [
        ("{", "its JSON breaks off"),
        ('{"format": "verve-session", "version": 9}', "newer than this Verve reads"),
        ("[]", "choose a session file"),
    ],
)
def test_a_file_that_cannot_be_opened_leaves_the_open_session(
    window: MainWindow, tmp_path: Path, content: str, said: str
) -> None:
    path = tmp_path / "bad.verve.json"
    path.write_text(content)
    before = window.document.session
    assert not window.files.open_file(path)
    assert window.document.session is before
    assert said in window.message()
    assert str(path) in window.message()


def test_a_dangling_link_is_told_with_its_place(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "bad.verve.json"
    save(demo_session(), path)
    data = json.loads(path.read_text())
    data["setup"]["links"][3]["end"] = "gone:in.1"
    path.write_text(json.dumps(data))
    assert not window.files.open_file(path)
    assert "must name a source or device of this session" in window.message()


def test_opened_files_are_recent_ones(window: MainWindow, tmp_path: Path) -> None:
    for name in ("one", "two"):
        path = tmp_path / f"{name}.verve.json"
        save(rename_session(demo_session(), name), path)
        assert window.files.open_file(path)
    window.files.fill_recent(window.recent_menu)
    shown = [action.text() for action in window.recent_menu.actions()]
    assert [Path(text).name for text in shown] == ["two.verve.json", "one.verve.json"]
    window.recent_menu.actions()[1].trigger()
    assert window.document.session.title == "one"
    (tmp_path / "two.verve.json").unlink()
    window.files.fill_recent(window.recent_menu)
    assert len(window.recent_menu.actions()) == 1


def test_a_dropped_file_is_opened(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "dropped.verve.json"
    save(rename_session(demo_session(), "Dropped"), path)
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    event = QDropEvent(
        QPointF(5, 5),
        Qt.DropAction.CopyAction,
        data,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    window.dropEvent(event)
    assert window.document.session.title == "Dropped"


def test_leaving_unsaved_work_asks_and_can_stay(window: MainWindow, answers: Answers) -> None:
    change_title(window)
    answers.will_be("Stay here")
    window.files.new()
    assert window.document.session.title == "Changed"
    assert answers.asked == ["Changed has changes that are not saved."]
    answers.will_be("Let them go")
    window.files.new()
    assert window.document.session == Session()
    assert window.step == "patch"


def test_leaving_can_save_first(
    window: MainWindow, answers: Answers, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    target = tmp_path / "kept.verve.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    change_title(window)
    answers.will_be("Save")
    window.files.open_demo()
    assert load(target).title == "Changed"
    assert window.document.session == demo_session()


def test_nothing_is_asked_when_nothing_is_lost(window: MainWindow, answers: Answers) -> None:
    window.files.new()
    window.files.open_demo()
    assert answers.asked == []


def test_closing_with_unsaved_work_can_be_called_off(window: MainWindow, answers: Answers) -> None:
    change_title(window)
    answers.will_be("Stay here")
    assert not window.close()
    assert window.isVisible()


def dead_process() -> int:
    done = subprocess.run(
        [sys.executable, "-c", "import os; print(os.getpid())"], capture_output=True, check=True
    )
    return int(done.stdout)


def test_what_a_crash_left_is_taken_up(window: MainWindow, tmp_path: Path) -> None:
    change_title(window, "Before the crash")
    window.files.keep()
    window.tasks.wait()
    state = window._settings.state_folder
    number = dead_process()
    for ending in (".verve.json", ".origin"):
        kept = state / f"unsaved-{os.getpid()}{ending}"
        kept.rename(state / f"unsaved-{number}{ending}")
    second = MainWindow(window._settings, is_paced=False)
    assert not second.files.restore_left_behind(only=tmp_path / "another.verve.json")
    assert second.files.restore_left_behind()
    assert second.document.session.title == "Before the crash"
    assert second.isWindowModified()
    assert "ended unexpectedly" in second.message()
    second.tasks.wait()
    assert not second.files.restore_left_behind()
    second.files.recovery.forget()
    second.document.replace(Session(), None, is_saved=True)
    second.close()
    second.deleteLater()


def test_an_unsaved_session_is_kept_aside_and_forgotten_once_saved(
    window: MainWindow, tmp_path: Path
) -> None:
    kept = window._settings.state_folder / f"unsaved-{os.getpid()}.verve.json"
    change_title(window)
    assert window.files.keep_timer.isActive()
    window.files.keep()
    window.tasks.wait()
    assert load(kept).title == "Changed"
    window.document.save(tmp_path / "x.verve.json")
    window.tasks.wait()
    assert not kept.exists()
    assert not window.files.keep_timer.isActive()


def test_a_copy_of_a_running_program_or_a_broken_one_is_left_alone(tmp_path: Path) -> None:
    recovery = Recovery(tmp_path)
    recovery.write(demo_session(), None)
    assert recovery.left_behind() is None
    (tmp_path / f"unsaved-{dead_process()}.verve.json").write_text("{")
    assert recovery.left_behind() is None
    assert Recovery(tmp_path / "none").left_behind() is None


def test_settings_survive_and_a_damaged_file_does_no_harm(tmp_path: Path) -> None:
    path = tmp_path / "a.verve.json"
    save(Session(), path)
    settings = Settings(tmp_path / "s")
    settings.remember(path)
    settings._kept.sync()
    assert Settings(tmp_path / "s").recent() == [path]
    (tmp_path / "s" / "verve.ini").write_bytes(b"\x00\xff[[[")
    assert Settings(tmp_path / "s").recent() == []


def test_a_copy_that_cannot_be_kept_aside_is_told(qtbot: QtBot, window: MainWindow) -> None:
    window._settings.folder.mkdir(parents=True, exist_ok=True)
    window._settings.state_folder.write_text("in the way")
    change_title(window)
    window.files.keep()
    qtbot.waitUntil(lambda: "cannot be written" in window.message(), timeout=5000)


def test_the_demo_appears_before_it_is_worked_out(qtbot: QtBot, tmp_path: Path) -> None:
    made = MainWindow(Settings(tmp_path / "s"), session=demo_session(), paints_first=True)
    assert made.next_bar.sentence.text() == "Opening Evening in the weaving shed …"
    assert not made.next_bar.button.isEnabled()
    assert made.lines.list.count() == 7
    made.show()
    qtbot.waitUntil(lambda: made._is_complete, timeout=5000)
    assert made.next_bar.sentence.text().startswith("Voice: switch phantom power on")
    assert made.step == "stage"
    made.close()
    made.deleteLater()


def test_opening_and_a_next_thing_are_drawn_once(
    qtbot: QtBot, window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    drawn: list[str] = []
    show = window.lines.show_lines

    def counted(*given: object) -> None:
        drawn.append("once")
        show(*given)  # type: ignore[arg-type]

    monkeypatch.setattr(window.lines, "show_lines", counted)
    path = tmp_path / "one.verve.json"
    save(window.document.session, path)
    for action in (
        lambda: window.files.open_file(path),
        window.files.new,
        window.show_demo,
        lambda: window._do_next(window.document.assessment.next),
        lambda: window.go("takes"),
        lambda: window._do_next(window.document.assessment.next),
    ):
        drawn.clear()
        action()
        assert drawn == ["once"], action
    window.document.replace(window.document.session, None, is_saved=True)
