"""Every text fits, scrolls, or is elided with the whole of it at hand: at two sizes, with letters of three."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QDialog
from pytestqt.qtbot import QtBot

from tests.app.fitting import unfit
from tests.core.mix.recorded import sung_with_a_double
from verve.app import theme
from verve.app.settings import Settings
from verve.app.views.brief import PAGES
from verve.app.window import MainWindow

SIZES = [(1024, 700), (1280, 800)]
SCALES = [1.0, 1.25, 1.5]


@pytest.fixture(params=SCALES)
def scale(dressed: QApplication, request: pytest.FixtureRequest) -> Iterator[float]:
    """Letters so many times as large as usual."""
    theme.apply(dressed, night=False, scale=request.param)
    yield request.param
    theme.apply(dressed, night=False, scale=1.0)


@pytest.fixture(params=SIZES, ids=["small", "usual"])
def sized(
    dressed: QApplication,
    qtbot: QtBot,
    scale: float,
    request: pytest.FixtureRequest,
    tmp_path: Path,
) -> Iterator[MainWindow]:
    """A window of the demo with such letters, so large."""
    window = MainWindow(Settings(tmp_path / "settings"), is_paced=False)
    qtbot.addWidget(window)
    window.show_demo()
    window.resize(*request.param)
    window.show()
    assert (window.width(), window.height()) == request.param
    yield window
    window.rehearsal.cancel()
    window.document.replace(window.document.session, None, is_saved=True)


def settled(qtbot: QtBot, window: MainWindow) -> list[str]:
    """What does not fit, when everything has found its place."""
    found: list[str] = []
    for _ in range(40):
        qtbot.wait(20)
        window.tasks.wait()
        if not (found := unfit(window)):
            break
    return found


def test_everything_fits_at_every_step(qtbot: QtBot, sized: MainWindow) -> None:
    window = sized
    for step in ("patch", "power", "check", "takes"):
        window.go(step)
        assert settled(qtbot, window) == [], step
    window.go("patch")
    window.patch.tabs.setCurrentIndex(1)
    assert settled(qtbot, window) == []
    window.go("stage")
    for picture in range(4):
        assert settled(qtbot, window) == [], f"picture {picture}"
        window.next_picture()
    window.open_reason()
    assert settled(qtbot, window) == []


def with_a_file(qtbot: QtBot, window: MainWindow, folder: Path) -> None:
    """One sound file with a fault and a hum, and a backing track of another rate under a long name."""
    t = np.arange(48_000) / 48_000
    sound = 0.3 * np.sin(t * 900.0) * (t > 0.5) + 1e-3 * np.sin(2.0 * np.pi * 50.0 * t)
    sound[30_000:30_500] = 0.0
    take = folder / "Baritone guitar, the third try of the evening.wav"
    soundfile.write(take, np.stack([sound, 0.5 * sound, 0.2 * sound], axis=1), 48_000)
    soundfile.write(folder / "Backing track of the last song.wav", sound, 44_100)
    window.importing.add([take, folder / "Backing track of the last song.wav"])
    qtbot.waitUntil(lambda: not window.importing.is_busy, timeout=20_000)


def test_every_page_of_check_fits(qtbot: QtBot, sized: MainWindow, tmp_path: Path) -> None:
    window = sized
    window.show_recordings()
    found = {"empty": settled(qtbot, window)}
    with_a_file(qtbot, window, tmp_path)
    page = window.check.recordings
    for sound in window.document.session.sounds:
        page.choose(sound.id)
        for tab in range(page.details.tabs.count()):
            page.details.tabs.setCurrentIndex(tab)
            found[f"{sound.name}, {tab}"] = settled(qtbot, window)
    window.show_tuner()
    found["tuner"] = settled(qtbot, window)
    # Before it is judged: an unsaved window would ask what to do when it is closed.
    window.document.replace(window.document.session, None, is_saved=True)
    assert {page: words for page, words in found.items() if words} == {}


@pytest.mark.parametrize("size", SIZES)
def test_gains_and_corridor_are_seen_at_once(
    qtbot: QtBot, window: MainWindow, size: tuple[int, int]
) -> None:
    """What is turned and what it moves stand on one screen, with letters of the usual size."""
    window.resize(*size)
    for line in window.document.assessment.lines:
        window.document.select_line(line.line.id)
        for step in ("patch", "stage", "check"):
            window.go(step)
            qtbot.wait(40)
            bar = window._areas[step].verticalScrollBar()
            assert bar is not None
            assert bar.maximum() == 0, (step, line.line.name)


def test_every_page_of_brief_fits(qtbot: QtBot, sized: MainWindow) -> None:
    window = sized
    window.go("brief")
    for page in PAGES:
        window.brief.open_page(page)
        assert settled(qtbot, window) == [], page


def test_every_page_of_takes_fits(qtbot: QtBot, sized: MainWindow, tmp_path: Path) -> None:
    window = sized
    window.document.replace(sung_with_a_double(tmp_path), None, is_saved=True)
    window.go("takes")
    for page in window.takes.names:
        window.takes.turn_to(page)
        assert settled(qtbot, window) == [], page
    window.takes.turn_to("Log")


def dialogs(window: MainWindow) -> dict[str, Callable[[], object]]:
    """Everything that opens beside the window."""
    beside = window.beside
    return {
        "add": beside.add_line,
        "session": beside.edit_session,
        "keys": beside.show_keys,
        "glossary": beside.show_glossary,
        "calculation": beside.show_calculation,
        "gains": beside.settle,
        "move": beside.move_line,
        "trouble": beside.show_trouble,
        "gear": beside.edit_gear,
        "replace": lambda: beside.replace("interface"),
        "part": window.brief.ask_part,
    }


def look_in(show: Callable[[], object], look: Callable[[QDialog], bool]) -> None:
    """Open a dialog, look at it until `look` is content or its time is over, and leave it."""

    def again(tries: int = 0) -> None:
        dialog = QApplication.activeModalWidget()
        is_ready = dialog is not None and getattr(dialog, "is_ready", True)
        if not is_ready and tries < 200:
            QTimer.singleShot(20, lambda: again(tries + 1))
            return
        assert isinstance(dialog, QDialog)
        # What has just been worked out finds its place a moment later.
        if not look(dialog) and tries < 200:
            QTimer.singleShot(20, lambda: again(tries + 10))
            return
        dialog.reject()

    QTimer.singleShot(60, again)
    show()


def test_every_dialog_fits(qtbot: QtBot, sized: MainWindow) -> None:
    for name, show in dialogs(sized).items():
        found: list[str] = []

        def look(dialog: QDialog, found: list[str] = found) -> bool:
            found[:] = unfit(dialog)
            if dialog.width() > sized.width() or dialog.height() > sized.height():
                found.append(f"{dialog.width()} × {dialog.height()} is larger than the window")
            return not found

        look_in(show, look)
        assert found == [], name
