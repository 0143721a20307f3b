"""Listening in while recording software records: nothing moves or sounds; marks are told when nobody plays."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import (
    QFileDialog,
    QListWidget,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app.document import Document
from verve.app.tasks import Report, Stopped, Tasks
from verve.app.widgets.beside import Beside, group
from verve.app.widgets.far_sign import FarSign
from verve.app.widgets.labels import Elided, card, small_heading
from verve.core.check import mark_text, reference_of
from verve.core.sheets import SignText, watch_sign

if TYPE_CHECKING:
    from verve.devices import WatchRequest, WatchState

LiveRequest = Callable[[], "WatchRequest | None"]
_LANE = "watch"
_IDLE = SignText(
    word="Watch",
    number="",
    says="Verve listens beside your recording software: choose the folder it records into, or the device of the "
    "guided check. While somebody plays nothing moves here; what was wrong is told afterwards, with its time.",
    shape="ear",
)


class Watching(QObject):
    """Runs one watch beside the window."""

    reported = pyqtSignal(object)
    """A `WatchState`."""
    ended = pyqtSignal(object)
    """The last state, with all that was marked."""
    failed = pyqtSignal(str)

    def __init__(self, tasks: Tasks) -> None:
        super().__init__()
        self._tasks = tasks
        self._is_stopping = [False]

    @property
    def is_on(self) -> bool:
        """Whether it watches."""
        return self._tasks.is_busy(_LANE)

    def begin(self, request: WatchRequest) -> None:
        """Begin to watch."""
        from verve.devices import watch

        flag = self._is_stopping = [False]

        def work(report: Report, is_stopped: Stopped) -> object:
            return watch(request, report, lambda: flag[0] or is_stopped())

        self._tasks.run(
            _LANE, work, self.ended.emit, failed=self.failed.emit, reported=self.reported.emit
        )

    def finish(self) -> None:
        """End it, and tell what was marked."""
        self._is_stopping[0] = True

    def stop(self) -> None:
        """End it at once."""
        self._tasks.cancel(_LANE)


class WatchPage(QWidget):
    """Chooses what is watched; a sign while it goes on; the marks, with their times, when nobody plays."""

    alarmed = pyqtSignal(object)
    """Recording has stopped by itself: the `SignText` that must be seen now."""

    def __init__(self, document: Document, tasks: Tasks, request_of: LiveRequest) -> None:
        """`request_of` gives the watch of the device that the guided check listens to; None for simulated players."""
        super().__init__()
        self._document, self._request_of = document, request_of
        self.watching = Watching(tasks)
        self._state: WatchState | None = None
        self.folder: Path | None = None
        self._told = ""
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(6)
        self.folder_button = QPushButton("Watch a folder…")
        self.folder_button.setProperty("strong", "true")
        self.folder_button.setToolTip(
            "The folder your recording software records into: files are read as they grow, and never touched"
        )
        self.device_button = QPushButton("Watch the device")
        self.device_button.setToolTip(
            "Listens to the sound device that is chosen in the guided check, beside your recording software"
        )
        self.stop_button = QPushButton("Stop watching")
        self.stop_button.setToolTip("Ends it, and tells everything that was marked")
        self._where = Elided()
        outer.addWidget(
            Beside(group(self.folder_button, self.device_button), group(self.stop_button))
        )
        outer.addWidget(self._where)
        frame, inside = card()
        inside.setContentsMargins(8, 6, 8, 8)
        self.sign = FarSign()
        inside.addWidget(self.sign, 1)
        outer.addWidget(frame, 8)
        self._heading = small_heading("Marks")
        self._heading.setWordWrap(False)
        outer.addWidget(self._heading)
        self.list = QListWidget()
        self.list.setAccessibleName("What was marked, with its time")
        self.list.setToolTip("Time since the watch began, the signal, and what happened")
        outer.addWidget(self.list, 5)
        # ── connections ──
        self.folder_button.clicked.connect(self.choose_folder)
        self.device_button.clicked.connect(self.watch_device)
        self.stop_button.clicked.connect(self.watching.finish)
        self.watching.reported.connect(self._on_reported)
        self.watching.ended.connect(self._on_ended)
        self.watching.failed.connect(self._on_failed)
        self._show_idle()

    # ── drawing ───────────────────────────────────────────────────────────────────────────────
    def refresh(self) -> None:
        """Draw the document as it is now."""
        self._show_state()

    def _show_state(self) -> None:
        is_on = self.watching.is_on
        self.folder_button.setEnabled(not is_on)
        self.device_button.setEnabled(not is_on and self._request_of() is not None)
        self.stop_button.setEnabled(is_on)

    def _show_idle(self) -> None:
        self.sign.show_sign(_IDLE)
        self._show_state()

    def _on_reported(self, state: WatchState) -> None:
        self._state = state
        sign = watch_sign(
            state.seconds, len(state.marks), may_tell=state.may_tell, stopped=state.stopped
        )
        if state.stopped and not self._told.startswith(sign.word):
            self.alarmed.emit(sign)
        key = f"{sign.word} {state.may_tell}"
        if key == self._told and not state.may_tell and not state.stopped:
            # While somebody plays nothing here moves.
            return
        self._told = key
        self.sign.show_sign(sign)
        if state.may_tell:
            self._show_marks(state)

    def _show_marks(self, state: WatchState) -> None:
        said = [
            mark_text(
                mark,
                state.names.get(mark.line, mark.line),
                reference_of(self._document.session, mark.line),
            )
            for mark in state.marks
        ]
        if [self.list.item(n).text() for n in range(self.list.count())] != said:  # type: ignore[union-attr]
            self.list.clear()
            self.list.addItems(said)
            self.list.scrollToBottom()

    def _on_ended(self, state: WatchState) -> None:
        self._state, self._told = state, ""
        self.sign.show_sign(watch_sign(state.seconds, len(state.marks), may_tell=True, stopped=""))
        self._show_marks(state)
        self._show_state()

    def _on_failed(self, sentence: str) -> None:
        self._document.refused.emit(sentence)
        self._show_idle()

    # ── doing ─────────────────────────────────────────────────────────────────────────────────
    def choose_folder(self) -> None:
        """Ask for the folder, and watch it."""
        path = self._document.path
        start = str(self.folder or (path.parent if path else Path.home()))
        name = QFileDialog.getExistingDirectory(self, "Where does it record into?", start)
        if name:
            self.watch_folder(Path(name))

    def watch_folder(self, folder: Path) -> None:
        """Watch a folder."""
        from verve.devices import WatchRequest

        self.folder = folder
        self._where.show_text(str(folder))
        self._begin(WatchRequest(session=self._document.session, folder=folder))

    def watch_device(self) -> None:
        """Watch the device of the guided check."""
        request = self._request_of()
        if request is not None and request.live is not None:
            self._where.show_text(request.live.device.name)
            self._begin(request)

    def _begin(self, request: WatchRequest) -> None:
        self._told = ""
        self.list.clear()
        self.watching.begin(request)
        self.sign.show_sign(watch_sign(0.0, 0, may_tell=False, stopped=""))
        self._show_state()
