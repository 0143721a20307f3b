"""The open session and its file: opened, saved, kept aside while unsaved, taken up after a crash."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import AbstractContextManager, nullcontext
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QMenu, QMessageBox, QWidget

from verve.app.document import Document
from verve.app.recovery import Recovery
from verve.app.settings import Settings
from verve.app.tasks import Tasks
from verve.core.session import SUFFIX, Session

_FILTER = f"Verve sessions (*{SUFFIX});;All files (*)"
_KEEP_AFTER_MS = 2000
_KEEPING = "keeping a copy"


class Files(QObject):
    """What the File menu does. Only leaving unsaved work asks: undo cannot answer that."""

    opened = pyqtSignal()
    """Another session is in the document."""
    saved = pyqtSignal()
    demo_wanted = pyqtSignal()
    told = pyqtSignal(str)
    """Something a person should know: the sentence."""

    def __init__(
        self,
        window: QWidget,
        document: Document,
        settings: Settings,
        tasks: Tasks,
        at_once: Callable[[], AbstractContextManager[None]] = nullcontext,
    ) -> None:
        """`at_once` is what an opening is done in: all that follows from it is drawn once."""
        super().__init__(window)
        self._tasks, self._at_once = tasks, at_once
        self._has_locked = False
        self._window, self._document, self._settings = window, document, settings
        self.recovery = Recovery(settings.state_folder)
        self.keep_timer = QTimer(self)
        self.keep_timer.setSingleShot(True)
        self.keep_timer.setInterval(_KEEP_AFTER_MS)
        self.keep_timer.timeout.connect(self.keep)
        document.file_changed.connect(self._file_changed)

    # ── opening ───────────────────────────────────────────────────────────────────────────────
    @property
    def lane(self) -> str:
        """The name of the work that keeps copies: it is never called off half done."""
        return _KEEPING

    def new(self) -> None:
        """Begin with an empty session."""
        if self.may_leave():
            with self._at_once():
                self._document.replace(Session(), None, is_saved=True)
                self.opened.emit()

    def open_demo(self) -> None:
        """Open the demo, as a session of its own that has no file yet."""
        if self.may_leave():
            self.demo_wanted.emit()

    def open_dialog(self) -> None:
        """Ask for a file and open it."""
        path = self._document.path
        start = str(path.parent if path else Path.home())
        name, _ = QFileDialog.getOpenFileName(self._window, "Open a session", start, _FILTER)
        if name:
            self.open_file(Path(name))

    def open_file(self, path: Path) -> bool:
        """Open a file; the open session stays if that fails."""
        if not self.may_leave():
            return False
        with self._at_once():
            if not self._document.open(path):
                return False
            self._settings.remember(path)
            self.opened.emit()
        return True

    def fill_recent(self, menu: QMenu) -> None:
        """List the files opened lately."""
        menu.clear()
        paths = self._settings.recent()
        for path in paths:
            action = menu.addAction(str(path))
            assert action is not None
            action.triggered.connect(lambda _, path=path: self.open_file(path))
        if not paths:
            none = menu.addAction("Nothing opened yet")
            assert none is not None
            none.setEnabled(False)

    # ── saving ────────────────────────────────────────────────────────────────────────────────
    def save(self) -> bool:
        """Write the session to its file; ask for one if it has none."""
        if self._document.path is None:
            return self.save_as()
        return self.save_to(self._document.path)

    def save_as(self) -> bool:
        """Ask for a file and write the session to it."""
        title = self._document.session.title
        start = self._document.path or Path.home() / f"{title}{SUFFIX}"
        name, _ = QFileDialog.getSaveFileName(self._window, "Save the session", str(start), _FILTER)
        return bool(name) and self.save_to(Path(name if name.endswith(SUFFIX) else name + SUFFIX))

    def save_to(self, path: Path) -> bool:
        """Write the session to a file, which it belongs to from then on."""
        if not self._document.save(path):
            return False
        self._settings.remember(path)
        self.saved.emit()
        return True

    def may_leave(self) -> bool:
        """Whether the open session can be left; asks if it is not saved."""
        if self._document.is_saved:
            return True
        box = QMessageBox(self._window)
        box.setWindowTitle("Not saved")
        box.setText(f"{self._document.session.title} has changes that are not saved.")
        keep = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        drop = box.addButton("Let them go", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Stay here", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        pressed = box.clickedButton()
        box.deleteLater()
        if pressed is keep:
            return self.save()
        return pressed is drop

    # ── kept aside ────────────────────────────────────────────────────────────────────────────
    def _file_changed(self) -> None:
        if self._document.is_saved:
            self.forget()
        else:
            self.keep_timer.start()

    def keep(self) -> None:
        """Keep a copy of what is unsaved, in the background."""
        session, path = self._document.session, self._document.path
        self._has_locked = True

        def work(_: object, __: object) -> None:
            self.recovery.write(session, path)

        self._tasks.run(_KEEPING, work, lambda _: None, failed=self.told.emit)

    def forget(self) -> None:
        """There is nothing unsaved to keep any more."""
        self.keep_timer.stop()
        if not self._has_locked:
            return
        self._has_locked = False

        def work(_: object, __: object) -> None:
            self.recovery.forget()

        # Behind what is being written just now, in the same lane.
        self._tasks.run(_KEEPING, work, lambda _: None)

    def restore_left_behind(self, only: Path | None = None) -> bool:
        """Take up what a crash has left; the file it belongs to is not touched.

        With `only`, what belongs to that file alone.
        """
        rescued = self.recovery.left_behind()
        if rescued is None or (only is not None and rescued.path != only):
            return False
        with self._at_once():
            self._document.replace(rescued.session, rescued.path, is_saved=False)
            self.opened.emit()
        copy = rescued.session
        self._has_locked = True

        def work(_: object, __: object) -> None:
            self.recovery.write(copy, rescued.path)
            self.recovery.discard(rescued)

        self._tasks.run(_KEEPING, work, lambda _: None, failed=self.told.emit)
        self.told.emit(
            "Verve ended unexpectedly last time. This is the session as it was then; "
            "save it to keep it."
        )
        return True
