"""A session with all its sounds in one folder, and one session held against another: asked for, done beside."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from verve.app.document import Document
from verve.app.tasks import Report, Stopped, Tasks
from verve.core.files import path_text
from verve.core.session import SUFFIX

if TYPE_CHECKING:
    from verve.core.recordings import Collected

_COLLECTING, _COMPARING = "collecting", "comparing sessions"


class Gathering(QObject):
    """Collects what belongs to a session, and compares it with another."""

    told = pyqtSignal(str)
    """Something a person should know: the sentence."""

    def __init__(self, window: QWidget, document: Document, tasks: Tasks) -> None:
        super().__init__(window)
        self._window, self._document, self._tasks = window, document, tasks

    def ask_folder(self) -> None:
        """Ask for a folder and put everything into it."""
        name = QFileDialog.getExistingDirectory(
            self._window, "A folder for the session with all its sounds", str(Path.home())
        )
        if name:
            self.collect(Path(name))

    def collect(self, folder: Path) -> None:
        """Copy the session and all its sounds into a folder, beside the window."""
        session = self._document.session

        def work(report: Report, is_stopped: Stopped) -> object:
            from verve.core.recordings import collect

            def progress(share: float) -> bool:
                report(share)
                return not is_stopped()

            return collect(session, folder, progress)

        def done(found: Collected) -> None:
            missing = f" {len(found.missing)} files were missing." if found.missing else ""
            self.told.emit(
                f"{path_text(found.path)} holds the session, with {found.files} sound files beside it "
                f"({found.bytes / 1e6:.0f} MB); each sound once.{missing}"
            )

        self._tasks.run(
            _COLLECTING,
            work,
            done,
            failed=self.told.emit,
            reported=lambda share: self.told.emit(f"Collecting … {share:.0%}"),
        )

    def ask_other(self) -> None:
        """Ask for another session and say what is different in it."""
        path = self._document.path
        start = str(path.parent if path else Path.home())
        name, _ = QFileDialog.getOpenFileName(
            self._window, "Compare with another session", start, f"Sessions (*{SUFFIX})"
        )
        if name:
            self.compare(Path(name))

    def compare(self, path: Path) -> None:
        """Say what is different in another session, in words."""
        session = self._document.session

        def work(_: Report, __: Stopped) -> object:
            from verve.core.session import load
            from verve.core.sheets import compared_sessions

            return compared_sessions(session, load(path))

        def done(found: tuple[str, ...]) -> None:
            self.show_differences(path, found)

        self._tasks.run(_COMPARING, work, done, failed=self.told.emit)

    def show_differences(self, path: Path, found: tuple[str, ...]) -> None:
        """A list of sentences; or that there is nothing."""
        box = QMessageBox(self._window)
        box.setWindowTitle("Compared")
        name = path.name.removesuffix(SUFFIX)
        count = len(found)
        box.setText(
            f"In {name} everything is as here."
            if not found
            else f"In {name} {'one thing is' if count == 1 else f'{count} things are'} different."
        )
        box.setInformativeText(
            "\n".join(found[:40]) + (f"\nand {count - 40} more" if count > 40 else "")
        )
        close = box.addButton("Close", QMessageBox.ButtonRole.AcceptRole)
        assert close is not None
        box.exec()
        box.deleteLater()
