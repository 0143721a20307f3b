"""The open session and its file: opened, saved, kept aside while unsaved, taken up after a crash."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import AbstractContextManager, nullcontext
from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QMenu, QMessageBox, QWidget

from verve.app.collecting import put_aside
from verve.app.document import Document, Opened, read_file
from verve.app.recovery import Recovery, Rescued
from verve.app.rehearsal import Rehearsal
from verve.app.settings import Settings
from verve.app.tasks import Tasks
from verve.core.errors import VerveError
from verve.core.files import cut_name, path_text, read_text, write_atomically
from verve.core.session import LARGEST_BYTES, SUFFIX, Session
from verve.core.words import short_name

_FILTER = f"Verve sessions (*{SUFFIX});;All files (*)"
_KEEP_AFTER_MS = 2000
_KEEPING = "keeping a copy"
_LOOKING, _OPENING = "looking at takes", "opening a file"
_SLOW_AFTER_MS = 400
_LOOK_AFTER_MS = 100
"""Takes are looked at when what was opened is on the screen."""


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
        *,
        at_once: Callable[[], AbstractContextManager[None]] = nullcontext,
        commit: Callable[[], None] = lambda: None,
        rehearsal: Rehearsal,
    ) -> None:
        """`at_once` is what an opening is done in: all that follows from it is drawn once.

        `commit` takes what is being typed: it belongs to the session that is saved or left.
        """
        super().__init__(window)
        self._tasks, self._at_once, self._commit = tasks, at_once, commit
        self._rehearsal = rehearsal
        self._has_copy = False
        self._window, self._document, self._settings = window, document, settings
        self.recovery = Recovery(settings.state_folder)
        self.keep_timer = QTimer(self)
        self.keep_timer.setSingleShot(True)
        self.keep_timer.setInterval(_KEEP_AFTER_MS)
        self.keep_timer.timeout.connect(lambda: self.keep())
        self._opening_name = ""
        self._slow_timer = QTimer(self)
        self._slow_timer.setSingleShot(True)
        self._slow_timer.setInterval(_SLOW_AFTER_MS)
        self._slow_timer.timeout.connect(self._tell_if_slow)
        document.file_changed.connect(self._file_changed)
        self._look_timer = QTimer(self)
        self._look_timer.setSingleShot(True)
        self._look_timer.setInterval(_LOOK_AFTER_MS)
        self._look_timer.timeout.connect(self._look_at_takes)
        self.opened.connect(self._look_timer.start)

    @property
    def state_folder(self) -> Path:
        """Where copies and the log of errors lie."""
        return self._settings.state_folder

    # ── opening ───────────────────────────────────────────────────────────────────────────────
    @property
    def lane(self) -> str:
        """The name of the work that keeps copies: it is never called off half done."""
        return _KEEPING

    def new(self) -> None:
        """Begin with an empty session."""

        def begin() -> None:
            with self._at_once():
                self._document.replace(Session(), None, is_saved=True)
                self.opened.emit()

        self._leave(begin)

    def open_demo(self) -> None:
        """Open the demo, as a session of its own that has no file yet."""
        self._leave(self.demo_wanted.emit)

    def open_dialog(self) -> None:
        """Ask for a file and open it."""
        path = self._document.path
        start = str(path.parent if path else Path.home())
        name, _ = QFileDialog.getOpenFileName(self._window, "Open a session", start, _FILTER)
        if name:
            self.open_file(Path(name))

    def open_file(self, path: Path) -> None:
        """Open a file; the open session stays if that fails, and is there until the file has been read."""
        self._leave(lambda: self._read(path))

    def _read(self, path: Path) -> None:
        before = self._document.session

        def work(_: object, __: object) -> Opened:
            with put_aside():
                return read_file(path)

        def done(opened: Opened) -> None:
            if self._document.session is before and self._rehearsal.state != "recording":
                self._show(opened)
            else:
                # Somebody went on with the open session meanwhile: it is not left unasked.
                self._leave(lambda: self._show(opened))

        self._tasks.run(_OPENING, work, done, failed=self.told.emit)
        self._opening_name = short_name(path_text(path).rpartition("/")[2])
        self._slow_timer.start()

    def _tell_if_slow(self) -> None:
        if self._tasks.is_busy(_OPENING):
            self.told.emit(f"Opening {self._opening_name} …")

    def _show(self, opened: Opened) -> None:
        with self._at_once():
            self._document.take(opened)
            self._settings.remember(opened.path)
            self.opened.emit()

    def open_now(self, path: Path) -> None:
        """Open a file before there is a window to wait in."""
        if self._document.open(path):
            self._settings.remember(path)
            self.opened.emit()

    def _look_at_takes(self) -> None:
        """Read what was set for each take in the background: the window does not wait for hundreds of them."""
        session, number = self._document.session, self._document.number

        def work(_: object, give_up: Callable[[], bool]) -> str:
            # Imported here: the window is painted before the sheets are loaded.
            from verve.core.sheets import unreadable_takes_text

            with put_aside():
                return unreadable_takes_text(take for take in session.takes if not give_up())

        def tell(said: str) -> None:
            if said and self._document.number == number:
                self.told.emit(said)

        self._tasks.run(_LOOKING, work, tell)

    def fill_recent(self, menu: QMenu) -> None:
        """List the files opened lately."""
        menu.clear()
        paths = self._settings.recent()
        for path in paths:
            action = menu.addAction(path_text(path))
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
        self._commit()
        changed = self._document.changed_elsewhere() if path == self._document.path else None
        if changed is not None and path.exists():
            return self._settle_versions(path, changed)
        return self._write(path)

    def _write(self, path: Path) -> bool:
        if not self._document.save(path):
            return False
        self._settings.remember(path)
        self.saved.emit()
        return True

    def _settle_versions(self, path: Path, changed: datetime) -> bool:
        """Something else wrote the file meanwhile: ask which version is meant, and lose neither unasked."""
        box = QMessageBox(self._window)
        box.setWindowTitle("Changed elsewhere")
        box.setText(
            f"{short_name(path_text(path).rpartition('/')[2])} was changed by something else, "
            f"{_moment(changed)}, after it was opened here."
        )
        role = QMessageBox.ButtonRole
        box.addButton("Cancel", role.RejectRole)
        reload = box.addButton("Reload", role.DestructiveRole)
        over = box.addButton("Overwrite", role.DestructiveRole)
        both = box.addButton("Keep both", role.AcceptRole)
        for button, says in (
            (reload, "Opens the file as it is now; changes made here are discarded"),
            (
                over,
                "Writes this session; the other version stays beside it under a name of its own",
            ),
            (both, "Writes this session under a new name beside it"),
        ):
            assert button is not None
            button.setToolTip(says)
        box.exec()
        pressed = box.clickedButton()
        box.deleteLater()
        if pressed is both:
            return self._write(_free_place(path, "2"))
        if pressed is over:
            return self._set_aside(path, changed) and self._write(path)
        if pressed is reload:
            with self._at_once():
                if self._document.open(path):
                    self.opened.emit()
        return False

    def _set_aside(self, path: Path, changed: datetime) -> bool:
        """Keep what somebody else wrote under a name of its own."""
        place = _free_place(path, changed.strftime("%Y-%m-%d %H.%M"))
        try:
            write_atomically(place, read_text(path, largest_bytes=LARGEST_BYTES, what="a session"))
        except VerveError as error:
            self.told.emit(str(error))
            return False
        self.told.emit(f"The other version is kept as {path_text(place)}.")
        return True

    def _leave(self, then: Callable[[], object]) -> None:
        """Put something in the place of the open session, once it may be left."""
        if self._rehearsal.state == "recording":
            self.leave_recording(lambda: self._leave(then))
        elif self.may_leave():
            then()

    def leave_recording(self, then: Callable[[], object]) -> None:
        """Ask what becomes of the take that is being recorded; `then` is done when that is settled."""
        box = QMessageBox(self._window)
        box.setWindowTitle("Recording")
        box.setText("A take is being recorded.")
        role = QMessageBox.ButtonRole
        discard = box.addButton("Discard", role.DestructiveRole)
        box.addButton("Keep recording", role.RejectRole)
        keep = box.addButton("Stop and keep", role.AcceptRole)
        box.exec()
        pressed = box.clickedButton()
        box.deleteLater()
        if self._rehearsal.state != "recording":
            # It has come to its end while the question stood there.
            then()
        elif pressed is keep:
            self._rehearsal.finish(lambda: (then(), None)[1])
        elif pressed is discard:
            self._rehearsal.cancel()
            then()

    def may_leave(self) -> bool:
        """Whether the open session can be left; asks if it is not saved."""
        self._commit()
        if self._document.is_saved:
            return True
        box = QMessageBox(self._window)
        box.setWindowTitle("Not saved")
        box.setText(f"{self._document.session.title} has changes that are not saved.")
        keep = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        drop = box.addButton("Discard", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
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
        elif not self.keep_timer.isActive():
            # Not begun anew by each edit: who edits without a rest has a copy all the same.
            self.keep_timer.start()

    def keep(self, then: Callable[[], object] = lambda: None) -> None:
        """Keep a copy of what is unsaved, in the background; `then` is done when it is written."""
        document = self._document
        session, path, stamp = document.session, document.path, document.stamp
        self._has_copy = True

        def work(_: object, __: object) -> None:
            self.recovery.write(session, path, stamp)
            then()

        self._tasks.run(_KEEPING, work, lambda _: None, failed=self.told.emit)

    def forget(self) -> None:
        """There is nothing unsaved to keep any more."""
        self.keep_timer.stop()
        if not self._has_copy:
            return
        self._has_copy = False

        def work(_: object, __: object) -> None:
            self.recovery.forget()

        # Behind what is being written just now, in the same lane.
        self._tasks.run(_KEEPING, work, lambda _: None)

    def restore_left_behind(self, only: Path | None = None) -> bool:
        """Take up the newest copy that a crash has left; the file it belongs to is not touched.

        With `only`, what belongs to that file alone. A file that was changed after the copy was kept is
        never passed over unasked. Copies that are not taken up stay, and are listed in the File menu.
        """
        copies = self.recovery.left_behind()
        chosen = next((one for one in copies if only is None or one.path == only), None)
        more = len(copies) - (chosen is not None)
        if chosen is None or not self._is_meant(chosen):
            if more or chosen is not None:
                self.told.emit(_COPIES_ARE_THERE)
            return False
        self._take_up(chosen)
        self.told.emit(
            "Verve ended unexpectedly last time. This is the session as it was "
            f"{_moment(chosen.kept_at)}; save it to keep it."
            + (f" {_COPIES_ARE_THERE}" if more else "")
        )
        return True

    def _is_meant(self, rescued: Rescued) -> bool:
        """Whether a copy is to take the place of its file, asked where that has changed since."""
        changed = rescued.file_changed_at()
        if changed is None:
            return True
        box = QMessageBox(self._window)
        box.setWindowTitle("Unsaved copy")
        box.setText(
            f"When Verve ended unexpectedly, a copy of {short_name(rescued.session.title)} was kept: "
            f"{_moment(rescued.kept_at)}. Its file was changed otherwise: {_moment(changed)}."
        )
        role = QMessageBox.ButtonRole
        file = box.addButton("Open the file", role.RejectRole)
        copy = box.addButton("Open the copy", role.AcceptRole)
        for button, says in (
            (file, "The copy stays under File, Unsaved copies"),
            (copy, "The file stays as it is until this is saved"),
        ):
            assert button is not None
            button.setToolTip(says)
        box.exec()
        pressed = box.clickedButton()
        box.deleteLater()
        return pressed is copy

    def _take_up(self, rescued: Rescued) -> None:
        with self._at_once():
            self._document.replace(
                rescued.session, rescued.path, is_saved=False, stamp=rescued.stamp
            )
            self.opened.emit()
        self._has_copy = True

        def work(_: object, __: object) -> None:
            self.recovery.write(rescued.session, rescued.path, rescued.stamp)
            self.recovery.discard(rescued)

        self._tasks.run(_KEEPING, work, lambda _: None, failed=self.told.emit)

    def fill_copies(self, menu: QMenu) -> None:
        """List the copies that programs which ended badly have left."""
        menu.clear()
        copies = self.recovery.left_behind()
        for copy in copies:
            action = menu.addAction(f"{short_name(copy.session.title)}, {_moment(copy.kept_at)}")
            assert action is not None
            action.triggered.connect(lambda _, copy=copy: self._open_copy(copy))
        if not copies:
            none = menu.addAction("None")
            assert none is not None
            none.setEnabled(False)

    def _open_copy(self, copy: Rescued) -> None:
        self._leave(lambda: self._take_up(copy))


_COPIES_ARE_THERE = "Other unsaved copies are listed under File, Unsaved copies."


def _moment(at: datetime) -> str:
    return at.strftime("%-d %B %Y, %H:%M")


def _free_place(path: Path, mark: str) -> Path:
    """A name beside a file that is not taken yet: "Evening (2).verve.json"."""
    stem = cut_name(path.name.removesuffix(SUFFIX), 200)
    place, number = path.with_name(f"{stem} ({mark}){SUFFIX}"), 2
    while place.exists():
        number += 1
        place = path.with_name(f"{stem} ({mark}, {number}){SUFFIX}")
    return place
