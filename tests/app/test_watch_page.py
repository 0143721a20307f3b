"""Listening in, in the real window: calm while somebody plays, marks afterwards, an alarm when it has stopped."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from tests.app.conftest import finished
from verve.app.views.check.watch import WatchPage
from verve.app.window import MainWindow
from verve.core.check import Mark
from verve.devices import SystemDevice, WatchState

NAMES = {"voice": "Voice"}


@pytest.fixture
def page(window: MainWindow) -> WatchPage:
    """The page, in front."""
    window.go("check")
    window.check.turn_to("Watch")
    return window.check.watch


def state(**more: object) -> WatchState:
    return WatchState(**{"seconds": 75.0, "names": NAMES, **more})  # type: ignore[arg-type]


def test_while_somebody_plays_nothing_moves_and_then_marks_are_told(page: WatchPage) -> None:
    mark = Mark(at_s=12.0, line="voice", kind="clipped")
    page._on_reported(state())
    first = page.sign.sign
    assert first is not None
    assert first.word == "Listening"
    page._on_reported(state(marks=(mark,)))
    assert page.sign.sign is first
    assert page.list.count() == 0
    page._on_reported(state(marks=(mark,), may_tell=True))
    assert page.sign.sign.word == "1 mark"
    assert page.list.item(0).text() == "0:12  Voice clipped."  # type: ignore[union-attr]
    page._on_ended(state())
    assert page.sign.sign.word == "Clean"
    assert page.list.count() == 0


def test_a_recording_that_stopped_is_seen_over_the_whole_window_whatever_is_open(
    qtbot: QtBot, window: MainWindow, page: WatchPage
) -> None:
    window.go("stage")
    page._on_reported(state(stopped="The file grows no more."))
    alarm = window._alarm
    assert alarm is not None
    assert alarm.isVisible()
    assert alarm.size() == window.centralWidget().size()  # type: ignore[union-attr]
    assert "Not recording" in alarm.sign.accessibleDescription()
    window.resize(1100, 760)
    assert alarm.size() == window.centralWidget().size()  # type: ignore[union-attr]
    qtbot.keyClick(alarm, Qt.Key.Key_Escape)
    assert not alarm.isVisible()
    page._on_reported(state(stopped="The file grows no more."))
    assert not alarm.isVisible(), "it is said once"


def test_a_folder_is_watched_until_somebody_stops(
    qtbot: QtBot, window: MainWindow, page: WatchPage, tmp_path: Path
) -> None:
    page.watch_folder(tmp_path)
    qtbot.waitUntil(lambda: page._state is not None, timeout=20_000)
    assert page.stop_button.isEnabled()
    assert not page.folder_button.isEnabled()
    window.check.turn_to("Rehearsal")
    assert page.watching.is_on, "it goes on whatever page is in front"
    window.check.turn_to("Watch")
    qtbot.mouseClick(page.stop_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not page.watching.is_on, timeout=20_000)
    assert page.sign.sign.word == "Clean"  # type: ignore[union-attr]
    missing = tmp_path / "file"
    missing.write_text("")
    page.watch_folder(missing)
    finished(window)
    assert "is no folder" in window.message()


def test_a_device_is_watched_where_one_is_chosen(
    qtbot: QtBot, window: MainWindow, page: WatchPage
) -> None:
    assert not page.device_button.isEnabled()
    guided = window.check.guided
    guided.sound.on_devices(
        (SystemDevice(key=77, name="Box", channels_in=8, channels_out=2, usual_rate_hz=48_000),)
    )
    guided.sound.choice.setCurrentIndex(guided.sound.choice.findData("Box"))
    page.refresh()
    assert page.device_button.isEnabled()
    page.watch_device()
    qtbot.waitUntil(lambda: not page.watching.is_on, timeout=30_000)
    assert window.message().startswith("Box: ")
