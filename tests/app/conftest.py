"""A window as a user has it, with settings of its own, and rehearsals that need not wait."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import QEvent
from PyQt6.QtWidgets import QApplication, QMessageBox
from pytestqt.qtbot import QtBot

from tests.app.watch import WatchedApplication
from verve.app import theme
from verve.app.settings import Settings
from verve.app.window import MainWindow


@pytest.fixture(scope="session")
def qapp_cls() -> type[QApplication]:
    """An application that notes events that take long."""
    return WatchedApplication


@pytest.fixture(autouse=True)
def told(request: pytest.FixtureRequest) -> Iterator[None]:
    """Tell what took long in a test: a shared machine may be slow, so it is the bench that judges."""
    application = QApplication.instance()
    before = len(application.slow) if isinstance(application, WatchedApplication) else 0
    yield
    application = QApplication.instance()
    if isinstance(application, WatchedApplication):
        for event in application.slow[before:]:
            request.node.user_properties.append(("slow event", str(event)))


@pytest.fixture(scope="session")
def dressed(qapp: QApplication) -> QApplication:
    """The application in the colours of day, dressed once."""
    theme.load_fonts()
    theme.apply(qapp, night=False)
    return qapp


@pytest.fixture
def window(dressed: QApplication, qtbot: QtBot, tmp_path: Path) -> Iterator[MainWindow]:
    """The main window with the demo session in it."""
    made = MainWindow(Settings(tmp_path / "settings"), is_paced=False)
    made.resize(1280, 800)
    made.show_demo()
    made.show()
    qtbot.waitExposed(made)
    yield made
    made.rehearsal.cancel()
    # What a test leaves unsaved is let go without asking.
    made.document.replace(made.document.session, None, is_saved=True)
    made.close()
    made.deleteLater()
    dressed.sendPostedEvents(made, QEvent.Type.DeferredDelete.value)


def finished(window: MainWindow) -> None:
    """Until all slow work has ended and what came of it has been taken."""
    window.tasks.wait()
    QApplication.processEvents()


class Answers:
    """Presses a button of the next question, and remembers what was asked."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch) -> None:
        self.asked: list[str] = []
        self._answer = ""
        monkeypatch.setattr(QMessageBox, "exec", lambda box: self._exec(box))
        self._pressed: object = None
        monkeypatch.setattr(QMessageBox, "clickedButton", lambda _: self._pressed)

    def will_be(self, button: str) -> None:
        """What to press."""
        self._answer = button

    def _exec(self, box: QMessageBox) -> int:
        self.asked.append(box.text())
        self._pressed = next(b for b in box.buttons() if b.text() == self._answer)
        return 0


@pytest.fixture
def answers(monkeypatch: pytest.MonkeyPatch) -> Answers:
    """Answers to questions."""
    return Answers(monkeypatch)


def open_file(window: MainWindow, path: Path) -> bool:
    """Open a file and wait for it; whether it is open then."""
    before = window.document.number
    window.files.open_file(path)
    finished(window)
    return window.document.number != before and window.document.path == path
