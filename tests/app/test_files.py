"""Files: open, save, recent, dropped, kept aside, taken up after a crash; nothing is ever lost."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QFileDialog, QLineEdit, QWidget
from pytestqt.qtbot import QtBot

from tests.app.conftest import Answers, finished, open_file
from tests.core.session.test_edits import take_of
from verve.app import last_resort
from verve.app.recovery import Recovery
from verve.app.settings import Settings
from verve.app.window import MainWindow
from verve.core.demo import demo_session
from verve.core.session import Session, add_take, load, rename_session, save, to_json


def change_title(window: MainWindow, title: str = "Changed") -> None:
    window.document.edit("title", lambda session: rename_session(session, title))


def test_the_title_shows_name_file_and_whether_it_is_saved(
    window: MainWindow, tmp_path: Path
) -> None:
    assert not window.isWindowModified()
    assert "no file yet" in window.windowTitle()
    assert "no file yet" in window._status.text()
    change_title(window)
    assert window.windowTitle() == "Changed (no file yet)[*] · Verve"
    assert window.isWindowModified()
    assert "not saved" in window._status.text()
    assert window.document.save(tmp_path / "night.verve.json")
    assert window.windowTitle() == "Changed (night)[*] · Verve"
    assert "  saved  " in window._status.text()
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
        ('{"format": "verve-session", "version": 11}', "newer than this Verve reads"),
        ("[]", "choose a session file"),
    ],
)
def test_a_file_that_cannot_be_opened_leaves_the_open_session(
    window: MainWindow, tmp_path: Path, content: str, said: str
) -> None:
    path = tmp_path / "bad.verve.json"
    path.write_text(content)
    before = window.document.session
    assert not open_file(window, path)
    assert window.document.session is before
    assert said in window.message()
    assert str(path) in window.message()


def test_a_dangling_link_is_told_with_its_place(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "bad.verve.json"
    save(demo_session(), path)
    data = json.loads(path.read_text())
    data["setup"]["links"][3]["end"] = "gone:in.1"
    path.write_text(json.dumps(data))
    assert not open_file(window, path)
    assert "must name a source or device of this session" in window.message()


def test_opened_files_are_recent_ones(window: MainWindow, tmp_path: Path) -> None:
    for name in ("one", "two"):
        path = tmp_path / f"{name}.verve.json"
        save(rename_session(demo_session(), name), path)
        assert open_file(window, path)
    window.files.fill_recent(window.recent_menu)
    shown = [action.text() for action in window.recent_menu.actions()]
    assert [Path(text).name for text in shown] == ["two.verve.json", "one.verve.json"]
    window.recent_menu.actions()[1].trigger()
    finished(window)
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
    finished(window)
    assert window.document.session.title == "Dropped"


def test_who_goes_on_while_a_file_is_read_is_asked(
    window: MainWindow, answers: Answers, tmp_path: Path
) -> None:
    path = tmp_path / "night.verve.json"
    save(rename_session(demo_session(), "Night"), path)
    window.files.open_file(path)
    change_title(window, "Not lost")
    answers.will_be("Cancel")
    finished(window)
    assert answers.asked == ["Not lost has changes that are not saved."]
    assert window.document.session.title == "Not lost"


def test_leaving_unsaved_work_asks_and_can_stay(window: MainWindow, answers: Answers) -> None:
    change_title(window)
    answers.will_be("Cancel")
    window.files.new()
    assert window.document.session.title == "Changed"
    assert answers.asked == ["Changed has changes that are not saved."]
    answers.will_be("Discard")
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
    answers.will_be("Cancel")
    assert not window.close()
    assert window.isVisible()


def _killed(settings: Settings, session: Session, path: Path | None = None) -> None:
    """What a program leaves that was killed while this session was open in it."""
    stamp = "None" if path is None else "stamp_of(path)"
    told = "None" if path is None else f"Path({str(path)!r})"
    code = (
        "import os, sys; from pathlib import Path; from verve.core.files import stamp_of\n"
        "from verve.app.recovery import Recovery; from verve.core.session import from_json\n"
        f"path = {told}\n"
        f"Recovery(Path({str(settings.state_folder)!r})).write("
        f"from_json(sys.stdin.read(), 'it'), path, {stamp})\n"
        "os.kill(os.getpid(), 9)"
    )
    subprocess.run([sys.executable, "-c", code], input=to_json(session), text=True, check=False)


@pytest.fixture
def second(window: MainWindow) -> Iterator[MainWindow]:
    """The window of the next start."""
    made = MainWindow(window._settings, is_paced=False)
    yield made
    made.document.replace(Session(), None, is_saved=True)
    made.close()
    made.deleteLater()


def _titled(title: str) -> Session:
    return rename_session(demo_session(), title)


def test_what_a_crash_left_is_taken_up(second: MainWindow, tmp_path: Path) -> None:
    _killed(second._settings, _titled("Before the crash"))
    assert not second.files.restore_left_behind(only=tmp_path / "another.verve.json")
    assert "Unsaved copies" in second.message()
    assert second.files.restore_left_behind()
    assert second.document.session.title == "Before the crash"
    assert second.isWindowModified()
    assert "ended unexpectedly" in second.message()
    second.tasks.wait()
    assert not second.files.restore_left_behind()


def test_a_copy_is_offered_though_its_process_number_is_in_use_again(
    second: MainWindow,
) -> None:
    folder = second._settings.state_folder
    folder.mkdir(parents=True, exist_ok=True)
    # As versions before this one kept it, under the number of a process that is running.
    (folder / f"unsaved-{os.getpid()}.verve.json").write_text(to_json(_titled("Old")))
    (folder / f"unsaved-{os.getpid()}.origin").write_text("")
    assert second.files.restore_left_behind()
    assert second.document.session.title == "Old"


def test_a_copy_of_another_file_hides_none(second: MainWindow, tmp_path: Path) -> None:
    own, other = tmp_path / "own.verve.json", tmp_path / "other.verve.json"
    for path in (own, other):
        save(_titled("Saved"), path)
    _killed(second._settings, _titled("Own"), own)
    _killed(second._settings, _titled("Other"), other)
    assert second.files.restore_left_behind(only=own)
    assert second.document.session.title == "Own"
    assert second.document.path == own
    second.tasks.wait()
    second.files.fill_copies(second.copies_menu)
    (listed,) = second.copies_menu.actions()
    assert listed.text().startswith("Other, ")


def test_a_newer_file_is_never_passed_over_unasked(
    second: MainWindow, answers: Answers, tmp_path: Path
) -> None:
    path = tmp_path / "evening.verve.json"
    save(_titled("Saved"), path)
    _killed(second._settings, _titled("Kept"), path)
    save(_titled("Newer"), path)
    answers.will_be("Open the file")
    assert not second.files.restore_left_behind(only=path)
    assert "a copy of Kept was kept" in answers.asked[-1]
    assert open_file(second, path)
    assert second.document.session.title == "Newer"
    answers.will_be("Open the copy")
    assert second.files.restore_left_behind(only=path)
    assert second.document.session.title == "Kept"
    answers.will_be("Keep both")
    assert second.files.save()
    assert load(path).title == "Newer"
    assert load(tmp_path / "evening (2).verve.json").title == "Kept"


@pytest.mark.parametrize("origin", ["\0", "[]", '{"file": 3}', "\ud7ff" * 40, ""])
@pytest.mark.parametrize("name", ["unsaved-².verve.json", "unsaved-.verve.json"])
def test_odd_names_and_origins_harm_nothing(tmp_path: Path, name: str, origin: str) -> None:
    (tmp_path / name).write_text(to_json(_titled("Odd")))
    (tmp_path / name.replace(".verve.json", ".origin")).write_text(origin)
    (found,) = Recovery(tmp_path).left_behind()
    assert found.session.title == "Odd"
    assert found.file_changed_at() is None


def test_an_unsaved_session_is_kept_aside_and_forgotten_once_saved(
    window: MainWindow, tmp_path: Path
) -> None:
    kept = window.files.recovery.copy
    change_title(window)
    assert window.files.keep_timer.isActive()
    window.files.keep()
    window.tasks.wait()
    assert load(kept).title == "Changed"
    window.document.save(tmp_path / "x.verve.json")
    window.tasks.wait()
    assert not kept.exists()
    assert list(kept.parent.iterdir()) == []
    assert not window.files.keep_timer.isActive()


def test_who_edits_without_a_rest_has_a_copy_all_the_same(qtbot: QtBot, window: MainWindow) -> None:
    window.files.keep_timer.setInterval(60)
    for number in range(12):
        change_title(window, f"Changed {number}")
        qtbot.wait(20)
    window.tasks.wait()
    assert load(window.files.recovery.copy).title.startswith("Changed")


def test_a_copy_of_a_running_program_or_a_broken_one_is_left_alone(tmp_path: Path) -> None:
    recovery = Recovery(tmp_path)
    recovery.write(demo_session(), None)
    assert recovery.left_behind() == ()
    assert Recovery(tmp_path).left_behind() == ()
    (tmp_path / "unsaved-3.verve.json").write_text("{")
    assert Recovery(tmp_path).left_behind() == ()
    assert Recovery(tmp_path / "none").left_behind() == ()
    recovery.forget()


# ── a file that something else writes too ─────────────────────────────────────────────────────
@pytest.fixture
def twice(window: MainWindow, tmp_path: Path) -> Path:
    """A file that is open here with changes, and was changed by something else meanwhile."""
    path = tmp_path / "evening.verve.json"
    save(_titled("First"), path)
    assert open_file(window, path)
    save(_titled("Theirs"), path)
    change_title(window, "Mine")
    return path


def _titles(folder: Path) -> dict[str, str]:
    return {p.name: load(p).title for p in folder.glob("*.verve.json")}


def test_cancel_writes_nothing(window: MainWindow, answers: Answers, twice: Path) -> None:
    answers.will_be("Cancel")
    assert not window.files.save()
    assert "was changed by something else" in answers.asked[-1]
    assert _titles(twice.parent) == {twice.name: "Theirs"}
    assert window.isWindowModified()


def test_both_versions_can_be_kept(window: MainWindow, answers: Answers, twice: Path) -> None:
    answers.will_be("Keep both")
    assert window.files.save()
    assert _titles(twice.parent) == {twice.name: "Theirs", "evening (2).verve.json": "Mine"}
    assert window.document.path == twice.with_name("evening (2).verve.json")


def test_overwriting_loses_no_version(window: MainWindow, answers: Answers, twice: Path) -> None:
    answers.will_be("Overwrite")
    assert window.files.save()
    assert sorted(_titles(twice.parent).values()) == ["Mine", "Theirs"]
    assert load(twice).title == "Mine"
    change_title(window, "Mine again")
    assert window.files.save()
    assert load(twice).title == "Mine again"


def test_the_other_version_can_be_reloaded(
    window: MainWindow, answers: Answers, twice: Path
) -> None:
    answers.will_be("Reload")
    assert not window.files.save()
    assert window.document.session.title == "Theirs"
    assert not window.isWindowModified()


def test_a_file_that_is_gone_is_written_anew(window: MainWindow, twice: Path) -> None:
    twice.unlink()
    assert window.files.save()
    assert load(twice).title == "Mine"


def test_a_name_that_is_no_text_is_opened_saved_and_remembered(
    window: MainWindow, tmp_path: Path
) -> None:
    path = tmp_path / os.fsdecode(b"caf\xe9.verve.json")
    save(_titled("First"), path)
    assert open_file(window, path)
    change_title(window, "Second")
    assert window.files.save()
    assert load(path).title == "Second"
    assert window._settings.recent()[0] == path
    window.files.fill_recent(window.recent_menu)
    window.windowTitle().encode()


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
        lambda: open_file(window, path),
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


# ── what stands in a field ────────────────────────────────────────────────────────────────────
def _type_into(qtbot: QtBot, field: QWidget, text: str) -> None:
    field.setFocus()
    if isinstance(field, QLineEdit):
        field.selectAll()
    qtbot.keyClicks(field, text)


def test_what_stands_in_a_focused_field_is_saved(
    qtbot: QtBot, window: MainWindow, tmp_path: Path
) -> None:
    path = tmp_path / "evening.verve.json"
    assert window.files.save_to(path)
    save_action = next(a for a, name in window.beside.listed if name == "Save")
    window.go("patch")
    _type_into(qtbot, window.patch.name, "Second voice")
    save_action.trigger()
    assert "Second voice" in {line.name for line in load(path).setup.lines}
    assert not window.isWindowModified()
    assert window.focusWidget() is window.patch.name
    window.go("brief")
    _type_into(qtbot, window.brief.rows[0].performer, "Somebody else")
    save_action.trigger()
    assert load(path).brief.parts[0].performer == "Somebody else"


def test_typing_is_asked_about_when_the_window_closes(
    qtbot: QtBot, window: MainWindow, answers: Answers, tmp_path: Path
) -> None:
    assert window.files.save_to(tmp_path / "evening.verve.json")
    window.go("patch")
    _type_into(qtbot, window.patch.name, "Half a name")
    answers.will_be("Cancel")
    assert not window.close()
    assert answers.asked


def test_the_notes_of_a_take_are_saved_while_they_are_written(
    qtbot: QtBot, window: MainWindow, tmp_path: Path
) -> None:
    window.document.edit("take", lambda session: add_take(session, take_of(session)))
    path = tmp_path / "evening.verve.json"
    window.go("takes")
    _type_into(qtbot, window.takes.log.notes, "second verse was the one")
    assert window.files.save_to(path)
    assert load(path).takes[-1].notes == "second verse was the one"


# ── what nobody foresaw ───────────────────────────────────────────────────────────────────────
def test_a_file_that_cannot_be_worked_out_leaves_the_open_session(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "odd.verve.json"
    save(_titled("Odd"), path)
    before = window.document.session

    def fails(*_: object) -> None:
        raise RecursionError("too deep")

    with monkeypatch.context() as patch:
        patch.setattr("verve.core.assess.assess", fails)
        assert not open_file(window, path)
    assert "cannot be worked out (RecursionError: too deep)" in window.message()
    assert window.document.session == before


def test_an_error_that_nobody_foresaw_ends_nothing(
    qtbot: QtBot, window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    monkeypatch.setattr(threading, "excepthook", threading.excepthook)
    resort = last_resort.install(window)
    change_title(window)
    for _ in range(3):
        try:
            raise KeyError("a slip")
        except KeyError as error:
            resort.take(type(error), error, error.__traceback__)
    assert "Something in Verve went wrong (KeyError: 'a slip')" in window.message()
    assert "A copy of your session is kept." in window.message()
    window.tasks.wait()
    assert load(window.files.recovery.copy).title == "Changed"
    log = (window.files.state_folder / "errors.log").read_text()
    assert log.count("KeyError: 'a slip'") == 3


def test_an_error_in_a_slot_does_not_abort_the_program(own_home: Path) -> None:
    code = (
        "from PyQt6.QtCore import QTimer; from verve.app import _run; from verve.app.window import MainWindow\n"
        "def slip(): raise RuntimeError('a slip')\n"
        "QTimer.singleShot(0, lambda: None)\n"
        "real = _run._after_first_paint\n"
        "def after(application, window, pulse):\n"
        "    real(application, window, pulse)\n"
        "    QTimer.singleShot(50, slip)\n"
        "    QTimer.singleShot(300, lambda: (print(window.message()), application.exit(7)))\n"
        "_run._after_first_paint = after\n"
        "raise SystemExit(_run.run(file=None, is_demo=True))"
    )
    done = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, check=False, timeout=60
    )
    assert done.returncode == 7, done.stderr
    assert "Something in Verve went wrong (RuntimeError: a slip)" in done.stdout


# ── dropped on the window ─────────────────────────────────────────────────────────────────────
def _drop(window: MainWindow, *urls: QUrl) -> None:
    data = QMimeData()
    data.setUrls(list(urls))
    event = QDropEvent(
        QPointF(5, 5),
        Qt.DropAction.CopyAction,
        data,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    window.dropEvent(event)


@pytest.mark.parametrize(
    ("names", "said"),
    [
        (("https://example.org/x.verve.json",), "Web addresses cannot be opened"),
        (("a.verve.json", "b.verve.json"), "One session at a time"),
        (("song.wav", "a.verve.json"), "a.verve.json is no sound file"),
        (("notes.txt",), "is no session and no sound"),
        (("folder",), "is a folder"),
    ],
)
def test_what_is_dropped_is_opened_or_refused_in_words(
    window: MainWindow, tmp_path: Path, names: tuple[str, ...], said: str
) -> None:
    before = window.document.session
    urls = []
    for name in names:
        if name.startswith("https"):
            urls.append(QUrl(name))
            continue
        path = tmp_path / name
        if name == "folder":
            path.mkdir()
        elif name.endswith(".verve.json"):
            save(_titled(name), path)
        else:
            path.write_text("something")
        urls.append(QUrl.fromLocalFile(str(path)))
    _drop(window, *urls)
    assert said in window.message()
    assert window.document.session == before


def test_a_kit_and_own_gear_say_where_they_belong(window: MainWindow, tmp_path: Path) -> None:
    for text, said in (
        ('{"format": "verve-kit", "version": 1, "kit": []}', "Brief, Kit"),
        ('{"format": "verve-gear", "version": 1, "entries": []}', "My gear"),
    ):
        path = tmp_path / "x.json"
        path.write_text(text)
        _drop(window, QUrl.fromLocalFile(str(path)))
        assert said in window.message()
