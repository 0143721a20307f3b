"""Rehearsals in the background: frozen requests with an id, stale answers dropped, nothing freezes."""

from __future__ import annotations

import itertools
import threading
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Literal

from PyQt6.QtCore import QObject, pyqtSignal

from verve.core.errors import VerveError
from verve.core.session import Play, Session, next_take

if TYPE_CHECKING:
    from verve.devices import Progress

State = Literal["idle", "listening", "recording"]


class Rehearsal(QObject):
    """Runs one rehearsal at a time on the simulated interface."""

    state_changed = pyqtSignal()
    progressed = pyqtSignal(object)
    """A `Progress` of the running rehearsal."""
    recorded = pyqtSignal(object)
    """The finished `Take`."""
    failed = pyqtSignal(str)

    _progress_came = pyqtSignal(object)
    _ended = pyqtSignal(int, object, str)

    def __init__(self, *, is_paced: bool = True) -> None:
        super().__init__()
        self._is_paced = is_paced
        self._numbers = itertools.count(1)
        self._current = 0
        self._state: State = "idle"
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None
        self.lines: tuple[str, ...] = ()
        self._progress_came.connect(self._on_progress)
        self._ended.connect(self._on_end)

    @property
    def state(self) -> State:
        """What is going on."""
        return self._state

    def record(
        self, session: Session, lines: tuple[str, ...], play: Play, seconds: float, base: Path
    ) -> None:
        """Begin to record a take into a new folder under `base`."""
        # Imported here: sound files and players are not needed before the first paint.
        from verve.devices import RecordRequest, free_folder, record

        self.cancel()
        take_id, take_name = next_take(session)
        try:
            request = RecordRequest(
                id=next(self._numbers),
                session=session,
                lines=lines,
                play=play,
                seconds=seconds,
                folder=free_folder(base, take_name),
                take_id=take_id,
                take_name=take_name,
                recorded_at=datetime.now().astimezone().isoformat(timespec="seconds"),
                is_paced=self._is_paced,
            )
        except VerveError as error:
            self.failed.emit(str(error))
            return
        self._begin(
            "recording",
            request.id,
            lines,
            lambda report, is_stopped: record(request, report, is_stopped),
        )

    def listen(self, session: Session, lines: tuple[str, ...], play: Play) -> None:
        """Begin to play the lines without recording."""
        from verve.devices import ListenRequest, listen

        self.cancel()
        request = ListenRequest(id=next(self._numbers), session=session, lines=lines, play=play)
        self._begin(
            "listening",
            request.id,
            lines,
            lambda report, is_stopped: listen(request, report, is_stopped),
        )

    def _begin(
        self,
        state: State,
        number: int,
        lines: tuple[str, ...],
        work: Callable[[Callable[[Progress], None], Callable[[], bool]], object],
    ) -> None:
        from verve.core.errors import CancelledError

        stop = threading.Event()

        def run() -> None:
            try:
                result = work(self._progress_came.emit, stop.is_set)
            except CancelledError:
                self._ended.emit(number, None, "")
            except VerveError as error:
                self._ended.emit(number, None, str(error))
            else:
                self._ended.emit(number, result, "")

        self._stop, self._current, self._state, self.lines = stop, number, state, lines
        self.state_changed.emit()
        self._thread = threading.Thread(target=run, name=f"rehearsal {number}", daemon=True)
        self._thread.start()

    def cancel(self) -> None:
        """End what is going on; of a cancelled recording nothing is kept."""
        if self._thread is not None:
            self._stop.set()
            self._thread.join(timeout=5.0)
            self._thread = None
        self._current = 0
        if self._state != "idle":
            self._state = "idle"
            self.state_changed.emit()

    def _on_progress(self, progress: Progress) -> None:
        if progress.id == self._current:
            self.progressed.emit(progress)

    def _on_end(self, number: int, result: object, error: str) -> None:
        if number != self._current:
            return
        self._thread = None
        self._current = 0
        self._state = "idle"
        self.state_changed.emit()
        if error:
            self.failed.emit(error)
        elif result is not None:
            self.recorded.emit(result)
