"""The tuner in the window: what it listens to, what it holds it against, what is read from three metres."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from verve.app.hearing import NO_INPUT
from verve.app.views.check.tuner import TunerPage
from verve.app.window import MainWindow
from verve.core.measure import Reading, note_of
from verve.core.sheets import tuned_text
from verve.core.units import FloatArray

RATE_HZ = 48_000


def reading(hz: float, *, is_settled: bool = True) -> Reading:
    note, cents = note_of(hz)
    return Reading(pitch_hz=hz, note=note, cents=cents, is_settled=is_settled, at_s=1.0)


@pytest.fixture
def page(window: MainWindow) -> TunerPage:
    window.show_tuner()
    return window.check.tuner


class Microphone:
    """An input that hears one note, a moment at a time."""

    rate_hz = RATE_HZ

    def __init__(self, hz: float) -> None:
        self._hz, self._at = hz, 0
        self.is_on = True

    def read(self) -> FloatArray:
        t = (self._at + np.arange(960)) / RATE_HZ
        self._at += 960
        return np.asarray(0.2 * np.sin(2.0 * np.pi * self._hz * t))

    def stop(self) -> None:
        self.is_on = False


def test_a_signal_is_heard_from_its_simulated_player(page: TunerPage, qtbot: QtBot) -> None:
    page.source.setCurrentIndex(page.source.findText("Baritone guitar, simulated"))
    page._choose_source()
    with qtbot.waitSignal(
        page.listening.heard, timeout=10_000, check_params_cb=lambda found: found is not None
    ):
        qtbot.mouseClick(page.start_button, Qt.MouseButton.LeftButton)
    assert page.start_button.text() == "Stop the tuner"
    assert "cents" in page.display._tuned.figure  # type: ignore[union-attr]
    qtbot.mouseClick(page.start_button, Qt.MouseButton.LeftButton)
    assert not page.listening.is_on


def test_a_file_is_listened_to(
    window: MainWindow, page: TunerPage, qtbot: QtBot, tmp_path: Path
) -> None:
    path = tmp_path / "a string.wav"
    soundfile.write(
        path, 0.3 * np.sin(2.0 * np.pi * 148.0 * np.arange(2 * RATE_HZ) / RATE_HZ), RATE_HZ
    )
    window.importing.add([path])
    qtbot.waitUntil(lambda: len(window.document.session.sounds) == 1, timeout=10_000)
    window.show_tuner()
    page.source.setCurrentIndex(page.source.findText("a string, file"))
    page._choose_source()
    page.start()
    qtbot.waitUntil(lambda: page._last is not None and page._last.is_settled, timeout=10_000)
    assert page._last is not None
    assert page._last.pitch_hz == pytest.approx(148.0, abs=0.02)
    assert page._last.note == "D3"


def test_the_machines_input_is_listened_to(page: TunerPage, qtbot: QtBot) -> None:
    microphone = Microphone(441.5)
    page.listening.find = lambda _: microphone
    page.source.setCurrentIndex(page.source.findData("live"))
    page._choose_source()
    page.start()
    qtbot.waitUntil(lambda: page._last is not None and page._last.is_settled, timeout=10_000)
    assert page.display.accessibleDescription().startswith("A4, sharp: tune down")
    # Whoever goes elsewhere is not listened to any more.
    page.window().go("stage")  # type: ignore[union-attr]
    assert not microphone.is_on


def test_without_an_input_it_is_said(window: MainWindow, page: TunerPage) -> None:
    page.listening.find = lambda _: NO_INPUT
    page.source.setCurrentIndex(page.source.findData("live"))
    page.start()
    assert window.message() == NO_INPUT
    assert page.start_button.text() == "Start the tuner"


def test_strings_keep_what_they_were_last(page: TunerPage) -> None:
    page.tuning.setCurrentIndex(page.tuning.findText("Viola: C3 G3 D4 A4"))
    page._choose_tuning()
    for hz in (130.0, 196.0, 440.9):
        page._on_heard(reading(hz))
    page._on_heard(None)
    strings = {note: (figure, is_meant) for note, figure, is_meant in page.display._strings}
    assert strings["C3"] == ("−11 cents", False)
    assert strings["G3"] == ("in tune", False)
    assert strings["D4"] == ("—", False)
    assert page.display.accessibleDescription().startswith("last heard: A4")


def test_a_custom_tuning_is_typed_and_refused_in_words(page: TunerPage) -> None:
    page.tuning.setCurrentIndex(page.tuning.findText("Custom"))
    page._choose_tuning()
    assert page.own.isVisible()
    page.own.setText("D2 A2 D3")
    page.own.editingFinished.emit()
    page._on_heard(reading(73.4))
    assert page.display._tuned.note == "D2"  # type: ignore[union-attr]
    page.own.setText("D2 H2")
    page.own.editingFinished.emit()
    assert "must be notes" in page._says.accessibleName()


def test_the_reference_pitch_belongs_to_the_session(window: MainWindow, page: TunerPage) -> None:
    page.a4.setText("415")
    page.a4.editingFinished.emit()
    assert window.document.session.a4_hz == 415.0
    window.document.undo()
    assert window.document.session.a4_hz == 440.0
    page.a4.setText("2000")
    page.a4.editingFinished.emit()
    assert page.a4.is_wrong()
    assert window.document.session.a4_hz == 440.0


@pytest.mark.parametrize(
    ("hz", "figure", "says"),
    [(440.0, "0 cents", "in tune"), (440.7, "+3 cents", "in tune"), (443.0, "+12 cents", "sharp: tune down"),
     (435.0, "−20 cents", "flat: tune up")],
)  # fmt: skip
def test_what_is_said_of_a_pitch(hz: float, figure: str, says: str) -> None:
    tuned = tuned_text(reading(hz), 440.0)
    assert (tuned.note, tuned.figure, tuned.says) == ("A4", figure, says)
    assert tuned_text(reading(hz, is_settled=False), 440.0).frequency.startswith("about ")


@pytest.mark.parametrize("size", [(760, 300), (1000, 480), (2400, 1400)])
def test_figures_can_be_read_from_three_metres(page: TunerPage, size: tuple[int, int]) -> None:
    """Letters of at least 1/200 of the distance are read with ease: 15 mm, 57 dots of a usual screen (96 a inch)."""
    page.display.resize(*size)
    page._on_heard(reading(435.0))
    ink = page.display.grab().toImage()
    scale = ink.devicePixelRatio()
    columns = range(round(30 * scale), round(size[0] * 0.3 * scale), 2)
    dark = [
        y for y in range(round(size[1] * 0.5 * scale))
        if any(ink.pixelColor(x, y).lightness() < 100 for x in columns)
    ]  # fmt: skip
    assert (max(dark) - min(dark)) / scale >= 57
