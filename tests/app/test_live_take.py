"""A take from a real sound device, in the real window: recorded until it is stopped, then compared."""

from __future__ import annotations

from pathlib import Path

import pytest
import soundfile
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from tests.virtual_server import virtual_server, why_not
from verve.app.window import MainWindow

needs_server = pytest.mark.skipif(bool(why_not()), reason=why_not() or "there is one")


@needs_server
def test_a_live_take_is_recorded_until_somebody_stops(
    qtbot: QtBot, window: MainWindow, tmp_path: Path
) -> None:
    with virtual_server(tmp_path):
        window.go("check")
        guided, rehearse = window.check.guided, window.check.rehearse
        qtbot.waitUntil(lambda: bool(guided.sound.devices), timeout=20_000)
        guided.sound.choice.setCurrentIndex(1)
        guided.sound.choose()
        window.check.turn_to("Rehearsal")
        assert rehearse.live.isVisible()
        rehearse.live.setChecked(True)
        assert not rehearse.seconds.isEnabled()
        with qtbot.waitSignal(window.rehearsal.progressed, timeout=30_000):
            qtbot.mouseClick(rehearse.record_button, Qt.MouseButton.LeftButton)
        qtbot.wait(800)
        assert rehearse.progress.text().startswith("Recording: 0:0")
        with qtbot.waitSignal(window.rehearsal.recorded, timeout=30_000):
            qtbot.mouseClick(rehearse.stop_button, Qt.MouseButton.LeftButton)
        (take,) = window.document.session.takes
        assert take.ended == "stopped"
        assert take.seconds > 0.5
        for track in take.tracks:
            assert soundfile.info(track.file).duration == pytest.approx(take.seconds)
            assert b"bext" in Path(track.file).read_bytes()[:1000]
