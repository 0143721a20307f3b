"""Sound files in the window: dropped, read, assigned, heard from any place, lost and found again."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PyQt6.QtCore import QEvent, QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QApplication, QTableWidget
from pytestqt.qtbot import QtBot

from verve.app.hearing import NO_OUTPUT, Output, SilentOutput
from verve.app.settings import Settings
from verve.app.views.check.recordings import RecordingsPage
from verve.app.window import MainWindow
from verve.core.session import Sound, load
from verve.core.units import FloatArray

RATE_HZ = 48_000
outputs: list[SilentOutput] = []


def made_output(rate_hz: int) -> Output:
    outputs.append(SilentOutput(rate_hz, keeps=True, is_instant=True))
    return outputs[-1]


@pytest.fixture
def window(dressed: QApplication, qtbot: QtBot, tmp_path: Path) -> Iterator[MainWindow]:
    """The demo, with an output that keeps what it was given."""
    outputs.clear()
    made = MainWindow(Settings(tmp_path / "settings"), is_paced=False, find_output=made_output)
    made.resize(1280, 800)
    made.show_demo()
    made.show()
    qtbot.waitExposed(made)
    yield made
    made.importing.cancel()
    made.document.replace(made.document.session, None, is_saved=True)
    made.close()
    made.deleteLater()
    dressed.sendPostedEvents(made, QEvent.Type.DeferredDelete.value)


def written(path: Path, samples: FloatArray, rate_hz: int = RATE_HZ) -> Path:
    soundfile.write(path, samples, rate_hz, subtype="PCM_24" if path.suffix == ".wav" else None)
    return path


def playing(
    seconds: float = 4.0, level: float = 0.2, seed: int = 1, rate_hz: int = RATE_HZ
) -> FloatArray:
    """A second of noise, then a tone, clipped for a tenth of a second at its third second."""
    t = np.arange(round(seconds * rate_hz)) / rate_hz
    wave = 1e-4 * np.random.default_rng(seed).standard_normal(len(t))
    wave[rate_hz:] += level * np.sin(2.0 * np.pi * 220.0 * t[rate_hz:])
    hot = slice(3 * rate_hz, 3 * rate_hz + rate_hz // 10)
    wave[hot] = np.clip(9.0 * wave[hot], -0.9, 0.9)
    return wave


def drop(window: MainWindow, *paths: Path) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    action, button = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton
    window.dropEvent(
        QDropEvent(QPointF(5, 5), action, data, button, Qt.KeyboardModifier.NoModifier)
    )


def brought_in(window: MainWindow, qtbot: QtBot, *paths: Path) -> RecordingsPage:
    drop(window, *paths)
    qtbot.waitUntil(lambda: not window.importing.is_busy, timeout=30_000)
    return window.check.recordings


def column(table: QTableWidget, number: int) -> list[str]:
    """What stands in a column, from top to bottom."""
    cells = [table.item(row, number) for row in range(table.rowCount())]
    return [cell.text() for cell in cells if cell is not None]


def sounds(window: MainWindow) -> tuple[Sound, ...]:
    return window.document.session.sounds


def test_dropped_files_are_measured_assigned_and_shown(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    voice = written(tmp_path / "Voice take.wav", playing())
    backing = written(
        tmp_path / "Backing.flac", np.stack([playing(seed=2), playing(seed=3)], axis=1), 44_100
    )
    page = brought_in(window, qtbot, voice, backing)
    assert window.step == "check"
    assert page.isVisible()
    assert [(one.role, one.signals) for one in sounds(window)] == [
        ("take", ("voice",)),
        ("backing", ()),
    ]
    details = page.details
    assert details.signal.currentText() == "Voice"
    assert "by the file’s name" in details._guessed.accessibleName()
    assert "touches the ceiling" in column(details.places, 1)
    # White noise of 1e-4: −77 dBFS, some 2.8 dB less A-weighted up to 20 kHz.
    (noise,) = column(details.channels, 5)
    assert float(noise.replace("−", "-")) == pytest.approx(-79.8, abs=0.6)
    page.list.setCurrentRow(1)
    assert "converted to the session’s 48 kHz" in details._says.accessibleName()
    assert details.tabs.tabText(3) == "Backing track"
    assert not details.signal.isEnabled()


def test_bringing_in_is_one_step_that_can_be_undone(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    page = brought_in(
        window,
        qtbot,
        written(tmp_path / "a.wav", playing()),
        written(tmp_path / "b.wav", playing(seed=4)),
    )
    assert window.undo_action.text().replace("&", "") == "Undo import of 2 files"
    window.document.undo()
    assert sounds(window) == ()
    assert page.first_button.isVisible()
    window.document.redo()
    assert len(sounds(window)) == 2


def test_the_same_sound_comes_in_once(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    path = written(tmp_path / "a.wav", playing())
    brought_in(window, qtbot, path)
    brought_in(window, qtbot, Path(shutil.copy(path, tmp_path / "copy.wav")))
    assert len(sounds(window)) == 1
    assert window.message() == "Already in the session: a."


def bad_files(folder: Path) -> dict[str, Path]:
    good = written(folder / "good.wav", playing())
    cut = folder / "header only.wav"
    cut.write_bytes(good.read_bytes()[:30])
    broken = folder / "broken.flac"
    broken.write_bytes(b"fLaC" + bytes(range(256)) * 4)
    text = folder / "words.wav"
    text.write_text("no sound in here", encoding="utf-8")
    empty = folder / "empty.wav"
    empty.touch()
    wild = folder / "wild.wav"
    soundfile.write(wild, np.array([0.0, np.nan, 0.0]), RATE_HZ, subtype="FLOAT")
    none = folder / "none.wav"
    soundfile.write(none, np.zeros(0), RATE_HZ)
    pipe = folder / "pipe.wav"
    os.mkfifo(pipe)
    return {
        "pipe": pipe,
        "cut": cut, "broken": broken, "text": text, "empty": empty, "not finite": wild, "no frames": none,
        "gone": folder / "gone.wav",
    }  # fmt: skip


BAD = ("pipe", "cut", "broken", "text", "empty", "not finite", "no frames", "gone")


@pytest.mark.parametrize("kind", BAD)
def test_what_cannot_be_used_is_said_in_one_sentence_and_nothing_is_lost(
    window: MainWindow, qtbot: QtBot, tmp_path: Path, kind: str
) -> None:
    files = bad_files(tmp_path)
    before = window.document.session
    brought_in(window, qtbot, files[kind])
    assert window.document.session == before
    assert files[kind].name in window.message()
    # Beside it, what can be used comes in.
    brought_in(window, qtbot, files[kind], tmp_path / "good.wav")
    assert [one.name for one in sounds(window)] == ["good"]
    assert files[kind].name in window.message()


def test_silence_is_measured_as_such(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    page = brought_in(window, qtbot, written(tmp_path / "silence.wav", np.zeros(2 * RATE_HZ)))
    assert sounds(window)[0].figures.channels[0].peak_dbfs is None
    assert "silent" in page.details._says.accessibleName()
    assert not window.grab().isNull()


def test_reading_can_be_cancelled(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    long = written(tmp_path / "long.wav", np.tile(playing(10.0), 12))
    drop(window, long)
    page = window.check.recordings
    qtbot.waitUntil(lambda: page.progress.isVisible(), timeout=10_000)
    assert "Reading long.wav" in page.progress.format()
    qtbot.mouseClick(page.cancel_button, Qt.MouseButton.LeftButton)
    assert not window.importing.is_busy
    assert not page.progress.isVisible()
    assert sounds(window) == ()


def test_a_file_that_breaks_off_is_measured_and_says_so(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    whole = written(tmp_path / "whole.wav", playing(4.0))
    cut = tmp_path / "cut.wav"
    cut.write_bytes(whole.read_bytes()[: whole.stat().st_size // 2])
    page = brought_in(window, qtbot, cut)
    assert "The file breaks off: 2.0 s are missing" in page.details._says.accessibleName()


# ── heard ─────────────────────────────────────────────────────────────────────────────────────
def heard() -> FloatArray:
    return (
        np.concatenate(outputs[-1].played) if outputs and outputs[-1].played else np.zeros((0, 2))
    )


def test_a_place_that_is_pressed_is_heard_from_a_little_before(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    page = brought_in(window, qtbot, written(tmp_path / "a.wav", playing()))
    table = page.details.places
    row = column(table, 1).index("touches the ceiling")
    page.level.setValue(0)
    table.asked.emit(row)
    qtbot.waitUntil(lambda: not window.player.is_playing, timeout=10_000)
    # From half a second before the clipping at three seconds to the end at four.
    assert len(heard()) == pytest.approx(1.5 * RATE_HZ, abs=0.02 * RATE_HZ)
    assert np.abs(heard()[: RATE_HZ // 4]).max() < 0.3
    assert np.abs(heard()).max() == pytest.approx(0.9, abs=0.01)


def test_space_in_the_picture_plays_and_stops(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    page = brought_in(window, qtbot, written(tmp_path / "a.wav", np.tile(playing(), 5)))
    page.loop.setChecked(True)
    qtbot.keyClick(page.details.course, Qt.Key.Key_Space)
    assert window.player.is_playing
    assert page.listen_button.text() == "Stop"
    qtbot.waitUntil(lambda: page.details.course.place_s > 0.1, timeout=10_000)
    qtbot.keyClick(page.details.course, Qt.Key.Key_Space)
    assert not window.player.is_playing
    assert page.listen_button.text() == "Listen"
    page.listen()
    page.details.course.setFocus()
    qtbot.keyClick(page.details.course, Qt.Key.Key_Escape)
    assert not window.player.is_playing


def test_a_file_is_turned_down_to_the_loudness_of_another(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    steady = 0.2 * np.sin(2.0 * np.pi * 997.0 * np.arange(2 * RATE_HZ) / RATE_HZ)
    page = brought_in(
        window,
        qtbot,
        written(tmp_path / "loud.wav", steady),
        written(tmp_path / "soft.wav", 0.1 * steady),
    )
    page.level.setValue(0)
    page.match.setCurrentIndex(page.match.findText("as loud as soft"))
    page.listen()
    qtbot.waitUntil(lambda: not window.player.is_playing, timeout=10_000)
    assert np.abs(heard()).max() == pytest.approx(0.02, abs=0.0005)
    page.choose(sounds(window)[1].id)
    assert page.gain_db(sounds(window)[1]) == 0.0


def test_without_an_output_it_is_said_and_all_else_works(
    window: MainWindow, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    page = brought_in(window, qtbot, written(tmp_path / "a.wav", playing()))
    monkeypatch.setattr(window.player, "_find", lambda _: NO_OUTPUT)
    qtbot.mouseClick(page.listen_button, Qt.MouseButton.LeftButton)
    assert window.message() == NO_OUTPUT
    assert not window.player.is_playing
    qtbot.keyClick(page.details.course, Qt.Key.Key_PageDown)
    assert page.details.course.place_s == pytest.approx(0.4)


def test_the_picture_goes_by_keys_and_mouse(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    course = brought_in(window, qtbot, written(tmp_path / "a.wav", playing())).details.course
    for key, place in ((Qt.Key.Key_End, 4.0), (Qt.Key.Key_Home, 0.0), (Qt.Key.Key_Right, 0.04)):
        qtbot.keyClick(course, key)
        assert course.place_s == pytest.approx(place)
    qtbot.keyClick(course, Qt.Key.Key_Plus)
    assert course.end_s - course.begin_s == pytest.approx(2.0)
    qtbot.keyClick(course, Qt.Key.Key_0)
    assert (course.begin_s, course.end_s) == (0.0, 4.0)
    qtbot.keyClick(course, Qt.Key.Key_PageDown)
    qtbot.keyClick(course, Qt.Key.Key_BracketLeft)
    assert course.stretch == (pytest.approx(0.44), 4.0)
    area = course._area()
    y = round(area.center().y())
    qtbot.mousePress(
        course,
        Qt.MouseButton.LeftButton,
        pos=QPointF(area.left() + 0.25 * area.width(), y).toPoint(),
    )
    qtbot.mouseMove(course, QPointF(area.left() + 0.5 * area.width(), y).toPoint())
    qtbot.mouseRelease(
        course,
        Qt.MouseButton.LeftButton,
        pos=QPointF(area.left() + 0.5 * area.width(), y).toPoint(),
    )
    assert course.place_s == pytest.approx(1.0, abs=0.02)
    assert "at 0:01.0" in course.accessibleDescription()


# ── kept ──────────────────────────────────────────────────────────────────────────────────────
def test_what_is_written_of_a_file_is_an_edit(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    page = brought_in(window, qtbot, written(tmp_path / "Backing.wav", playing()))
    details = page.details
    offset, gain, tempo = details.backing.offset, details.backing.gain, details.backing.tempo
    for field, text in ((offset, "-1,5"), (gain, "−6 dB"), (tempo, "92.5")):
        field.setText(text)
        field.editingFinished.emit()
    details.backing.key.setText(" D  minor")
    details.backing.key.editingFinished.emit()
    kept = sounds(window)[0]
    assert (kept.offset_s, kept.gain_db, kept.tempo_bpm, kept.key) == (-1.5, -6.0, 92.5, "D minor")
    details.backing.gain.setText("loud")
    details.backing.gain.editingFinished.emit()
    assert details.backing.gain.is_wrong()
    assert sounds(window)[0].gain_db == -6.0
    assert page.gain_db(kept) == page.level.value() - 6.0
    details.role.setCurrentIndex(details.role.findData("take"))
    details.role.activated.emit(0)
    details.signal.setCurrentIndex(details.signal.findText("Cello bridge"))
    details.signal.activated.emit(0)
    assert sounds(window)[0].signals == ("cello_line",)
    qtbot.mouseClick(details.take_button, Qt.MouseButton.LeftButton)
    (take,) = window.document.session.takes
    assert take.tracks[0].line == "cello_line"
    assert take.setup == window.document.session.setup
    qtbot.mouseClick(details.remove_button, Qt.MouseButton.LeftButton)
    assert sounds(window) == ()
    assert (tmp_path / "Backing.wav").exists()
    for _ in range(8):
        window.document.undo()
    assert sounds(window)[0].offset_s == 0.0


def test_files_of_two_takes_are_logged_with_one_press(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    names = [line.name for line in window.document.session.setup.lines[:2]]
    paths = [
        written(tmp_path / f"{name} {number}.wav", playing() * (0.5 + 0.1 * number + 0.05 * place))
        for place, name in enumerate(names)
        for number in (1, 2)
    ]
    details = brought_in(window, qtbot, *paths).details
    assert details.all_button.text() == "Log all as 2 takes"
    assert details.all_button.isVisible()
    qtbot.mouseClick(details.all_button, Qt.MouseButton.LeftButton)
    takes = window.document.session.takes
    assert [sorted(track.name for track in take.tracks) for take in takes] == [sorted(names)] * 2
    assert not details.all_button.isVisible()
    window.document.undo()
    assert window.document.session.takes == ()
    assert details.all_button.isVisible()


def test_a_session_that_is_opened_finds_files_that_were_moved(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    old = tmp_path / "evening"
    old.mkdir()
    brought_in(window, qtbot, written(old / "a.wav", playing()))
    file = old / "one.verve.json"
    assert window.files.save_to(file)
    place = old / "recordings" / "kept"
    place.mkdir(parents=True)
    (old / "a.wav").rename(place / "renamed.wav")
    window.files.open_now(file)
    window.files.opened.emit()
    qtbot.waitUntil(lambda: sounds(window)[0].file == str(place / "renamed.wav"), timeout=10_000)
    assert "was found again" in window.message()
    assert load(file).sounds[0].file == str(old / "a.wav"), (
        "the file is written when somebody saves"
    )


def test_a_file_that_is_lost_is_said_and_can_be_shown(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    path = written(tmp_path / "a.wav", playing())
    page = brought_in(window, qtbot, path)
    sound = sounds(window)[0]
    window.importing._known.clear()
    away = tmp_path / "elsewhere.wav"
    path.rename(away)
    page.refresh()
    qtbot.waitUntil(lambda: not window.importing.is_busy, timeout=10_000)
    assert page.details.find_button.isVisible()
    assert "a.wav" in page.details._fault_words.text()
    window.importing.place_is(sound, written(tmp_path / "other.wav", playing(seed=9)))
    qtbot.waitUntil(lambda: "another file" in window.message(), timeout=10_000)
    window.importing.place_is(sound, away)
    qtbot.waitUntil(lambda: sounds(window)[0].file == str(away), timeout=10_000)
    qtbot.waitUntil(
        lambda: window.importing.recording(sounds(window)[0]) is not None, timeout=10_000
    )
    assert not page.details._fault.isVisible()


def test_a_file_that_something_else_has_changed_is_said(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    path = written(tmp_path / "a.wav", playing())
    page = brought_in(window, qtbot, path)
    window.importing._known.clear()
    written(path, playing(seed=5))
    page.refresh()
    qtbot.waitUntil(
        lambda: "no longer the file it was" in page.details._fault_words.text(), timeout=10_000
    )


def test_the_files_of_a_take_are_looked_at_with_their_signals(
    window: MainWindow, qtbot: QtBot
) -> None:
    window.go("check")
    window.check.turn_to("Rehearsal")
    for box in window.check.rehearse.boxes:
        if box.isChecked() != (box.text() in {"Harp left", "Cello bridge"}):
            box.click()
    window.check.rehearse.seconds.setValue(3)
    with qtbot.waitSignal(window.rehearsal.recorded, timeout=30_000):
        window.record_take()
    window.go("takes")
    qtbot.mouseClick(window.takes.log.listen, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(sounds(window)) == 2, timeout=30_000)
    assert {one.signals for one in sounds(window)} == {("harp_left",), ("cello_line",)}
    assert window.step == "check"


def test_thirty_two_channels_are_one_file(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    levels = 10.0 ** (-np.arange(32) / 20.0)
    page = brought_in(
        window, qtbot, written(tmp_path / "all.wav", 0.5 * playing(2.0)[:, None] * levels)
    )
    assert page.details.channels.rowCount() == 32
    page.details.channels.asked.emit(31)
    assert page.details.course._channel == 31
    assert page.details.heard_channel(sounds(window)[0]) == 31
    assert page.details._signal_of.text() == "Channel 32 holds"


def test_a_take_is_heard_raised_to_its_target(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    page = brought_in(window, qtbot, written(tmp_path / "Voice.wav", 0.1 * playing(2.0)))
    (sound,) = sounds(window)
    peak = sound.figures.channels[0].peak_dbfs
    item = window.document.assessment.line("voice")
    assert peak is not None
    assert item is not None
    page.match.setCurrentIndex(page.match.findText("raised to its target"))
    target = item.target.target_dbfs if sound.signal(0) == "voice" else 0.0
    assert page.gain_db(sound) == pytest.approx(page.level.value() + target - peak)
    page.match.setCurrentIndex(0)
    assert page.gain_db(sound) == page.level.value()
