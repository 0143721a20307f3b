"""Monitor by hand: sentences that are changed where they stand, buffers, round trips, a loop-back made safe."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from tests.app.conftest import finished
from verve.app.dialogs.loop import LoopDialog
from verve.app.hearing import SilentOutput
from verve.app.views.monitor import MonitorView
from verve.app.window import MainWindow
from verve.core.monitor import sentence_of
from verve.core.session import Session, cue_of, listeners


@pytest.fixture
def monitor(window: MainWindow, monkeypatch: pytest.MonkeyPatch) -> MonitorView:
    monkeypatch.setattr(window.player, "_find", lambda rate_hz: SilentOutput(rate_hz))
    window.go("monitor")
    return window.monitor


def test_everybody_has_a_sentence_and_strips_to_one_scale(
    window: MainWindow, monitor: MonitorView
) -> None:
    session = window.document.session
    shown = [one.sentence.text() for one in monitor.cards if one.isVisibleTo(monitor)]
    assert shown == [sentence_of(session, who) for who, _ in listeners(session.setup)]
    singer = monitor.cards[0]
    assert [row.isVisibleTo(monitor) for row in singer.rows] == [True, True]
    assert "Buffer in" in singer.strips[1].accessibleDescription()
    assert not singer.grab().toImage().isNull()


def test_a_sentence_is_changed_where_it_stands_and_undone(
    window: MainWindow, monitor: MonitorView
) -> None:
    singer = monitor.cards[0]
    assert not singer.parts.isVisibleTo(monitor)
    singer.open.click()
    assert singer.parts.isVisibleTo(monitor)
    ways = singer.parts.choices["ways"]
    ways.setCurrentIndex(ways.findData("direct"))
    ways.activated.emit(ways.currentIndex())
    assert "through the software" not in singer.sentence.text()
    singer.parts.one_ear.click()
    assert "one ear free" in singer.sentence.text()
    singer.parts.fields["backing_db"].setText("-4")
    singer.parts.fields["backing_db"].setModified(True)
    singer.parts.fields["backing_db"].editingFinished.emit()
    assert "the backing −4 dB" in singer.sentence.text()
    pairs = singer.parts.choices["headphones"]
    pairs.setCurrentIndex(pairs.findData("closed_80"))
    pairs.activated.emit(pairs.currentIndex())
    assert "At the ear" in singer.parts.ears.text()
    for _ in range(4):
        window.document.undo()
    assert cue_of(window.document.session.setup, "singer").ways == ("direct", "software")
    singer.open.click()
    assert not singer.parts.isVisibleTo(monitor)


def test_every_choice_is_taken(window: MainWindow, monitor: MonitorView) -> None:
    singer = monitor.cards[0]
    singer.open.click()
    for name in ("worn", "effects", "ways"):
        choice = singer.parts.choices[name]
        for number in range(choice.count()):
            choice.setCurrentIndex(number)
            said = choice.currentData()
            choice.activated.emit(number)
            cue = cue_of(window.document.session.setup, "singer")
            now = ",".join(cue.ways) if name == "ways" else getattr(cue, name)
            assert now == said
    singer.parts.mono.click()
    assert not cue_of(window.document.session.setup, "singer").is_mono


def test_why_a_way_is_late_is_told(window: MainWindow, monitor: MonitorView) -> None:
    asked: list[str] = []
    window.document.asked.connect(lambda title, facts: asked.append(f"{title} {len(facts)}"))
    monitor.cards[0].whys[1].click()
    assert asked == ["Singer: how late 4"]


def test_the_buffer_is_chosen_by_press_and_by_name(
    qtbot: QtBot, window: MainWindow, monitor: MonitorView
) -> None:
    computer = monitor.computer
    column = computer.chart._columns()[1]
    qtbot.mousePress(
        computer.chart, Qt.MouseButton.LeftButton, pos=QPoint(round(column.center().x()), 60)
    )
    assert window.document.session.setup.audio.buffer_frames == 64
    assert "64 samples" in computer.said.text()
    computer.mixing.setCurrentIndex(computer.mixing.findData("2048"))
    computer.mixing.activated.emit(0)
    assert window.document.session.setup.monitoring.mixing_frames == 2048
    for name, text in (("effects", "12"), ("load_percent", "40"), ("hours", "3")):
        computer.fields[name].setText(text)
        computer.fields[name].setModified(True)
        computer.fields[name].editingFinished.emit()
    found = window.document.session.setup.monitoring
    assert (found.effects, found.load_percent, found.hours) == (12, 40.0, 3.0)
    computer.limit.setCurrentIndex(1)
    computer.limit.activated.emit(1)
    computer.one_device.click()
    found = window.document.session.setup.monitoring
    assert (found.limit, found.input_is_output) == ("work", False)


def test_round_trips_are_typed_and_forgotten(window: MainWindow, monitor: MonitorView) -> None:
    computer = monitor.computer
    for frames, ms in (("64", "9.1"), ("1024", "49")):
        computer.trip_frames.setCurrentIndex(computer.trip_frames.findData(frames))
        computer.trip_ms.setText(ms)
        computer.add.click()
    assert [one.buffer_frames for one in window.document.session.computer.round_trips] == [64, 1024]
    assert "2 round trips" in computer.known.text()
    label, forget, row = computer.trips[0]
    assert "9.10 ms, reported" in label.text()
    forget.click()
    assert [one.buffer_frames for one in window.document.session.computer.round_trips] == [1024]
    assert not computer.trips[1][2].isVisibleTo(monitor)
    assert row.isVisibleTo(monitor)


def test_a_loop_back_is_made_safe_before_it_is_played(
    qtbot: QtBot, window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    dialog = LoopDialog(window.document, window.tasks, window)
    dialog.is_paced = False
    qtbot.addWidget(dialog)
    assert not dialog.play.isEnabled()
    for point in dialog.points[:-1]:
        point.click()
    assert not dialog.play.isEnabled()
    dialog.points[-1].click()
    assert dialog.play.isEnabled()
    dialog.play.click()
    # Longer than anything else that a test waits for: a whole test signal is looked through.
    qtbot.waitUntil(lambda: "It came back" in dialog.said.text(), timeout=60_000)
    dialog.use_trip.click()
    (trip,) = window.document.session.computer.round_trips
    assert trip.is_measured
    assert trip.round_trip_ms == pytest.approx(2000.0 * 1024 / 48_000 + 5.36, abs=0.05)
    dialog.use_offset.click()
    offset = window.document.session.computer.recording_offset
    assert offset is not None
    assert offset.frames == pytest.approx(trip.round_trip_ms * 48.0, abs=0.1)
    path = tmp_path / "test.wav"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    dialog.save.click()
    finished(window)
    assert soundfile.info(path).samplerate == 48_000
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
    dialog.read.click()
    qtbot.waitUntil(lambda: "0.000 ms later" in dialog.said.text(), timeout=60_000)
    dialog.use_trip.click()
    assert "no round trip" in dialog.said.text()
    dialog._stop()
    assert dialog.said.text().startswith("Stopped")


def test_one_hears_oneself_and_stops(window: MainWindow, monitor: MonitorView) -> None:
    monitor.cards[0].hear.click()
    finished(window)
    assert window.player.request is not None
    heard, rate_hz = soundfile.read(window.player.request.path)
    assert rate_hz == 48_000
    assert len(heard) == 6 * 48_000
    monitor.cards[0].hear.click()
    assert not window.player.is_playing


def test_a_part_of_it_is_heard_or_it_is_said_why_not(
    qtbot: QtBot, window: MainWindow, monitor: MonitorView
) -> None:
    rendered = []
    for part in ("direct", "others"):
        singer = monitor.cards[0]
        singer.part.setCurrentIndex(singer.part.findData(part))
        singer.hear.click()
        finished(window)
        assert window.player.request is not None
        rendered.append(soundfile.read(window.player.request.path)[0])
        singer.hear.click()
    assert not np.allclose(rendered[0], rendered[1])
    # An amplifier that is taken by wire has nobody else in it: that is said, and nothing is played.
    guitarist = monitor.cards[2]
    guitarist.part.setCurrentIndex(guitarist.part.findData("others"))
    with qtbot.waitSignal(window.document.refused) as refusal:
        guitarist.hear.click()
        finished(window)
    assert "goes by wire" in refusal.args[0]
    assert not window.player.is_playing


def test_the_cue_sheet_goes_on_paper(
    window: MainWindow, monitor: MonitorView, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "cues.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    monitor.paper.click()
    finished(window)
    assert path.read_bytes().startswith(b"%PDF")


def test_where_nobody_plays_that_is_said(window: MainWindow, monitor: MonitorView) -> None:
    window.document.replace(Session(), None, is_saved=True)
    assert monitor.nobody.isVisibleTo(monitor)
    assert not any(one.isVisibleTo(monitor) for one in monitor.cards)


def test_what_is_wrong_in_the_ears_has_causes(window: MainWindow, monitor: MonitorView) -> None:
    singer = monitor.cards[0]
    assert not singer.parts.trouble.isVisibleTo(monitor)
    singer.open.click()
    singer.parts.trouble.setCurrentIndex(singer.parts.trouble.findData("twice"))
    singer.parts.trouble.activated.emit(1)
    assert singer.parts.causes.text().startswith("1. two ways are on: explains all of it.")
    singer.parts.trouble.setCurrentIndex(0)
    singer.parts.trouble.activated.emit(0)
    assert not singer.parts.causes.isVisibleTo(monitor)


def test_the_computer_is_looked_up_and_what_is_heard_is_saved(
    window: MainWindow, monitor: MonitorView, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monitor.computer.day.click()
    finished(window)
    assert "By hand: notifications" in monitor.computer.day_said.text()
    path = tmp_path / "heard.wav"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    monitor.cards[0].save.click()
    finished(window)
    assert soundfile.info(path).samplerate == 48_000


def test_the_arrow_keys_take_another_buffer(
    qtbot: QtBot, window: MainWindow, monitor: MonitorView
) -> None:
    for key, frames in ((Qt.Key.Key_Left, 512), (Qt.Key.Key_Right, 1024), (Qt.Key.Key_Up, 1024)):
        qtbot.keyClick(monitor.computer.chart, key)
        assert window.document.session.setup.audio.buffer_frames == frames
